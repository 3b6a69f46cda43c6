import { useState } from 'react'
import { Link } from 'react-router'
import { toast } from 'sonner'
import { ITEM_KINDS, type ItemKind } from '#core/standard/categories'
import { type Decide, type Decision, MOST_DECIDED } from '#shared/contracts/decisions.contract'
import type { Project } from '#shared/contracts/projects.contract'
import { sendTelling, tellProblem } from '../../../components/bulk-words'
import { Button } from '../../../components/controls/Button'
import { CheckBox } from '../../../components/controls/CheckBox'
import { Choice } from '../../../components/controls/Choice'
import { EmptyState, Skeleton, Trouble } from '../../../components/Notice'
import { PageHead } from '../../../components/Page'
import { PreviewFrame } from '../../../components/PreviewFrame'
import { useKey } from '../../../components/use-key'
import { useDecideMutation, useListDecisionsQuery } from '../../../state/api'
import { KIND_WORDS, plural } from '../../../words/states'
import { OpenProject } from '../OpenProject'
import { DecisionView } from './DecisionView'
import { StayDialog } from './StayDialog'

/** What a project has to decide: newer versions of what it pins, and what was withdrawn; each with what would change. */
export const DecisionsPlace = () => <OpenProject>{project => <Decisions project={project} />}</OpenProject>

function Decisions({ project }: { project: Project }) {
  const { data: all, error, refetch } = useListDecisionsQuery({ id: project.id })
  const [kind, setKind] = useState<ItemKind | 'all'>('all')
  const [withStays, setWithStays] = useState(false)
  const [marked, setMarked] = useState<readonly number[]>([])
  const [at, setAt] = useState<number | null>(null)
  const [staying, setStaying] = useState<readonly number[] | null>(null)
  const [decide, { isLoading }] = useDecideMutation()
  const shown = (all ?? []).filter(d => (kind === 'all' || d.kind === kind) && (withStays || d.stays === null))
  const current = shown.find(d => d.itemId === at) ?? shown[0]
  const chosen = marked.filter(id => shown.some(d => d.itemId === id))
  const open = (all ?? []).filter(d => d.stays === null).length

  const decideAll = ({ ids, ...given }: Decide) =>
    sendTelling(ids, MOST_DECIDED, part => decide({ id: project.id, ids: part, ...given }))
  const send = async (given: Decide) => {
    const {
      all: { changed, refused },
      error: trouble,
    } = await decideAll(given)
    // What was decided before it broke off is decided.
    if (trouble) tellProblem(trouble)
    else setMarked([])
    if (refused[0]) toast.warning(`${refused[0].code}: ${refused[0].reason}`)
    if (changed.length === 0) return
    const what = { take: 'taken', stay: 'left as they are', undo: 'open again' }[given.kind]
    toast.success(`${plural(changed.length, 'item')} ${what}.`, {
      action:
        given.kind === 'undo' ? undefined : { label: 'Undo', onClick: () => void decideAll({ ids: changed, kind: 'undo' }) },
    })
  }
  const go = (by: number) => {
    const index = shown.findIndex(d => d.itemId === current?.itemId)
    const next = shown[Math.min(shown.length - 1, Math.max(0, index + by))]
    if (next) setAt(next.itemId)
  }
  const mayDecide = project.mayDecide && project.phase === 'open'
  useKey('j', () => go(1))
  useKey('k', () => go(-1))
  useKey('t', () => {
    if (mayDecide && current && !current.isWithdrawn) void send({ ids: [current.itemId], kind: 'take' })
  })
  useKey('s', () => {
    if (mayDecide && current) setStaying([current.itemId])
  })

  return (
    <div className="flex h-full flex-col px-6 pt-4">
      <PageHead
        from={{ to: `/projects/${project.id}`, text: `${project.code} ${project.title}` }}
        title="Newer versions"
        facts={all && (open === 0 ? 'nothing to decide' : `${open} to decide`)}
        actions={
          <>
            <CheckBox label="Those that stay too" checked={withStays} onChange={setWithStays} />
            <Choice
              label="Kind"
              value={kind}
              onChange={setKind}
              options={[
                { value: 'all', text: 'every kind' },
                ...ITEM_KINDS.filter(k => all?.some(d => d.kind === k)).map(value => ({ value, text: KIND_WORDS[value].many })),
              ]}
              className="w-36"
            />
            <Button
              disabled={!mayDecide || shown.length === 0}
              onClick={() => setStaying(chosen.length > 0 ? chosen : shown.map(d => d.itemId))}
            >
              {chosen.length > 0 ? `Leave ${chosen.length}` : 'Leave all'}
            </Button>
            <Button
              disabled={!mayDecide || isLoading || shown.length === 0}
              onClick={() =>
                send({
                  ids: chosen.length > 0 ? [...chosen] : shown.filter(d => !d.isWithdrawn).map(d => d.itemId),
                  kind: 'take',
                })
              }
            >
              {chosen.length > 0 ? `Take ${chosen.length}` : 'Take all'}
            </Button>
          </>
        }
      />
      {error ? (
        <Trouble error={error} onRetry={refetch} />
      ) : !all ? (
        <Skeleton className="h-96" />
      ) : shown.length === 0 ? (
        <EmptyState title={all.length > 0 ? 'Nothing of this kind to decide.' : 'Everything here is up to date.'}>
          <Link to={`/projects/${project.id}`} className="underline">
            To the project
          </Link>
        </EmptyState>
      ) : (
        <div className="grid min-h-0 flex-1 grid-cols-[17rem_minmax(0,1fr)] gap-6">
          <ul aria-label="To decide" className="min-h-0 overflow-y-auto border-t border-line pb-6">
            {shown.map(d => (
              <DecisionLine
                key={d.itemId}
                decision={d}
                isCurrent={d.itemId === current?.itemId}
                isMarked={marked.includes(d.itemId)}
                onOpen={() => setAt(d.itemId)}
                onMark={on => setMarked(on ? [...marked, d.itemId] : marked.filter(id => id !== d.itemId))}
              />
            ))}
          </ul>
          {current && (
            <DecisionView
              key={current.itemId}
              decision={current}
              project={project}
              mayDecide={mayDecide}
              onTake={() => send({ ids: [current.itemId], kind: 'take' })}
              onStay={() => setStaying([current.itemId])}
              onAgain={() => send({ ids: [current.itemId], kind: 'undo' })}
            />
          )}
        </div>
      )}
      {staying && (
        <StayDialog
          count={staying.length}
          onStay={given => {
            setStaying(null)
            void send({ ids: [...staying], kind: 'stay', ...given })
          }}
          onClose={() => setStaying(null)}
        />
      )}
    </div>
  )
}

function DecisionLine({
  decision: d,
  isCurrent,
  isMarked,
  onOpen,
  onMark,
}: {
  decision: Decision
  isCurrent: boolean
  isMarked: boolean
  onOpen: () => void
  onMark: (on: boolean) => void
}) {
  return (
    <li className={`flex items-center gap-2 border-b border-line py-2 pr-1 pl-2 ${isCurrent ? 'bg-mount' : ''}`}>
      <CheckBox label={`Mark ${d.code}`} isLabelHidden checked={isMarked} onChange={onMark} />
      <button
        type="button"
        aria-current={isCurrent}
        onClick={onOpen}
        className="flex min-w-0 flex-1 items-center gap-2.5 text-left"
      >
        <span className="w-14 shrink-0">
          <PreviewFrame url={d.to.preview?.url ?? null} alt="" />
        </span>
        <span className="min-w-0">
          <span className={`block truncate ${isCurrent ? 'font-medium' : ''}`}>{d.name}</span>
          <span className="figures block truncate text-xs text-quiet">
            {d.code} {d.isWithdrawn ? 'withdrawn' : `v${d.from.number} to v${d.to.number}`}
          </span>
          <span className="block truncate text-xs text-quiet">{d.stays ? 'stays' : sayDifference(d)}</span>
        </span>
      </button>
    </li>
  )
}

/** How different it looks, in a word and a figure. */
export function sayDifference({ difference: d, isWithdrawn }: Pick<Decision, 'difference' | 'isWithdrawn'>): string {
  if (d.state === 'waiting') return 'being compared…'
  if (d.state === 'none') return isWithdrawn ? 'choose what comes instead' : 'looks not comparable'
  const word = d.meanFlip < 0.005 ? 'looks the same' : d.meanFlip < 0.03 ? 'looks a little different' : 'looks different'
  return `${word}, FLIP ${d.meanFlip.toFixed(3)}`
}
