import { useVirtualizer, type VirtualItem } from '@tanstack/react-virtual'
import { type KeyboardEvent, memo, useDeferredValue, useEffect, useLayoutEffect, useMemo, useRef, useState } from 'react'
import { useLocation, useNavigate } from 'react-router'
import { PREVIEW_ASPECT } from '#core/render/rigs/rig'
import type { Chip } from '#shared/contracts/chip.contract'
import type { WallView } from '#shared/contracts/find.contract'
import { useDots } from '../../components/use-dots'
import { useHeld, useHurry } from '../../components/use-hurry'
import { useStableActions } from '../../components/use-stable-actions'
import type { ChipSize } from '../../state/chip-size.slice'
import { useAppDispatch, useAppSelector } from '../../state/hooks'
import { trayAdded, trayToggled } from '../../state/tray.slice'
import { type ChipActions, ChipView } from './ChipView'
import { ChipRows, type GridRow } from './chip-rows'
import { neighboursOf } from './neighbours'
import { useWallPages, type WallPages } from './use-wall-pages'
import type { WallAddress } from './wall-address'

/** Width that a chip has at least. */
const CHIP_WIDTHS: Readonly<Record<ChipSize, number>> = { contact: 88, usual: 160, large: 260, two: 520 }
const GAP = 10
/** A contact sheet has none: names are told by pointing, or by the keyboard's focus. */
const LABEL_HEIGHTS: Readonly<Record<ChipSize, number>> = { contact: 0, usual: 42, large: 42, two: 42 }
const EDGE = 24
/** Of a group's head. */
const HEAD_HEIGHT = 40

/** Who has typed or chosen goes on with what is found. */
export interface WantedFocus {
  words: string
}

interface Props {
  address: WallAddress
  total: number
  /** How what is in view falls into groups, in their order; null where it is not put together by anything. */
  groups: WallView['groups']
  /** What a group is called. */
  titleOf: (value: string) => string
  /** Only one group is wanted; null where none can be chosen alone. */
  onGroup: ((value: string) => void) | null
  /** What is like it is wanted. */
  onLike: (chip: Chip) => void
  /** The keyboard is wanted at the first chip, as soon as what these words find is there. */
  wanted: WantedFocus | null
  onReached: () => void
}

/** The long list: only rows in sight exist, and only their pages are asked for. */
export function ChipGrid({ address, total, groups, titleOf, onGroup, onLike, wanted, onReached }: Props) {
  const scroller = useRef<HTMLDivElement>(null)
  const width = useWidth(scroller)
  const size = useAppSelector(s => s.chipSize.size)
  const least = CHIP_WIDTHS[size]
  const columns = Math.max(2, Math.floor((width - 2 * EDGE + GAP) / (least + GAP)))
  const chipWidth = Math.max(least * 0.6, (width - 2 * EDGE - GAP * (columns - 1)) / columns)
  const rowHeight = Math.round(chipWidth / PREVIEW_ASPECT) + LABEL_HEIGHTS[size] + GAP
  const layout = useMemo(() => new ChipRows(total, columns, groups), [total, columns, groups])
  const virtual = useVirtualizer({
    count: layout.rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: row => (layout.rows[row]?.head ? HEAD_HEIGHT : rowHeight),
    overscan: 3,
    paddingStart: 2,
    paddingEnd: 24,
  })
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new height means measuring anew
  useEffect(() => virtual.measure(), [rowHeight, layout, virtual])
  // Of another size, or in another width, what stood first stands first.
  const firstSeen = useRef(0)
  const isFresh = useRef(true)
  // biome-ignore lint/correctness/useExhaustiveDependencies: only where rows hold another number
  useLayoutEffect(() => {
    if (!isFresh.current) virtual.scrollToIndex(layout.topRowOf(firstSeen.current), { align: 'start' })
    isFresh.current = false
  }, [columns])
  const [focus, setFocus] = useState(0)
  const anchor = useRef(0)
  const known = useRef(new Map<number, Chip>())
  const items = virtual.getVirtualItems()
  const [from, to] = [layout.rows[items[0]?.index ?? 0]?.first ?? 0, lastOf(layout.rows[items.at(-1)?.index ?? 0])]
  const isHurried = useHurry(scroller)
  const seen = useHeld({ from, to }, isHurried)
  const pages = useWallPages(address, seen.from, seen.to)
  // Chips are drawn when there is time for it: who goes down the wall in a hurry is not held up by those that pass.
  const drawn = useDeferredValue(useMemo(() => ({ layout, items, pages, isHurried }), [layout, items, pages, isHurried]))
  const addressKey = JSON.stringify(address)
  // biome-ignore lint/correctness/useExhaustiveDependencies: another view, another list
  useLayoutEffect(() => {
    known.current = new Map()
    setFocus(0)
    anchor.current = 0
    scroller.current?.scrollTo({ top: 0 })
  }, [addressKey])
  // After a new view has begun anew.
  // biome-ignore lint/correctness/useExhaustiveDependencies: another view, another list
  useLayoutEffect(() => {
    for (const [offset, { chips }] of pages.pages)
      chips.forEach((chip, k) => {
        known.current.set(offset + k, chip)
      })
  }, [pages, addressKey])
  useEffect(() => {
    const isDrawn = drawn.pages === pages && pages.view === addressKey
    const chip = pages.chipAt(focus)
    if (!wanted || wanted.words !== address.words || !isDrawn || !chip) return
    scroller.current?.querySelector<HTMLElement>(`[data-chip-button="${chip.id}"]`)?.focus()
    onReached()
  }, [wanted, address.words, drawn, pages, addressKey, focus, onReached])
  const inTray = useAppSelector(s => s.tray.chips)
  const trayIds = useMemo(() => new Set(inTray.map(c => c.id)), [inTray])
  const dispatch = useAppDispatch()
  const dots = useDots()
  const navigate = useNavigate()
  const location = useLocation()
  const open = (chip: Chip, index: number) => {
    setFocus(index)
    navigate(`/items/${chip.code}`, {
      state: { behind: location, neighbours: neighboursOf(at => known.current.get(at)?.code, index) },
    })
  }
  const tray = (chip: Chip, index: number, withRange: boolean) => {
    if (withRange) {
      const [from, to] = [Math.min(anchor.current, index), Math.max(anchor.current, index)]
      const range = Array.from({ length: to - from + 1 }, (_, k) => known.current.get(from + k)).filter(c => c !== undefined)
      dispatch(trayAdded(range))
    } else dispatch(trayToggled(chip))
    anchor.current = index
    setFocus(index)
  }
  const actions = useStableActions<ChipActions>({
    open,
    tray,
    focus: setFocus,
    // One of the tray takes all of the tray along.
    carried: chip => (trayIds.has(chip.id) ? inTray.map(c => c.id) : [chip.id]),
  })
  const moveTo = (index: number) => {
    const next = Math.min(Math.max(index, 0), total - 1)
    setFocus(next)
    virtual.scrollToIndex(layout.rowOf(next))
    requestAnimationFrame(() => {
      const chip = known.current.get(next)
      if (chip) scroller.current?.querySelector<HTMLElement>(`[data-chip-button="${chip.id}"]`)?.focus()
    })
  }
  const onKeyDown = (event: KeyboardEvent) => {
    const targets: Record<string, number> = {
      ArrowRight: focus + 1,
      ArrowLeft: focus - 1,
      ArrowDown: layout.above(focus, 1),
      ArrowUp: layout.above(focus, -1),
    }
    const target = targets[event.key]
    if (target !== undefined) {
      event.preventDefault()
      moveTo(target)
      return
    }
    const chip = known.current.get(focus)
    if (event.key === 'l' && chip && !event.ctrlKey && !event.metaKey && !event.altKey) {
      event.preventDefault()
      onLike(chip)
    }
    if (/^[1-6]$/.test(event.key) && chip && !event.ctrlKey && !event.metaKey && !event.altKey) {
      event.preventDefault()
      void dots.toggle([chip], Number(event.key))
    }
    if (event.key === ' ' && chip) {
      event.preventDefault()
      tray(chip, focus, event.shiftKey)
    }
  }
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: the keys belong to the chips' own buttons and are gathered here
    <div
      ref={scroller}
      className="h-full overflow-auto"
      onKeyDown={onKeyDown}
      onScroll={event => {
        const { scrollTop } = event.currentTarget
        const row = virtual.getVirtualItemForOffset(scrollTop)?.index ?? 0
        firstSeen.current = layout.rows[row]?.first ?? 0
      }}
    >
      <div className="relative w-full" style={{ height: virtual.getTotalSize() }}>
        <GridRows
          {...drawn}
          chipWidth={chipWidth}
          size={size}
          focus={focus}
          trayIds={trayIds}
          meaningOf={dots.meaningOf}
          titleOf={titleOf}
          onGroup={onGroup}
          actions={actions}
        />
      </div>
    </div>
  )
}

interface GridRowsProps {
  layout: ChipRows
  /** Rows near to what is in sight. */
  items: readonly VirtualItem[]
  pages: WallPages
  /** Whether they pass too fast to be looked at. */
  isHurried: boolean
  chipWidth: number
  size: ChipSize
  focus: number
  trayIds: ReadonlySet<number>
  meaningOf: (color: number) => string
  titleOf: (value: string) => string
  onGroup: ((value: string) => void) | null
  actions: ChipActions
}

/** Drawn again only for what it shows: a scroll hands it nothing new until there is time. */
const GridRows = memo(function GridRows({
  layout,
  items,
  pages,
  isHurried,
  chipWidth,
  size,
  focus,
  trayIds,
  meaningOf,
  titleOf,
  onGroup,
  actions,
}: GridRowsProps) {
  return items.map(item => {
    const row = layout.rows[item.index]
    if (!row) return null
    if (row.head) {
      const { value, count } = row.head
      return (
        <GroupHead
          key={item.key}
          title={titleOf(value)}
          count={count}
          top={item.start}
          onAlone={onGroup && value !== '' ? () => onGroup(value) : null}
        />
      )
    }
    if (isHurried)
      return (
        <div
          key={item.key}
          aria-hidden
          className="absolute w-full"
          style={{ top: item.start, height: item.size - GAP, paddingInline: EDGE }}
        >
          <div className="h-full bg-mount" />
        </div>
      )
    return (
      <div
        key={item.key}
        className="absolute left-0 flex w-full"
        style={{ transform: `translateY(${item.start}px)`, paddingInline: EDGE, gap: GAP }}
      >
        {Array.from({ length: row.count }, (_, k) => {
          const index = row.first + k
          const chip = pages.chipAt(index)
          return (
            <div key={chip?.id ?? `empty-${k}`} style={{ width: chipWidth }} className="shrink-0">
              {chip ? (
                <ChipView
                  chip={chip}
                  index={index}
                  inTray={trayIds.has(chip.id)}
                  focused={focus === index}
                  note={pages.noteAt(index)}
                  isBare={size === 'contact'}
                  meaningOf={meaningOf}
                  actions={actions}
                />
              ) : (
                <div
                  aria-hidden
                  className="animate-pulse bg-mount"
                  style={{ height: chipWidth / PREVIEW_ASPECT + LABEL_HEIGHTS[size] }}
                />
              )}
            </div>
          )
        })}
      </div>
    )
  })
})

interface GroupHeadProps {
  title: string
  count: number
  top: number
  onAlone: (() => void) | null
}

const GroupHead = ({ title, count, top, onAlone }: GroupHeadProps) => (
  <div
    className="absolute left-0 flex w-full items-baseline gap-2 pt-3"
    style={{ transform: `translateY(${top}px)`, height: HEAD_HEIGHT, paddingInline: EDGE }}
  >
    <h2 className="font-medium">{title}</h2>
    <span className="figures text-xs text-quiet">{count}</span>
    <span aria-hidden className="h-px flex-1 self-center bg-line" />
    {onAlone && (
      <button type="button" tabIndex={-1} onClick={onAlone} className="text-xs text-quiet hover:text-ink hover:underline">
        Only these
      </button>
    )}
  </div>
)

const lastOf = (row: GridRow | undefined): number => (!row ? 0 : row.head ? row.first : row.first + row.count - 1)

function useWidth(ref: React.RefObject<HTMLElement | null>): number {
  const [width, setWidth] = useState(1280)
  useLayoutEffect(() => {
    const element = ref.current
    if (!element) return
    const observer = new ResizeObserver(() => setWidth(element.clientWidth))
    observer.observe(element)
    setWidth(element.clientWidth)
    return () => observer.disconnect()
  }, [ref])
  return width
}
