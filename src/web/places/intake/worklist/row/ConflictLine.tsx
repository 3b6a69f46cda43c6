import { Link } from 'react-router'
import { type BatchItem, DECISIONS } from '#shared/contracts/intake.contract'
import { smallestOf } from '#shared/picture-widths'
import { Button } from '../../../../components/controls/Button'
import { Choice, optionsOf } from '../../../../components/controls/Choice'
import { CONFLICT_WORDS, DECISION_WORDS } from '../../../../words/conflicts'
import { useFrozen, useWorklist } from '../state/worklist-context'

interface Props {
  item: BatchItem
  conflict: NonNullable<BatchItem['conflict']>
}

/** What the library holds that this may be, beside it, and what is to become of it. */
export function ConflictLine({ item, conflict }: Props) {
  const { actions, location } = useWorklist()
  const frozen = useFrozen(item)
  return (
    <div className="flex items-center gap-3 pb-2 pl-10">
      {conflict.preview && <img src={smallestOf(conflict.preview)} alt="" className="aspect-[4/3] w-24 bg-mount object-cover" />}
      <p className="min-w-0">
        {CONFLICT_WORDS[conflict.kind]}{' '}
        <Link to={`/items/${conflict.code}`} state={{ behind: location }} className="font-medium underline">
          {conflict.name}
        </Link>{' '}
        <span className="figures text-xs">{conflict.code}</span>
        {conflict.differentBits !== null && conflict.kind !== 'identical' && (
          <span className="ml-2 text-xs text-quiet">
            {conflict.differentBits === 0 ? 'looks the same' : `looks differ in ${conflict.differentBits} of 64 bits`}
          </span>
        )}
      </p>
      {conflict.otherName !== null && !frozen && (
        <Button onClick={() => actions.onChange(item.id, { name: conflict.otherName ?? item.name })}>
          Call it {conflict.otherName}
        </Button>
      )}
      <Choice
        label={`What becomes of ${item.name}`}
        className="w-44"
        value={item.decision ?? 'keepBoth'}
        disabled={frozen}
        onChange={decision => actions.onChange(item.id, { decision })}
        options={optionsOf(DECISIONS, DECISION_WORDS)}
      />
    </div>
  )
}
