import { useVirtualizer } from '@tanstack/react-virtual'
import { type KeyboardEvent, useEffect, useLayoutEffect, useMemo, useRef, useState } from 'react'
import { useLocation, useNavigate } from 'react-router'
import { PREVIEW_ASPECT } from '#core/render/rigs/rig'
import type { Chip } from '#shared/contracts/items.contract'
import { useGetWallQuery } from '../../state/api'
import { useAppDispatch, useAppSelector } from '../../state/hooks'
import { trayAdded, trayToggled } from '../../state/tray.slice'
import { ChipView } from './ChipView'
import { PAGE, type WallAddress } from './wall-address'

const CHIP_WIDTH = 160
const GAP = 10
const LABEL_HEIGHT = 42
const EDGE = 24

interface Props {
  address: WallAddress
  total: number
}

/** The long list: only rows in sight exist, and only their pages are asked for. */
export function ChipGrid({ address, total }: Props) {
  const scroller = useRef<HTMLDivElement>(null)
  const width = useWidth(scroller)
  const columns = Math.max(2, Math.floor((width - 2 * EDGE + GAP) / (CHIP_WIDTH + GAP)))
  const chipWidth = Math.max(CHIP_WIDTH * 0.6, (width - 2 * EDGE - GAP * (columns - 1)) / columns)
  const rowHeight = Math.round(chipWidth / PREVIEW_ASPECT) + LABEL_HEIGHT + GAP
  const rows = Math.ceil(total / columns)
  const virtual = useVirtualizer({
    count: rows,
    getScrollElement: () => scroller.current,
    estimateSize: () => rowHeight,
    overscan: 3,
    paddingStart: 2,
    paddingEnd: 24,
  })
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new height means measuring anew
  useEffect(() => virtual.measure(), [rowHeight, virtual])
  const known = useRef(new Map<number, Chip>())
  const addressKey = JSON.stringify(address)
  // biome-ignore lint/correctness/useExhaustiveDependencies: another view, another list
  useLayoutEffect(() => {
    known.current = new Map()
    scroller.current?.scrollTo({ top: 0 })
  }, [addressKey])
  const [focus, setFocus] = useState(0)
  const anchor = useRef(0)
  const dispatch = useAppDispatch()
  const navigate = useNavigate()
  const location = useLocation()
  const open = (chip: Chip, index: number) => {
    setFocus(index)
    navigate(`/items/${chip.code}`, { state: { behind: location, neighbours: neighboursOf(known.current, index) } })
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
  const moveTo = (index: number) => {
    const next = Math.min(Math.max(index, 0), total - 1)
    setFocus(next)
    virtual.scrollToIndex(Math.floor(next / columns))
    requestAnimationFrame(() => {
      const chip = known.current.get(next)
      if (chip) scroller.current?.querySelector<HTMLElement>(`[data-chip-button="${chip.id}"]`)?.focus()
    })
  }
  const onKeyDown = (event: KeyboardEvent) => {
    const steps: Record<string, number> = { ArrowRight: 1, ArrowLeft: -1, ArrowDown: columns, ArrowUp: -columns }
    const step = steps[event.key]
    if (step !== undefined) {
      event.preventDefault()
      moveTo(focus + step)
      return
    }
    const chip = known.current.get(focus)
    if (event.key === ' ' && chip) {
      event.preventDefault()
      tray(chip, focus, event.shiftKey)
    }
  }
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: the keys belong to the chips' own buttons and are gathered here
    <div ref={scroller} className="h-full overflow-auto" onKeyDown={onKeyDown}>
      <div className="relative w-full" style={{ height: virtual.getTotalSize() }}>
        {virtual.getVirtualItems().map(row => (
          <WallRow
            key={row.key}
            address={address}
            first={row.index * columns}
            count={Math.min(columns, total - row.index * columns)}
            chipWidth={chipWidth}
            top={row.start}
            focus={focus}
            known={known.current}
            onOpen={open}
            onTray={tray}
            onFocus={setFocus}
          />
        ))}
      </div>
    </div>
  )
}

/** Codes around a chip, so that the sheet can go to the next and the one before. */
const neighboursOf = (known: ReadonlyMap<number, Chip>, index: number): string[] => {
  const codes: string[] = []
  let at = index
  while (known.has(at - 1) && index - at < 60) at--
  for (; known.has(at) && at <= index + 60; at++) codes.push(known.get(at)!.code)
  return codes
}

interface RowProps {
  address: WallAddress
  first: number
  count: number
  chipWidth: number
  top: number
  focus: number
  known: Map<number, Chip>
  onOpen: (chip: Chip, index: number) => void
  onTray: (chip: Chip, index: number, withRange: boolean) => void
  onFocus: (index: number) => void
}

function WallRow({ address, first, count, chipWidth, top, focus, known, onOpen, onTray, onFocus }: RowProps) {
  const offset = Math.floor(first / PAGE) * PAGE
  const lastOffset = Math.floor((first + count - 1) / PAGE) * PAGE
  const here = useGetWallQuery({ ...address, offset, limit: PAGE })
  const next = useGetWallQuery({ ...address, offset: lastOffset, limit: PAGE }, { skip: lastOffset === offset })
  const chips = useMemo(
    () =>
      Array.from({ length: count }, (_, k) => {
        const index = first + k
        return index - offset < PAGE ? here.data?.chips[index - offset] : next.data?.chips[index - lastOffset]
      }),
    [count, first, offset, lastOffset, here.data, next.data],
  )
  chips.forEach((chip, k) => {
    if (chip) known.set(first + k, chip)
  })
  const trayIds = useAppSelector(s => s.tray.chips)
  return (
    <div className="absolute left-0 flex w-full" style={{ transform: `translateY(${top}px)`, paddingInline: EDGE, gap: GAP }}>
      {chips.map((chip, k) => (
        <div key={chip?.id ?? `empty-${k}`} style={{ width: chipWidth }} className="shrink-0">
          {chip ? (
            <ChipView
              chip={chip}
              inTray={trayIds.some(c => c.id === chip.id)}
              focused={focus === first + k}
              onOpen={() => onOpen(chip, first + k)}
              onTray={withRange => onTray(chip, first + k, withRange)}
              onFocus={() => onFocus(first + k)}
            />
          ) : (
            <div aria-hidden className="animate-pulse bg-mount" style={{ height: chipWidth / PREVIEW_ASPECT + LABEL_HEIGHT }} />
          )}
        </div>
      ))}
    </div>
  )
}

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
