import { type ReactNode, useEffect, useMemo, useState } from 'react'
import { formatNumber } from '#shared/units'
import { Button } from '../../components/controls/Button'
import { Choice } from '../../components/controls/Choice'
import { useKey } from '../../components/use-key'
import { drawDifference, RAMP_GRADIENT } from './difference-ramp'
import { LETTERS, LoadedLayer } from './LoadedLayer'
import { PictureLayer, PictureStage, type Spot } from './PictureStage'
import { type Difference, type Loaded, useDifference } from './use-pictures'
import type { View } from './view-state'

export type PairMode = 'wiper' | 'blink' | 'difference'
/** The ways to see two pictures over each other, as tabs. */
export const PAIR_MODES: { value: PairMode; text: string }[] = [
  { value: 'wiper', text: 'Wiper' },
  { value: 'blink', text: 'Blink' },
  { value: 'difference', text: 'Difference' },
]
const BLINK_MS = 650

interface Props {
  mode: PairMode
  compared: readonly { name: string }[]
  pictures: Loaded[]
  pair: [number, number]
  onPair: (pair: [number, number]) => void
  view: View
  onView: (view: View) => void
  spot: Spot | null
  onSpot: (spot: Spot | null) => void
  caption: (index: number) => ReactNode
  /** Of the pictures, where it is not the house's. */
  aspect?: number
}

/** Two of the pictures over each other, with the figures of their difference beside them. */
export function PairView({ mode, compared, pictures, pair, onPair, view, onView, spot, onSpot, caption, aspect }: Props) {
  const [a, b] = pair
  const [wipe, setWipe] = useState(50)
  const [running, setRunning] = useState(true)
  const [showsB, setShowsB] = useState(false)
  useEffect(() => {
    if (mode !== 'blink' || !running) return
    const timer = setInterval(() => setShowsB(s => !s), BLINK_MS)
    return () => clearInterval(timer)
  }, [mode, running])
  useKey('x', () => {
    setRunning(false)
    setShowsB(s => !s)
  })
  const difference = useDifference(pictures[a], pictures[b], true)
  const map = useMemo(() => (difference.state === 'there' ? drawDifference(difference.map) : null), [difference])
  const label = `${compared[a].name} and ${compared[b].name}, ${mode}`
  return (
    <div className="mx-auto grid max-w-[100rem] grid-cols-[minmax(0,1fr)_18rem] gap-6">
      <div>
        <PictureStage {...{ label, view, onView, spot, onSpot, aspect }}>
          {mode === 'wiper' && (
            <>
              <LoadedLayer loaded={pictures[a]} view={view} clip={`inset(0 ${100 - wipe}% 0 0)`} />
              <LoadedLayer loaded={pictures[b]} view={view} clip={`inset(0 0 0 ${wipe}%)`} />
              <WiperLine at={wipe} onMove={setWipe} />
            </>
          )}
          {mode === 'blink' && <LoadedLayer loaded={pictures[showsB ? b : a]} view={view} />}
          {mode === 'difference' &&
            (map ? (
              <PictureLayer image={map} view={view} />
            ) : (
              <p className="absolute inset-0 flex items-center justify-center px-6 text-center text-quiet">
                {describeMissing(difference)}
              </p>
            ))}
        </PictureStage>
        <div className="mt-2 flex h-8 items-center gap-3">
          {mode === 'wiper' && (
            <input
              type="range"
              min={0}
              max={100}
              step={0.5}
              value={wipe}
              onChange={e => setWipe(Number(e.target.value))}
              aria-label="Where the wiper stands"
              className="w-full accent-ink"
            />
          )}
          {mode === 'blink' && (
            <>
              <Button onClick={() => setRunning(r => !r)}>{running ? 'Hold' : 'Blink'}</Button>
              <Button
                variant="bare"
                title="Key x"
                onClick={() => {
                  setRunning(false)
                  setShowsB(s => !s)
                }}
              >
                Other one
              </Button>
              <span className="figures text-xs" role="status">
                {LETTERS[showsB ? b : a]}
              </span>
            </>
          )}
          {mode === 'difference' && (
            <span className="flex w-full items-center gap-2 text-xs text-quiet">
              none
              <span aria-hidden className="h-2 flex-1" style={{ background: RAMP_GRADIENT }} />
              all there can be
            </span>
          )}
        </div>
      </div>
      <div className="flex flex-col gap-5">
        {compared.length > 2 && (
          <div className="flex items-center gap-2 text-xs">
            <PairSelect label="First" value={a} other={b} count={compared.length} onChange={v => onPair([v, b])} />
            against
            <PairSelect label="Second" value={b} other={a} count={compared.length} onChange={v => onPair([a, v])} />
          </div>
        )}
        <div>{caption(a)}</div>
        <div>{caption(b)}</div>
        <Figures difference={difference} />
      </div>
    </div>
  )
}

/** The line can be taken by the pointer; the slider under the picture does the same by keyboard. */
function WiperLine({ at, onMove }: { at: number; onMove: (at: number) => void }) {
  return (
    <span
      aria-hidden
      className="absolute inset-y-0 z-10 flex w-4 -translate-x-1/2 cursor-ew-resize justify-center"
      style={{ left: `${at}%` }}
      onPointerDown={event => {
        event.stopPropagation()
        event.currentTarget.setPointerCapture(event.pointerId)
      }}
      onPointerMove={event => {
        if (!event.currentTarget.hasPointerCapture(event.pointerId)) return
        event.stopPropagation()
        const frame = event.currentTarget.parentElement!.getBoundingClientRect()
        onMove(Math.min(100, Math.max(0, ((event.clientX - frame.left) / frame.width) * 100)))
      }}
    >
      <span className="h-full w-px bg-white mix-blend-difference" />
    </span>
  )
}

const describeMissing = (difference: Difference): string =>
  difference.state === 'failed'
    ? difference.message
    : difference.state === 'computing'
      ? 'computing the difference'
      : 'Both pictures must be there before they can be compared.'

function PairSelect(props: { label: string; value: number; other: number; count: number; onChange: (v: number) => void }) {
  return (
    <Choice
      label={`${props.label} picture`}
      className="!h-7"
      value={String(props.value)}
      onChange={value => props.onChange(Number(value))}
      options={Array.from({ length: props.count }, (_, k) => ({
        value: String(k),
        text: LETTERS[k],
        disabled: k === props.other,
      }))}
    />
  )
}

function Figures({ difference }: { difference: Difference }) {
  const rows: [string, string][] =
    difference.state === 'there'
      ? [
          ['FLIP, mean', formatNumber(difference.meanFlip, 3)],
          ['FLIP, 95th percentile', formatNumber(difference.p95Flip, 3)],
          ['ΔE00 of the means', formatNumber(difference.deltaEOfMeans, 2)],
        ]
      : []
  return (
    <section aria-label="Difference in numbers" className="border-t border-line pt-3">
      {rows.length > 0 ? (
        <dl className="grid grid-cols-[1fr_auto] gap-y-1">
          {rows.map(([name, value]) => (
            <div key={name} className="contents">
              <dt className="text-quiet">{name}</dt>
              <dd className="figures text-right">{value}</dd>
            </div>
          ))}
        </dl>
      ) : (
        <p className="text-xs text-quiet">{describeMissing(difference)}</p>
      )}
      <p className="mt-2 text-xs text-quiet">
        FLIP runs from 0, the same, to 1; it weighs what an eye sees when the two alternate. ΔE00 of 1 is barely seen.
      </p>
    </section>
  )
}
