import { type KeyboardEvent, memo, type Ref } from 'react'
import type { FindingCode } from '#core/findings/finding'
import type { BatchItem } from '#shared/contracts/intake.contract'
import { formatNumber } from '#shared/units'
import { CategoryChoice } from '../../../../components/controls/CategoryChoice'
import { CheckBox } from '../../../../components/controls/CheckBox'
import { FindingCounts } from '../../../../components/Findings'
import { useFrozen, useWorklist } from '../state/worklist-context'
import { ConflictLine } from './ConflictLine'
import { RowDetail } from './RowDetail'
import { RowEnd } from './RowEnd'
import { RowName } from './RowName'
import { RowPreview } from './RowPreview'
import { RowWidth } from './RowWidth'
import { ROW_GRID } from './row-grid'
import { measuredWords, voteWhat } from './row-words'

interface Props {
  ref: Ref<HTMLLIElement>
  /** Place in the list, and how far down it hangs in pixels. */
  index: number
  top: number
  item: BatchItem
  marked: boolean
  expanded: boolean
}

/** One item of a delivery on its way into the library. */
export const BatchRow = memo(function BatchRow({ ref, index, top, item, marked, expanded }: Props) {
  const { actions, categories } = useWorklist()
  const frozen = useFrozen(item)
  const onKeyDown = useRowKeys(item, expanded)
  const isAccepted = item.state === 'accepted'
  return (
    <li
      ref={ref}
      data-index={index}
      style={{ transform: `translateY(${top}px)` }}
      // biome-ignore lint/a11y/noNoninteractiveTabindex: rows are walked through with the arrow keys
      tabIndex={0}
      onKeyDown={onKeyDown}
      className={`absolute top-0 left-0 w-full border-b border-line ${marked ? 'bg-sheet' : ''} ${item.state === 'setAside' ? 'opacity-60' : ''}`}
    >
      <div className={`${ROW_GRID} py-2`}>
        <CheckBox
          label={`Mark ${item.name}`}
          isLabelHidden
          checked={marked}
          disabled={isAccepted}
          onChange={(_, withShift) => actions.onMark(item.id, withShift)}
        />
        <RowPreview item={item} />
        <RowName item={item} />
        <div className="min-w-0">
          {frozen ? (
            <p className="truncate px-2">{categories.find(c => c.path === item.category)?.title}</p>
          ) : (
            <CategoryChoice
              label={`Category of ${item.name}`}
              className="w-full"
              categories={categories.filter(c => c.kind === item.kind)}
              value={item.category}
              onChange={category => actions.onChange(item.id, { category })}
            />
          )}
          {!isAccepted && <CategoryReason item={item} />}
        </div>
        <RowWidth item={item} />
        <span className="text-xs tabular-nums">{measuredWords(item)}</span>
        <button
          type="button"
          className="justify-self-start text-left hover:underline"
          aria-expanded={expanded}
          onClick={() => actions.onExpand(item.id, !expanded)}
        >
          {item.state === 'measuring' && item.findings.length === 0 ? (
            <span className="sr-only">Not measured yet</span>
          ) : (
            <FindingCounts list={item.findings} />
          )}
        </button>
        <RowEnd item={item} />
      </div>
      {item.twinOf !== null && !isAccepted && (
        <p className="pb-2 pl-10 text-quiet">
          The same to the pixel as <strong className="font-medium text-ink">{item.twinOf}</strong> in this delivery. Accepted with
          it, it is linked to it, not kept twice.{' '}
          {!frozen && (
            <button type="button" className="underline" onClick={() => actions.onChange(item.id, { decision: 'keepBoth' })}>
              Accept it as well
            </button>
          )}
        </p>
      )}
      {item.conflict && <ConflictLine item={item} conflict={item.conflict} />}
      {item.message && <p className="pb-2 pl-10 font-medium">{item.message}</p>}
      {expanded && <RowDetail item={item} />}
    </li>
  )
})

/** What a key does to the row that has the focus; in its fields keys do what they do everywhere. */
function useRowKeys(item: BatchItem, expanded: boolean): (event: KeyboardEvent<HTMLElement>) => void {
  const { actions } = useWorklist()
  const frozen = useFrozen(item)
  const isReady = item.state === 'ready'
  const fixable = () => [...new Set(item.findings.flatMap(f => (f.fix ? [f.code as FindingCode] : [])))]
  const keys: Record<string, (event: KeyboardEvent<HTMLElement>) => void> = {
    arrowdown: event => focusBeside(event.currentTarget, 'nextElementSibling'),
    arrowup: event => focusBeside(event.currentTarget, 'previousElementSibling'),
    enter: () => actions.onExpand(item.id, !expanded),
    ...(item.state === 'accepted' ? {} : { ' ': event => actions.onMark(item.id, event.shiftKey) }),
    ...(!frozen && isReady && fixable().length > 0 ? { f: () => actions.onFix(item.id, fixable()) } : {}),
    ...(!frozen && isReady ? { a: () => actions.onAccept(item) } : {}),
    ...(!frozen && (isReady || item.state === 'setAside') ? { s: () => actions.onChange(item.id, { setAside: isReady }) } : {}),
  }
  return event => {
    if (event.target !== event.currentTarget || event.ctrlKey || event.metaKey || event.altKey) return
    const act = keys[event.key.toLowerCase()]
    if (!act) return
    event.preventDefault()
    act(event)
  }
}

/** The next row that takes the focus; headings between them do not. */
function focusBeside(row: HTMLElement, side: 'nextElementSibling' | 'previousElementSibling'): void {
  let beside = row[side]
  while (beside instanceof HTMLElement && beside.tabIndex < 0) beside = beside[side]
  if (beside instanceof HTMLElement) beside.focus()
}

/** Why it stands where it does, where nobody has said so; in full under the pointer. */
function CategoryReason({ item: { category, categoryConfidence, votes } }: { item: BatchItem }) {
  const { categories } = useWorklist()
  if (categoryConfidence >= SURE) return null
  const titleOf = (path: string) => categories.find(c => c.path === path)?.title ?? path
  const told = votes
    .map(v => `${titleOf(v.category)}: ${VOTE_WORDS[v.from]} ${voteWhat(v)}, weight ${formatNumber(v.weight, 2)}`)
    .join('\n')
  const best = votes.find(v => v.category === category)
  return (
    <p className="mt-0.5 truncate px-2 text-xs text-quiet" title={told || undefined}>
      {categoryConfidence < 0.5 ? 'not known; please choose' : best ? `${VOTE_WORDS[best.from]} ${voteWhat(best)}` : 'a guess'}
    </p>
  )
}

/** From here on somebody said so. */
const SURE = 0.94
const VOTE_WORDS = {
  name: 'by the word',
  folder: 'by the folder',
  measured: 'measured:',
  maker: 'by what the maker sent before:',
} as const
