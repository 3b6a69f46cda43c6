import { LineChart } from 'echarts/charts'
import { GridComponent, TooltipComponent } from 'echarts/components'
import { init, use } from 'echarts/core'
import { SVGRenderer } from 'echarts/renderers'
import { useEffect, useRef } from 'react'
import { pointsOf, type TrendAudit } from './audit-trend'

use([LineChart, GridComponent, TooltipComponent, SVGRenderer])

/** How much of a project's scenes was on standard, audit by audit. */
export default function AuditTrend({ audits }: { audits: readonly TrendAudit[] }) {
  const holder = useRef<HTMLDivElement>(null)
  const points = pointsOf(audits)
  const last = points.at(-1)
  // biome-ignore lint/correctness/useExhaustiveDependencies: drawn anew when what it shows is another
  useEffect(() => {
    if (!holder.current) return
    const chart = init(holder.current, null, { renderer: 'svg' })
    chart.setOption(toOption(points, getComputedStyle(holder.current)))
    const resize = new ResizeObserver(() => chart.resize())
    resize.observe(holder.current)
    return () => {
      resize.disconnect()
      chart.dispose()
    }
  }, [JSON.stringify(points)])
  return (
    <figure className="mb-3">
      <div
        ref={holder}
        role="img"
        aria-label={
          last
            ? `On standard over time, lastly ${last.bySurface} % by surface and ${last.byNumber} % by number`
            : 'On standard over time'
        }
        className="h-28 w-full"
      />
      <figcaption className="text-xs text-quiet">
        On standard, in percent: full line by surface, broken line by number.
      </figcaption>
    </figure>
  )
}

function toOption(points: ReturnType<typeof pointsOf>, style: CSSStyleDeclaration) {
  const [ink, quiet, line] = [style.color, style.getPropertyValue('--color-quiet'), style.getPropertyValue('--color-line')]
  const series = (key: 'bySurface' | 'byNumber', type: 'solid' | 'dashed') => ({
    type: 'line',
    data: points.map(p => p[key]),
    symbolSize: 5,
    itemStyle: { color: ink },
    lineStyle: { color: ink, width: type === 'solid' ? 1.8 : 1.2, type },
  })
  return {
    animation: false,
    grid: { left: 34, right: 12, top: 10, bottom: 20 },
    tooltip: {
      trigger: 'axis',
      formatter: ([{ dataIndex }]: { dataIndex: number }[]) => {
        const { title, day, bySurface, byNumber } = points[dataIndex]
        const text = document.createElement('span')
        text.textContent = `${title}, ${day}: ${bySurface} % by surface, ${byNumber} % by number`
        return text
      },
    },
    xAxis: {
      type: 'category',
      data: points.map(p => p.day),
      axisLabel: { color: quiet, fontSize: 11 },
      axisLine: { lineStyle: { color: line } },
      axisTick: { show: false },
    },
    yAxis: {
      type: 'value',
      min: 0,
      max: 100,
      interval: 50,
      axisLabel: { color: quiet, fontSize: 11 },
      splitLine: { lineStyle: { color: line } },
    },
    series: [series('bySurface', 'solid'), series('byNumber', 'dashed')],
  }
}
