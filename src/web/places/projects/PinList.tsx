import { useVirtualizer } from '@tanstack/react-virtual'
import { format } from 'date-fns'
import { type RefObject, useLayoutEffect, useMemo, useRef, useState } from 'react'
import { Link, useLocation } from 'react-router'
import { toast } from 'sonner'
import { hasEveryWord } from '#core/find/words/fold-words'
import type { Pin, Project } from '#shared/contracts/projects.contract'
import { tellProblem } from '../../components/bulk-words'
import { Button } from '../../components/controls/Button'
import { CheckBox } from '../../components/controls/CheckBox'
import { ListSearch } from '../../components/controls/ListSearch'
import { EmptyState } from '../../components/Notice'
import { PAGE_MARK } from '../../components/Page'
import { PreviewFrame } from '../../components/PreviewFrame'
import { usePinItemsMutation, useUnpinItemsMutation } from '../../state/api'
import { plural } from '../../words/states'

/** Of a line with a picture of 5 rem at the house aspect, px. */
const LINE_HEIGHT = 77

/** So many are seen at a look. */
const FEW = 8

const isMeant = ({ chip }: Pin, words: string): boolean => hasEveryWord(`${chip.name} ${chip.code}`, words)

const scrollerOf = (element: HTMLElement | null) => element?.closest<HTMLElement>(`[${PAGE_MARK}]`) ?? null

/** How far below the beginning of its page a list begins, px; followed as what stands above it grows. */
function useMarginAbove(list: RefObject<HTMLElement | null>, isThere: boolean): number {
  const [margin, setMargin] = useState(0)
  useLayoutEffect(() => {
    const scroller = isThere ? scrollerOf(list.current) : null
    const beside = list.current?.parentElement
    if (!scroller || !beside) return
    const measure = () => {
      if (list.current)
        setMargin(list.current.getBoundingClientRect().top - scroller.getBoundingClientRect().top + scroller.scrollTop)
    }
    measure()
    const observer = new ResizeObserver(measure)
    observer.observe(beside)
    return () => observer.disconnect()
  }, [list, isThere])
  return margin
}

interface Props {
  project: Project
  chosen: readonly number[]
  onChoose: (ids: readonly number[]) => void
}

/** What a project pins; of hundreds those lines are there that one sees. */
export function PinList({ project, chosen, onChoose }: Props) {
  const last = useRef<number | null>(null)
  const list = useRef<HTMLUListElement>(null)
  const margin = useMarginAbove(list, project.pinned.length > 0)
  const isChosen = new Set(chosen)
  const [words, setWords] = useState('')
  const shown = useMemo(() => project.pinned.filter(pin => isMeant(pin, words)), [project.pinned, words])
  const virtual = useVirtualizer({
    count: shown.length,
    getScrollElement: () => scrollerOf(list.current),
    estimateSize: () => LINE_HEIGHT,
    scrollMargin: margin,
    overscan: 6,
  })
  const asked = project.pinned.filter(p => p.isAsked)
  const ids = shown.map(p => p.chip.id)
  const isAll = ids.length > 0 && ids.every(id => isChosen.has(id))
  const choose = (id: number, isOn: boolean, withShift: boolean) => {
    const [from, to] = [ids.indexOf(withShift ? (last.current ?? id) : id), ids.indexOf(id)].sort((a, b) => a - b)
    const range = ids.slice(Math.max(0, from), to + 1)
    last.current = id
    onChoose(isOn ? [...new Set([...chosen, ...range])] : chosen.filter(c => !range.includes(c)))
  }
  if (project.pinned.length === 0)
    return (
      <EmptyState title="Nothing is pinned yet.">
        <p className="mb-3">Put items in the tray on the wall, then choose this project.</p>
        <Link to="/wall" className="underline">
          To the wall
        </Link>
      </EmptyState>
    )
  return (
    <>
      {asked.length > 0 && (
        <div className="mb-3 flex items-center gap-3 bg-sheet px-3 py-2">
          <span>{plural(asked.length, 'pin has', 'pins have')} a newer version, or went from the library.</span>
          <Link
            to={`/projects/${project.id}/decisions`}
            className="ml-auto inline-flex h-8 items-center rounded-sm bg-accent px-3 font-semibold text-on-accent hover:brightness-105"
          >
            See what would change
          </Link>
        </div>
      )}
      <div className="sticky -top-4 z-10 flex min-h-10 items-center gap-3 bg-surround text-xs text-quiet">
        <CheckBox
          label={
            chosen.length > 0
              ? `${chosen.length} chosen to hand over`
              : words.trim() === ''
                ? `Choose all ${ids.length}`
                : `Choose these ${ids.length}`
          }
          checked={isAll}
          isPartly={chosen.length > 0}
          onChange={isOn => onChoose(isOn ? [...new Set([...chosen, ...ids])] : chosen.filter(id => !ids.includes(id)))}
        />
        {chosen.length > 0 && (
          <>
            <Button variant="bare" onClick={() => onChoose([])}>
              Choose none
            </Button>
            <Button onClick={() => scrollerOf(list.current)?.scrollTo({ top: 0 })}>To the hand-over</Button>
          </>
        )}
        {project.pinned.length > FEW && (
          <ListSearch label="Among what is pinned" words={words} onWords={setWords} className="ml-auto w-56" />
        )}
      </div>
      {shown.length === 0 && <p className="border-t border-line py-6 text-quiet">Nothing that is pinned is called so.</p>}
      <ul ref={list} className="relative border-t border-line" style={{ height: virtual.getTotalSize() }}>
        {virtual.getVirtualItems().map(({ index, start }) => {
          const pin = shown[index]
          return (
            <PinLine
              key={pin.chip.id}
              pin={pin}
              projectId={project.id}
              isChosen={isChosen.has(pin.chip.id)}
              top={start - margin}
              onChoose={(isOn, withShift) => choose(pin.chip.id, isOn, withShift)}
            />
          )
        })}
      </ul>
    </>
  )
}

interface PinLineProps {
  pin: Pin
  projectId: number
  isChosen: boolean
  /** Where it stands in the list, px. */
  top: number
  onChoose: (isOn: boolean, withShift: boolean) => void
}

function PinLine({ pin, projectId, isChosen, top, onChoose }: PinLineProps) {
  const { chip } = pin
  const location = useLocation()
  const [unpin] = useUnpinItemsMutation()
  const [pinAgain] = usePinItemsMutation()
  const remove = async () => {
    const result = await unpin({ id: projectId, ids: [chip.id] })
    if (result.error) tellProblem(result.error)
    else
      toast(`${chip.name} is taken out.`, {
        action: { label: 'Undo', onClick: () => pinAgain({ id: projectId, ids: [chip.id] }) },
      })
  }
  return (
    <li
      className="absolute inset-x-0 grid grid-cols-[1rem_5rem_minmax(0,1fr)_9rem_7rem_5.5rem] items-center gap-4 border-b border-line py-2"
      style={{ top, height: LINE_HEIGHT }}
    >
      <CheckBox label={`Choose ${chip.name}`} isLabelHidden checked={isChosen} onChange={onChoose} />
      <Link to={`/items/${chip.code}`} state={{ behind: location }} aria-label={chip.name}>
        <PreviewFrame url={chip.preview} alt="" />
      </Link>
      <span className="min-w-0">
        <Link to={`/items/${chip.code}`} state={{ behind: location }} className="block truncate font-medium hover:underline">
          {chip.name}
        </Link>
        <span className="figures block text-xs text-quiet">
          {chip.code} <span className="ml-1">{chip.figure}</span>
        </span>
      </span>
      <span className="text-xs text-quiet">
        {pin.person}, {format(new Date(pin.createdAt), 'd MMM')}
      </span>
      <span>
        version {pin.versionNumber}
        {pin.isAsked ? (
          <Link to={`/projects/${projectId}/decisions`} className="block text-xs font-medium underline">
            {pin.approvedNumber === pin.versionNumber ? 'withdrawn' : `version ${pin.approvedNumber} is there`}
          </Link>
        ) : (
          pin.approvedNumber !== null &&
          pin.approvedNumber !== pin.versionNumber && (
            <span className="block text-xs text-quiet">stays before {pin.approvedNumber}</span>
          )
        )}
      </span>
      <Button variant="bare" onClick={remove}>
        Take out
      </Button>
    </li>
  )
}
