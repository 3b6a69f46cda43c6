import type { ScatterSeriesOption } from 'echarts/charts'
import type { DataZoomComponentOption, GridComponentOption, TooltipComponentOption } from 'echarts/components'
import type { ComposeOption } from 'echarts/core'
import type { ColorMap } from '#shared/contracts/find.contract'
import { formatNumber } from '#shared/units'

export type ColorMapOption = ComposeOption<
  ScatterSeriesOption | GridComponentOption | TooltipComponentOption | DataZoomComponentOption
>
export type ColorPoint = ColorMap['points'][number]

/** C*ab under which a colour has no hue to speak of, and stands among the greys. */
const GREY_CHROMA = 6
/** Where the greys stand, left of all hues. */
const GREYS_AT = -24
/** Hues of CIELAB at which people name a colour; chosen by eye. */
const NAMED_HUES: readonly [number, string][] = [
  [GREYS_AT, 'grey'],
  [30, 'red'],
  [60, 'orange'],
  [95, 'yellow'],
  [145, 'green'],
  [200, 'turquoise'],
  [265, 'blue'],
  [315, 'purple'],
  [350, 'pink'],
]

/** Across the map: the hue, or beside all hues by how little there is of one. */
export const placeOf = ({ chroma, hueDeg }: Pick<ColorPoint, 'chroma' | 'hueDeg'>): number =>
  chroma < GREY_CHROMA ? GREYS_AT + (chroma / GREY_CHROMA - 0.5) * 16 : hueDeg

/** The larger, the fewer there are. */
const sizeFor = (count: number): number => (count < 150 ? 18 : count < 800 ? 12 : 7)

/** Up to so many stand on the map as what they look like. */
export const MOST_PICTURED = 240
/** Pixels of such a picture. */
const PICTURE_SIZE = [48, 36]

/** @param ink of axes and words @param isMine whether a point is in the tray @param pictureOf address of its picture, where one is shown */
export function toColorMapOption(
  points: readonly ColorPoint[],
  { ink, line, sheet, font = 'sans-serif' }: { ink: string; line: string; sheet: string; font?: string },
  isMine: (id: number) => boolean,
  pictureOf: (id: number) => string | null = () => null,
): ColorMapOption {
  const axis = { axisLine: { onZero: false, lineStyle: { color: line } }, splitLine: { show: false }, axisTick: { show: false } }
  return {
    animation: false,
    textStyle: { fontFamily: font },
    grid: { left: 56, right: 24, top: 32, bottom: 40 },
    tooltip: {
      trigger: 'item',
      backgroundColor: sheet,
      borderColor: line,
      textStyle: { color: ink, fontFamily: 'inherit', fontSize: 13 },
      formatter: given => {
        const point = points[(given as { dataIndex: number }).dataIndex]
        return point ? describePoint(point) : ''
      },
    },
    xAxis: {
      ...axis,
      type: 'value',
      min: GREYS_AT - 16,
      max: 360,
      axisLabel: {
        color: ink,
        customValues: NAMED_HUES.map(([hue]) => hue),
        formatter: value => NAMED_HUES.find(([hue]) => hue === value)?.[1] ?? '',
      },
    },
    yAxis: {
      ...axis,
      type: 'value',
      min: 0,
      max: 100,
      name: 'L*',
      nameTextStyle: { color: ink },
      axisLabel: { color: ink },
    },
    dataZoom: [
      { type: 'inside', xAxisIndex: 0, filterMode: 'none' },
      { type: 'inside', yAxisIndex: 0, filterMode: 'none' },
    ],
    series: [
      {
        type: 'scatter',
        symbol: 'rect',
        symbolSize: sizeFor(points.length),
        cursor: 'pointer',
        itemStyle: { opacity: 1 },
        data: points.map(point => ({
          ...pictured(pictureOf(point.id)),
          value: [placeOf(point), point.lightness],
          itemStyle: { color: point.hex, borderColor: isMine(point.id) ? ink : line, borderWidth: isMine(point.id) ? 2 : 0.5 },
        })),
      },
    ],
  }
}

const pictured = (url: string | null) => (url === null ? {} : { symbol: `image://${url}`, symbolSize: PICTURE_SIZE })

const escapeHtml = (text: string): string => text.replace(/[&<>"]/g, sign => `&#${sign.charCodeAt(0)};`)

export const describePoint = ({ name, code, lightness, chroma, hueDeg }: ColorPoint): string =>
  `<b>${escapeHtml(name)}</b><br>${escapeHtml(code)}<br>L* ${formatNumber(lightness, 0)}, C* ${formatNumber(chroma, 0)}${chroma < GREY_CHROMA ? '' : `, h ${formatNumber(hueDeg, 0)}°`}`
