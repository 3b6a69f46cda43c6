import { ScatterChart } from 'echarts/charts'
import { DataZoomComponent, GridComponent, TooltipComponent } from 'echarts/components'
import { type EChartsType, init, use } from 'echarts/core'
import { CanvasRenderer } from 'echarts/renderers'
import { useEffect, useMemo, useRef } from 'react'
import { smallestOf } from '#shared/picture-widths'
import { EmptyState, Skeleton, Trouble } from '../../../components/Notice'
import { useGetChipsQuery, useGetColorMapQuery } from '../../../state/api'
import { useAppSelector } from '../../../state/hooks'
import { plural } from '../../../words/states'
import { setPart, type WallAddress } from '../wall-address'
import { MOST_PICTURED, toColorMapOption } from './color-map-option'

use([ScatterChart, GridComponent, TooltipComponent, DataZoomComponent, CanvasRenderer])

interface Props {
  address: WallAddress
  onOpen: (code: string, neighbours: string[]) => void
}

/** What is in view among all colours: hue across, lightness up, greys at the left; where there is nothing, a shade is missing. */
export default function ColorMapForm({ address, onOpen }: Props) {
  const { data, error, refetch } = useGetColorMapQuery(setPart(address))
  const surround = useAppSelector(s => s.surround.value)
  const inTray = useAppSelector(s => s.tray.chips)
  const mine = useMemo(() => new Set(inTray.map(c => c.id)), [inTray])
  const points = data?.points ?? []
  const isFew = points.length > 0 && points.length <= MOST_PICTURED
  const { data: chips } = useGetChipsQuery({ ids: points.map(p => p.id).join() }, { skip: !isFew })
  const pictures = useMemo(
    () => new Map(isFew ? chips?.flatMap(c => (c.preview ? [[c.id, smallestOf(c.preview)] as const] : [])) : []),
    [chips, isFew],
  )
  const holder = useRef<HTMLDivElement>(null)
  const chart = useRef<EChartsType | null>(null)
  const opening = useRef((_place: number) => {})
  opening.current = place => {
    const points = data?.points ?? []
    if (points[place])
      onOpen(
        points[place].code,
        points.map(p => p.code),
      )
  }
  const hasPoints = (data?.points.length ?? 0) > 0
  useEffect(() => {
    if (!holder.current || !hasPoints) return
    const made = init(holder.current)
    made.on('click', ({ dataIndex }) => opening.current(dataIndex))
    chart.current = made
    const resize = new ResizeObserver(() => made.resize())
    resize.observe(holder.current)
    return () => {
      resize.disconnect()
      made.dispose()
      chart.current = null
    }
  }, [hasPoints])
  // biome-ignore lint/correctness/useExhaustiveDependencies: another surround, other inks
  useEffect(() => {
    if (!data || !holder.current || !chart.current) return
    const styles = getComputedStyle(holder.current)
    const read = (name: string) => styles.getPropertyValue(name).trim()
    const inks = { ink: styles.color, line: read('--color-edge'), sheet: read('--color-mount'), font: styles.fontFamily }
    chart.current.setOption(
      toColorMapOption(
        data.points,
        inks,
        id => mine.has(id),
        id => pictures.get(id) ?? null,
      ),
    )
  }, [data, mine, pictures, surround, hasPoints])
  if (error && !data) return <Trouble error={error} onRetry={refetch} />
  if (!data) return <Skeleton className="m-6 h-64" />
  if (!hasPoints)
    return (
      <EmptyState title="Nothing here has a colour of its own.">
        <p>Materials and maps have; models and skies are not on this map.</p>
      </EmptyState>
    )
  const { colorless, beyond } = data
  return (
    <div className="flex h-full flex-col px-6 pb-3">
      <p className="pb-1 text-xs text-quiet">
        {plural(data.points.length, 'item')} by hue and lightness; the wheel comes closer, a click opens the sheet.
        {beyond > 0 && ` ${beyond} more are not drawn; narrow the view.`}
        {colorless > 0 && ` ${colorless} without a colour of their own.`}
      </p>
      <div
        ref={holder}
        role="img"
        aria-label={`Map of ${plural(data.points.length, 'colour')}; the table has the same in words`}
        className="min-h-0 flex-1 bg-sheet"
      />
    </div>
  )
}
