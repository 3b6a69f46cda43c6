import { LineChart } from 'echarts/charts'
import { PolarComponent } from 'echarts/components'
import { init, use } from 'echarts/core'
import { SVGRenderer } from 'echarts/renderers'
import { useEffect, useRef, useState } from 'react'
import { toFailure } from '#core/findings/failure'
import { readPhotometry } from '#core/photometry/analyse-photometry'
import { type CandelaWeb, findPeak, readPlane } from '#core/photometry/candela-web'
import type { Sheet } from '#shared/contracts/items.contract'
import { formatNumber } from '#shared/units'

use([LineChart, PolarComponent, SVGRenderer])

type File = Sheet['files'][number]

/** How a lamp throws its light: intensity by direction, straight down at the foot, in the plane of its peak and across it. */
export default function LightCurve({ file }: { file: File }) {
  const [web, setWeb] = useState<CandelaWeb | null>(null)
  const [problem, setProblem] = useState<string | null>(null)
  const holder = useRef<HTMLDivElement>(null)
  useEffect(() => {
    const gone = new AbortController()
    fetch(file.url, { signal: gone.signal })
      .then(response => response.arrayBuffer())
      .then(bytes => setWeb(readPhotometry(file.path, new TextDecoder('latin1').decode(bytes))))
      .catch(error => {
        if (!gone.signal.aborted) setProblem(toFailure(error).message)
      })
    return () => gone.abort()
  }, [file])
  useEffect(() => {
    if (!web || !holder.current) return
    const chart = init(holder.current, null, { renderer: 'svg' })
    chart.setOption(toOption(web, getComputedStyle(holder.current)))
    const resize = new ResizeObserver(() => chart.resize())
    resize.observe(holder.current)
    return () => {
      resize.disconnect()
      chart.dispose()
    }
  }, [web])
  const peak = web && findPeak(web)
  return (
    <section>
      <h2 className="mb-2 text-section">Light curve</h2>
      {problem ? (
        <p className="text-quiet">{problem}</p>
      ) : (
        <>
          <div
            ref={holder}
            role="img"
            aria-label={peak ? `Light curve with a peak of ${formatNumber(peak.candela, 0)} candela` : 'Light curve'}
            className="h-72 w-full bg-mount"
          />
          {peak && (
            <p className="mt-1 text-xs text-quiet">
              cd, straight down at the foot.{' '}
              {web.cDeg.length > 1
                ? `Full line: C${peak.cDeg}° and the plane opposite; broken line: across it. `
                : 'The same all round. '}
              Peak {formatNumber(peak.candela, 0)} cd at {formatNumber(peak.gammaDeg, 0)}°.
            </p>
          )}
        </>
      )}
    </section>
  )
}

function toOption(web: CandelaWeb, style: CSSStyleDeclaration) {
  const { cDeg } = findPeak(web)
  const [ink, quiet, line] = [style.color, style.getPropertyValue('--color-quiet'), style.getPropertyValue('--color-line')]
  const curve = (plane: number, type: 'solid' | 'dashed') => ({
    type: 'line',
    coordinateSystem: 'polar',
    showSymbol: false,
    data: readPlane(web, plane).map(p => [p.candela, p.angleDeg]),
    lineStyle: { color: ink, width: type === 'solid' ? 1.8 : 1.2, type },
  })
  return {
    animation: false,
    polar: { center: ['50%', '50%'], radius: '82%' },
    // Straight down at the foot, as on a maker's sheet.
    angleAxis: {
      type: 'value',
      min: -180,
      max: 180,
      interval: 30,
      startAngle: 90,
      clockwise: false,
      axisLine: { lineStyle: { color: line } },
      splitLine: { lineStyle: { color: line } },
      axisLabel: { color: quiet, fontSize: 10, formatter: (v: number) => (v === -180 ? '' : `${Math.abs(v)}°`) },
    },
    radiusAxis: {
      min: 0,
      splitNumber: 4,
      axisLine: { show: false },
      axisTick: { show: false },
      splitLine: { lineStyle: { color: line } },
      axisLabel: { color: quiet, fontSize: 10 },
    },
    series: [curve(cDeg, 'solid'), ...(web.cDeg.length > 1 ? [curve(cDeg + 90, 'dashed')] : [])],
  }
}
