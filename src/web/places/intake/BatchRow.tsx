import { Check } from 'lucide-react'
import { type KeyboardEvent, memo, type Ref, useEffect, useState } from 'react'
import { Link, type Location } from 'react-router'
import type { FindingCode } from '#core/findings/finding'
import { type BatchItem, DECISIONS, type EditBatchItems, type Regroup } from '#shared/contracts/intake.contract'
import type { Category } from '#shared/contracts/items.contract'
import { FIX_WORDS } from '#shared/fix-words'
import { factWord } from '#shared/units'
import { Button } from '../../components/Button'
import { Choice, categoryOptions, optionsOf } from '../../components/Choice'
import { INPUT } from '../../components/Field'
import { FindingCounts, Findings } from '../../components/Findings'
import { PreviewFrame } from '../../components/PreviewFrame'
import { useAppSelector } from '../../state/hooks'
import { CONFLICT_WORDS, DECISION_WORDS } from '../../words/conflicts'
import { offWords } from '../../words/standard'
import { KIND_WORDS, roleWord } from '../../words/states'
import { AssignMenu } from './AssignMenu'
import { RowFiles } from './RowFiles'
import { ROW_GRID } from './row-grid'

/** What is done to a row; the same functions for all of them. */
export interface RowActions {
  onExpand: (id: number, expanded: boolean) => void
  onMark: (id: number, range: boolean) => void
  onChange: (id: number, patch: Omit<EditBatchItems, 'ids'>) => void
  onFix: (id: number, codes: FindingCode[], more?: { subject?: string; takeBack?: boolean }) => void
  onRegroup: (wish: Regroup) => void
  /** Accepts it, or with it everything that is marked. */
  onAccept: (item: BatchItem) => void
}

interface Props {
  ref: Ref<HTMLLIElement>
  /** Place in the list, and how far down it hangs in pixels. */
  index: number
  top: number
  batchId: number
  item: BatchItem
  categories: readonly Category[]
  mayEdit: boolean
  marked: boolean
  expanded: boolean
  actions: RowActions
  location: Location
}

/** Rendered again when the row itself changed, and not with every other one. */
export const BatchRow = memo(function BatchRow({
  ref,
  index,
  top,
  batchId,
  item,
  categories,
  mayEdit,
  marked,
  expanded,
  actions,
  location,
}: Props) {
  const { onRegroup } = actions
  const onExpand = (isExpanded: boolean) => actions.onExpand(item.id, isExpanded)
  const onMark = (range: boolean) => actions.onMark(item.id, range)
  const onChange = (patch: Omit<EditBatchItems, 'ids'>) => actions.onChange(item.id, patch)
  const onFix = (codes: FindingCode[], more?: { subject?: string; takeBack?: boolean }) => actions.onFix(item.id, codes, more)
  const isAccepted = item.state === 'accepted'
  const frozen = isAccepted || !mayEdit
  const isGuess = item.categoryConfidence < 0.5
  /** What a letter does to the row that has the focus. */
  const act = (key: string) => {
    const fixable = [...new Set(item.findings.flatMap(f => (f.fix ? [f.code as FindingCode] : [])))]
    if (key === 'f' && item.state === 'ready' && fixable.length > 0) onFix(fixable)
    else if (key === 's' && (item.state === 'ready' || item.state === 'setAside')) onChange({ setAside: item.state === 'ready' })
    else if (key === 'a' && item.state === 'ready') actions.onAccept(item)
  }
  const onKeyDown = (event: KeyboardEvent<HTMLElement>) => {
    const step = event.key === 'ArrowDown' ? 'nextElementSibling' : event.key === 'ArrowUp' ? 'previousElementSibling' : null
    if (step && event.target === event.currentTarget) {
      event.preventDefault()
      ;(event.currentTarget[step] as HTMLElement | null)?.focus()
    } else if (event.key === 'Enter' && event.target === event.currentTarget) {
      event.preventDefault()
      onExpand(!expanded)
    } else if (event.key === ' ' && event.target === event.currentTarget && !isAccepted) {
      event.preventDefault()
      onMark(event.shiftKey)
    } else if (event.target === event.currentTarget && !frozen && !event.ctrlKey && !event.metaKey && !event.altKey)
      act(event.key.toLowerCase())
  }
  const offRange = offWords({ ...item, missingFacts: [], proposedTags: null })
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
        <input
          type="checkbox"
          aria-label={`Mark ${item.name}`}
          checked={marked}
          disabled={isAccepted}
          onChange={() => {}}
          onClick={event => onMark(event.shiftKey)}
        />
        <RowPreview item={item} />
        <div className="min-w-0">
          <DraftField
            key={item.name}
            label={`Name of ${item.name}`}
            value={item.name}
            disabled={frozen}
            onSettle={name => name && onChange({ name })}
          />
          <p className="mt-0.5 truncate px-2 text-xs text-quiet">
            {KIND_WORDS[item.kind].one}
            {item.files.length > 1
              ? `, ${item.files.length} files`
              : item.files[0] && item.files[0].role !== item.kind
                ? `, ${roleWord(item.files[0].role)}`
                : ''}
            {!isAccepted && item.missingFacts.length > 0 && (
              <span className="text-ink">, without {item.missingFacts.map(factWord).join(', ')}</span>
            )}
            {item.sourceFolder && (
              <span title={[item.sourceFolder, item.tags.join(', ')].filter(Boolean).join('\n')}>, from {item.sourceFolder}</span>
            )}
          </p>
          {!isAccepted && offRange.length > 0 && (
            <p className="truncate px-2 text-xs" title={offRange.join('; ')}>
              {offRange.join('; ')}
            </p>
          )}
          {!frozen && item.proposedName !== null && (
            <button
              type="button"
              className="max-w-full truncate px-2 text-left text-xs hover:underline"
              onClick={() => onChange({ name: item.proposedName ?? item.name })}
            >
              by the pattern: <strong className="font-medium">{item.proposedName}</strong>
            </button>
          )}
        </div>
        <Choice
          label={`Category of ${item.name}`}
          className="w-full"
          value={item.category}
          disabled={frozen}
          onChange={category => onChange({ category })}
          title={isGuess ? 'A guess; please look' : undefined}
          options={categoryOptions(categories.filter(c => c.kind === item.kind)).map(option =>
            isGuess && option.value === item.category ? { ...option, text: `${option.text} ?` } : option,
          )}
        />
        {item.kind === 'material' && item.files.some(f => f.role !== 'definition') ? (
          <div>
            <div className="flex items-center gap-1.5">
              <DraftField
                key={item.widthMm}
                label={`Repeat width of ${item.name} in millimetres`}
                value={item.widthMm === null ? '' : String(item.widthMm)}
                disabled={frozen}
                figures
                missing={item.needsWidth}
                onSettle={text => {
                  const widthMm = Number(text.replace(',', '.'))
                  if (text === '') onChange({ widthMm: null })
                  else if (widthMm > 0) onChange({ widthMm })
                }}
              />
              <span className="text-xs text-quiet">mm</span>
            </div>
            <Choice
              label={`Whether ${item.name} repeats`}
              variant="plain"
              className="mt-0.5 -ml-1 text-xs text-quiet"
              value={item.tiling}
              disabled={frozen}
              onChange={tiling => onChange({ tiling })}
              options={[
                { value: 'repeat', text: 'repeats' },
                { value: 'once', text: 'stands once' },
              ]}
            />
          </div>
        ) : (
          <span />
        )}
        <span className="figures text-xs">{measured(item)}</span>
        <button
          type="button"
          className="justify-self-start text-left hover:underline"
          aria-expanded={expanded}
          onClick={() => onExpand(!expanded)}
        >
          {item.state === 'measuring' && item.findings.length === 0 ? (
            <span className="sr-only">Not measured yet</span>
          ) : (
            <FindingCounts list={item.findings} />
          )}
        </button>
        <div className="flex justify-end">
          {isAccepted && item.itemCode ? (
            <Link to={`/items/${item.itemCode}`} state={{ behind: location }} className="figures text-xs underline">
              {item.itemCode}
            </Link>
          ) : (
            mayEdit &&
            (item.state === 'setAside' ? (
              <Button variant="bare" onClick={() => onChange({ setAside: false })}>
                Take back
              </Button>
            ) : (
              <>
                {item.state === 'failed' && (
                  <Button variant="bare" onClick={() => onChange({ measureAgain: true })}>
                    Try again
                  </Button>
                )}
                {item.state === 'ready' && (
                  <Button variant="bare" onClick={() => onChange({ setAside: true })}>
                    Set aside
                  </Button>
                )}
              </>
            ))
          )}
        </div>
      </div>
      {item.twinOf !== null && !isAccepted && (
        <p className="pb-2 pl-10 text-quiet">
          The same to the pixel as <strong className="font-medium text-ink">{item.twinOf}</strong> in this delivery. Accepted with
          it, it is linked to it, not kept twice.{' '}
          {!frozen && (
            <button type="button" className="underline" onClick={() => onChange({ decision: 'keepBoth' })}>
              Accept it as well
            </button>
          )}
        </p>
      )}
      {item.conflict && <ConflictLine item={item} frozen={frozen} onChange={onChange} location={location} />}
      {item.message && <p className="pb-2 pl-10 font-medium">{item.message}</p>}
      {expanded && (
        <div className="grid grid-cols-2 gap-8 pb-4 pl-10">
          <div>
            {item.findings.length > 0 ? (
              <Findings
                list={item.findings}
                onFix={
                  frozen || item.state !== 'ready'
                    ? undefined
                    : f => onFix([f.code as FindingCode], f.subject ? { subject: f.subject } : {})
                }
                more={f =>
                  f.code === 'defaultSurface' && f.subject && !frozen && item.state === 'ready' ? (
                    <div className="mt-1.5">
                      <AssignMenu
                        batchId={batchId}
                        itemId={item.id}
                        part={f.subject}
                        bare={item.findings.flatMap(x => (x.code === 'defaultSurface' && x.subject ? [x.subject] : []))}
                      />
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
                        onClick={() => onFix([f.finding], { ...(f.subject ? { subject: f.subject } : {}), takeBack: true })}
                      >
                        Take back
                      </Button>
                    )}
                  </li>
                ))}
              </ul>
            )}
          </div>
          <RowFiles item={item} frozen={frozen} onRegroup={onRegroup} />
        </div>
      )}
    </li>
  )
})

/** What the library holds that this may be, beside it, and what is to become of it. */
function ConflictLine({
  item,
  frozen,
  onChange,
  location,
}: Pick<Props, 'item' | 'location'> & {
  frozen: boolean
  onChange: (patch: Omit<EditBatchItems, 'ids'>) => void
}) {
  const { conflict, decision } = item
  if (!conflict) return null
  return (
    <div className="flex items-center gap-3 pb-2 pl-10">
      {conflict.preview && <img src={conflict.preview} alt="" className="aspect-[4/3] w-24 bg-mount object-cover" />}
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
        <Button onClick={() => onChange({ name: conflict.otherName ?? item.name })}>Call it {conflict.otherName}</Button>
      )}
      <Choice
        label={`What becomes of ${item.name}`}
        className="w-44"
        value={decision ?? 'keepBoth'}
        disabled={frozen}
        onChange={decision => onChange({ decision })}
        options={optionsOf(DECISIONS, DECISION_WORDS)}
      />
    </div>
  )
}

/** The rendered preview; until there is one, the base colour map itself says which row this is. */
function RowPreview({ item }: { item: BatchItem }) {
  const map = item.files.find(f => f.role === 'baseColor')
  if (!item.preview && item.needsWidth)
    return map ? (
      <img
        src={map.url}
        alt=""
        loading="lazy"
        className="aspect-[4/3] w-full object-cover"
        title="The base colour map; it is rendered when its width is known"
      />
    ) : (
      <div className="flex aspect-[4/3] w-full items-center justify-center bg-mount px-2 text-center text-2xs text-quiet">
        needs its width
      </div>
    )
  return <RenderedPreview item={item} />
}

function RenderedPreview({ item }: { item: BatchItem }) {
  const share = useAppSelector(s => s.live.byInput[item.inputKey])
  return <PreviewFrame url={item.preview} alt="" share={share} />
}

function measured(item: BatchItem): string {
  if (item.state === 'measuring') return 'measuring…'
  const { facts } = item
  const parts = [
    item.kind === 'material' && typeof facts.widthPx === 'number' && facts.widthPx > 0
      ? `${facts.widthPx} × ${facts.heightPx} px`
      : '',
    item.kind !== 'material' ? item.figure : '',
    typeof item.givenFacts.specifiedColor === 'string' && typeof facts.colorDeltaE00 === 'number'
      ? `${item.givenFacts.specifiedColor}, ΔE00 ${facts.colorDeltaE00.toFixed(1)}`
      : '',
    typeof facts.triangles === 'number' ? `${facts.triangles.toLocaleString('en-GB').replaceAll(',', '\u202f')} triangles` : '',
    item.kind === 'environment' && typeof facts.dynamicRangeStops === 'number'
      ? `${facts.dynamicRangeStops.toFixed(1)} stops`
      : '',
  ]
  return parts.filter(Boolean).join(', ')
}

interface DraftFieldProps {
  label: string
  value: string
  disabled: boolean
  figures?: boolean
  missing?: boolean
  onSettle: (text: string) => void
}

/** A field that keeps what is typed until Enter or leaving; Escape takes it back. */
function DraftField({ label, value, disabled, figures, missing, onSettle }: DraftFieldProps) {
  const [text, setText] = useState(value)
  useEffect(() => setText(value), [value])
  const settle = () => {
    if (text.trim() !== value) onSettle(text.trim())
  }
  return (
    <input
      aria-label={label}
      value={text}
      disabled={disabled}
      onChange={e => setText(e.target.value)}
      onBlur={settle}
      onKeyDown={e => {
        if (e.key === 'Enter') e.currentTarget.blur()
        if (e.key === 'Escape') setText(value)
      }}
      placeholder={missing ? 'needed' : ''}
      inputMode={figures ? 'decimal' : undefined}
      className={`${INPUT} w-full ${figures ? 'figures text-right' : ''} ${missing ? 'border-2 border-ink' : ''}`}
    />
  )
}
