import { ChevronDown, ChevronUp, Search } from 'lucide-react'
import { type KeyboardEvent, useRef, useState } from 'react'
import type { Chip } from '#shared/contracts/chip.contract'
import { Choice } from '../../components/controls/Choice'
import { CONTROL } from '../../components/controls/control-look'
import { Tabs } from '../../components/controls/Tabs'
import { PreviewFrame } from '../../components/PreviewFrame'
import { useEnterFirst } from '../../components/use-enter-first'
import { useKey } from '../../components/use-key'
import { useSettled } from '../../components/use-settled'
import { useGetWallQuery } from '../../state/api'
import { useAppSelector } from '../../state/hooks'
import { carryIds } from '../wall/carried-items'

const SOURCES = ['found', 'tray', 'used'] as const
type Source = (typeof SOURCES)[number]
const KINDS = { all: 'everything', model: 'models', material: 'materials', environment: 'skies', light: 'lights' } as const
type Kind = keyof typeof KINDS
const SHOWN = 60

interface Props {
  /** Libraries that are searched, as a filter of the wall. */
  library: string
  isOpen: boolean
  onOpen: (isOpen: boolean) => void
  /** Ids of items that were brought in here, the last first. */
  used: readonly number[]
  onBring: (chip: Chip) => void
}

/** A strip of the wall along the lower edge: searched, dragged from, or taken from by Enter. */
export function Shelf({ library, isOpen, onOpen, used, onBring }: Props) {
  const [words, setWords] = useState('')
  const [kind, setKind] = useState<Kind>('all')
  const [source, setSource] = useState<Source>('found')
  const tray = useAppSelector(s => s.tray.chips)
  const field = useRef<HTMLInputElement>(null)
  const settled = useSettled(words, 120)
  const kinds = kind === 'all' ? 'material|model|environment|light' : kind
  const { data, isFetching } = useGetWallQuery(
    { words: settled, library, kind: kinds, state: 'approved|inReview|draft', counts: 'no', offset: 0, limit: SHOWN } as never,
    { skip: !isOpen || source === 'tray' },
  )
  const found = data?.chips ?? []
  const isOfKind = (chip: Chip) => kind === 'all' || chip.kind === kind
  const chips = source === 'tray' ? tray.filter(isOfKind) : source === 'used' ? found.filter(c => used.includes(c.id)) : found
  const isCurrent = source === 'tray' || (settled === words && !isFetching && data !== undefined)
  const first = useEnterFirst(isCurrent ? chips : null, onBring)
  useKey('/', event => {
    event.preventDefault()
    onOpen(true)
    field.current?.focus()
  })
  return (
    <section
      aria-label="Shelf"
      data-over-view
      className="absolute inset-x-0 bottom-0 z-10 border-t border-line bg-surround/95 px-6"
    >
      <div className="flex h-11 items-center gap-3">
        <div className="relative w-64">
          <Search aria-hidden className="pointer-events-none absolute top-2 left-2 size-4 text-quiet" />
          <input
            ref={field}
            type="search"
            aria-label="Search the library"
            placeholder="Search the library"
            value={words}
            onFocus={() => onOpen(true)}
            onChange={event => {
              setWords(event.target.value)
              setSource('found')
              first.forget()
            }}
            onBlur={first.forget}
            onKeyDown={event => {
              if (event.key === 'Enter') first.enter()
              if (event.key !== 'Escape') return
              // The browser would empty the field; what was looked for stays, and the keys are the scene's again.
              event.preventDefault()
              event.currentTarget.blur()
            }}
            className={`${CONTROL} w-full pl-8`}
          />
        </div>
        <Choice
          label="Kind"
          value={kind}
          onChange={setKind}
          options={(Object.keys(KINDS) as Kind[]).map(value => ({ value, text: KINDS[value] }))}
          className="w-32"
        />
        {isOpen && (
          <Tabs
            label="From where"
            value={source}
            onChange={setSource}
            tabs={[
              { value: 'found', text: 'Library' },
              { value: 'tray', text: `Tray ${tray.length}` },
              { value: 'used', text: 'Used here' },
            ]}
          />
        )}
        {isOpen && (
          <span role="status" className="text-xs text-quiet">
            {source === 'found' && data ? `${data.total.toLocaleString('en')} found` : ''}
          </span>
        )}
        <button
          type="button"
          aria-expanded={isOpen}
          onClick={() => onOpen(!isOpen)}
          className="ml-auto flex h-8 items-center gap-1.5 rounded-sm px-2 text-quiet hover:bg-mount hover:text-ink"
        >
          {isOpen ? 'Fold the shelf' : 'Open the shelf'}
          {isOpen ? <ChevronDown aria-hidden className="size-4" /> : <ChevronUp aria-hidden className="size-4" />}
        </button>
      </div>
      {isOpen && <Strip chips={chips} isBusy={isFetching} source={source} onBring={onBring} />}
    </section>
  )
}

const NOTHING: Record<Source, string> = {
  found: 'Nothing in the library is called that.',
  tray: 'The tray is empty. Put items in it on the wall, or search here.',
  used: 'Nothing was brought in here yet.',
}

function Strip({
  chips,
  isBusy,
  source,
  onBring,
}: {
  chips: readonly Chip[]
  isBusy: boolean
  source: Source
  onBring: (chip: Chip) => void
}) {
  const onKeyDown = (event: KeyboardEvent<HTMLUListElement>) => {
    const step = event.key === 'ArrowRight' ? 1 : event.key === 'ArrowLeft' ? -1 : 0
    if (step === 0) return
    event.preventDefault()
    event.stopPropagation()
    const all = [...event.currentTarget.querySelectorAll<HTMLElement>('button')]
    all[all.indexOf(document.activeElement as HTMLElement) + step]?.focus()
  }
  if (chips.length === 0 && !isBusy) return <p className="flex h-[6.75rem] items-center text-quiet">{NOTHING[source]}</p>
  return (
    <ul onKeyDown={onKeyDown} className="flex h-[6.75rem] gap-2 overflow-x-auto overflow-y-hidden pb-1">
      {chips.map(chip => (
        <li key={chip.id} className="w-24 shrink-0">
          <button
            type="button"
            draggable
            title={`${chip.name}, ${chip.code}. Drag it into the picture, or press Enter.`}
            onDragStart={event => carryIds(event, [chip.id])}
            onClick={() => onBring(chip)}
            className="block w-full cursor-grab bg-mount text-left hover:outline hover:outline-edge"
          >
            <PreviewFrame url={chip.preview} alt="" />
            <span className="block truncate px-1 text-xs leading-4">{chip.name}</span>
            <span className="figures block truncate px-1 pb-0.5 text-2xs leading-3 text-quiet">{chip.code}</span>
          </button>
        </li>
      ))}
    </ul>
  )
}
