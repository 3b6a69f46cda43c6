import { Check } from 'lucide-react'
import type { FindingCode } from '#core/findings/finding'
import type { BatchItem } from '#shared/contracts/intake.contract'
import { FIX_WORDS } from '#shared/fix-words'
import { Button } from '../../../../components/controls/Button'
import { DraftField } from '../../../../components/controls/DraftField'
import { Labelled } from '../../../../components/controls/Field'
import { Findings } from '../../../../components/Findings'
import { useFrozen, useWorklist } from '../state/worklist-context'
import { AssignMenu } from './AssignMenu'
import { RowFiles } from './RowFiles'

const LISTS = [
  ['tags', 'Tags'],
  ['uses', 'Rooms and uses'],
] as const

/** By which it will be found: what was read, until somebody says otherwise; emptied, it is what was read again. */
function RowWords({ item }: { item: BatchItem }) {
  const { actions } = useWorklist()
  return (
    <div className="grid grid-cols-2 gap-3">
      {LISTS.map(([list, title]) => (
        <Labelled
          key={list}
          label={title}
          hint={item.givenFacts[list] === undefined && item[list].length > 0 ? 'as they were read; say others' : undefined}
        >
          <DraftField
            label={`${title} of ${item.name}`}
            className="w-full"
            value={item[list].join(', ')}
            onSettle={text => actions.onChange(item.id, { facts: { [list]: text || null } })}
          />
        </Labelled>
      ))}
    </div>
  )
}

/** The unfolded row: its findings with their pictures, the fixes in force, its files. */
export function RowDetail({ item }: { item: BatchItem }) {
  const { actions, batchId } = useWorklist()
  const frozen = useFrozen(item)
  const mayFix = !frozen && item.state === 'ready'
  const bareParts = item.findings.flatMap(f => (f.code === 'defaultSurface' && f.subject ? [f.subject] : []))
  return (
    <div className="grid grid-cols-2 gap-8 pb-4 pl-10">
      <div>
        {item.findings.length > 0 ? (
          <Findings
            list={item.findings}
            onFix={
              mayFix ? f => actions.onFix(item.id, [f.code as FindingCode], f.subject ? { subject: f.subject } : {}) : undefined
            }
            more={f =>
              mayFix && f.code === 'defaultSurface' && f.subject ? (
                <div className="mt-1.5">
                  <AssignMenu batchId={batchId} itemId={item.id} part={f.subject} bare={bareParts} />
                </div>
              ) : null
            }
          />
        ) : (
          <p className="text-quiet">Every check passed.</p>
        )}
        {item.fixes.length > 0 && (
          <ul className="mt-3 border-t border-line">
            {item.fixes.map((f, i) => (
              <li key={i} className="flex items-center gap-2 border-b border-line py-0.5">
                <Check aria-hidden className="size-4 shrink-0" />
                <span className="min-w-0 flex-1">
                  {FIX_WORDS[f.code].done}
                  {f.subject && <span className="figures ml-1.5 text-xs">{f.subject.split('/').pop()}</span>}
                </span>
                {!frozen && (
                  <Button
                    variant="bare"
                    disabled={item.state !== 'ready'}
                    onClick={() =>
                      actions.onFix(item.id, [f.finding], { ...(f.subject ? { subject: f.subject } : {}), takeBack: true })
                    }
                  >
                    Take back
                  </Button>
                )}
              </li>
            ))}
          </ul>
        )}
      </div>
      <div className="flex flex-col gap-3">
        {!frozen && <RowWords item={item} />}
        <RowFiles item={item} frozen={frozen} onRegroup={actions.onRegroup} />
      </div>
    </div>
  )
}
