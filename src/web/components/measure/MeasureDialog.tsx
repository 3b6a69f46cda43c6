import { type KeyboardEvent, type PointerEvent, useRef, useState } from 'react'
import { type Line, lengthPx, type Place, uncertaintyOf, widthByLine } from '#core/map/measured-line'
import { formatLengthMm, formatNumber } from '#shared/units'
import { Button } from '../controls/Button'
import { TextField } from '../controls/Field'
import { readLengthMm } from '../controls/parse-number'
import { Modal } from '../dialogs/Modal'
import { Loupe } from './Loupe'

interface Props {
  name: string
  /** Address of the picture. */
  url: string
  /** The whole picture's width, in millimetres. */
  onWidth: (widthMm: number) => void
  onClose: () => void
}

type End = keyof Line
const ENDS: readonly End[] = ['from', 'to']
const END_WORDS: Record<End, string> = { from: 'First', to: 'Second' }
/** Where a line stands before anybody has drawn one. */
const FIRST_LINE: Line = { from: { u: 0.3, v: 0.5 }, to: { u: 0.7, v: 0.5 } }

const clamp = (v: number) => Math.min(1, Math.max(0, v))

/** The real width of a picture, by a line drawn over something in it whose length is known. */
export function MeasureDialog({ name, url, onWidth, onClose }: Props) {
  const [size, setSize] = useState<{ width: number; height: number } | null>(null)
  const [failed, setFailed] = useState(false)
  const [line, setLine] = useState(FIRST_LINE)
  const [moved, setMoved] = useState<End | null>(null)
  const [length, setLength] = useState('')
  const frame = useRef<HTMLDivElement>(null)
  const held = useRef<End | null>(null)
  const lengthMm = readLengthMm(length)
  const widthMm = size && widthByLine(line, size, lengthMm)
  const placeOf = (event: PointerEvent): Place => {
    const at = frame.current!.getBoundingClientRect()
    return { u: clamp((event.clientX - at.left) / at.width), v: clamp((event.clientY - at.top) / at.height) }
  }
  const hold = (event: PointerEvent, end: End | null) => {
    event.preventDefault()
    frame.current!.setPointerCapture(event.pointerId)
    const place = placeOf(event)
    // Anywhere else than on an end a new line begins.
    if (end === null) setLine({ from: place, to: place })
    held.current = end ?? 'to'
    setMoved(held.current)
  }
  const move = (event: PointerEvent) => {
    const end = held.current
    if (end) setLine(before => ({ ...before, [end]: placeOf(event) }))
  }
  const release = () => {
    held.current = null
    setMoved(null)
  }
  const onKey = (event: KeyboardEvent, end: End) => {
    const step = STEPS[event.key]
    if (!step || !size) return
    event.preventDefault()
    const px = event.shiftKey ? 10 : 1
    setLine(before => ({
      ...before,
      [end]: { u: clamp(before[end].u + (step[0] * px) / size.width), v: clamp(before[end].v + (step[1] * px) / size.height) },
    }))
  }
  return (
    <Modal title={`Measure ${name}`} width="frame" onClose={onClose}>
      <p className="mb-3 text-quiet">
        Draw a line over something whose length you know, as far across as there is. The picture has to be taken straight on.
      </p>
      {failed ? (
        <p role="alert" className="font-medium">
          The browser cannot show this file. Give its width as a number instead.
        </p>
      ) : (
        <div className="flex max-h-[52vh] justify-center bg-mount">
          <div
            ref={frame}
            className="relative max-h-[52vh] cursor-crosshair touch-none select-none"
            style={
              size ? { aspectRatio: size.width / size.height, width: `min(100%, ${(52 * size.width) / size.height}vh)` } : {}
            }
            onPointerDown={event => hold(event, null)}
            onPointerMove={move}
            onPointerUp={release}
            onPointerCancel={release}
            data-measured-picture
          >
            <img
              src={url}
              alt={name}
              draggable={false}
              className="size-full"
              onLoad={({ currentTarget: { naturalWidth: width, naturalHeight: height } }) => setSize({ width, height })}
              onError={() => setFailed(true)}
            />
            {size && (
              <>
                <svg className="pointer-events-none absolute inset-0 size-full" aria-hidden>
                  {[
                    ['white', 4],
                    ['black', 1.5],
                  ].map(([stroke, width]) => (
                    <line
                      key={stroke}
                      x1={`${100 * line.from.u}%`}
                      y1={`${100 * line.from.v}%`}
                      x2={`${100 * line.to.u}%`}
                      y2={`${100 * line.to.v}%`}
                      stroke={String(stroke)}
                      strokeWidth={width}
                    />
                  ))}
                </svg>
                {ENDS.map(end => (
                  <button
                    key={end}
                    type="button"
                    aria-label={`${END_WORDS[end]} end of the line. Arrow keys move it by a pixel, with Shift by ten`}
                    className="absolute size-5 -translate-x-1/2 -translate-y-1/2 cursor-move rounded-full border-2 border-white bg-black/30 outline-offset-2"
                    style={{ left: `${100 * line[end].u}%`, top: `${100 * line[end].v}%` }}
                    onPointerDown={event => {
                      event.stopPropagation()
                      hold(event, end)
                    }}
                    onKeyDown={event => onKey(event, end)}
                    onFocus={() => setMoved(end)}
                    onBlur={() => setMoved(null)}
                  />
                ))}
                {moved && <Loupe url={url} size={size} place={line[moved]} />}
              </>
            )}
          </div>
        </div>
      )}
      <form
        className="mt-4 flex items-end gap-4"
        onSubmit={event => {
          event.preventDefault()
          if (widthMm) onWidth(Number(widthMm.toPrecision(5)))
        }}
      >
        <TextField
          label="Length of the line"
          className="w-40"
          placeholder="60 cm"
          value={length}
          onChange={event => setLength(event.target.value)}
          error={length !== '' && !(lengthMm > 0) ? 'A number, with mm, cm or m.' : undefined}
        />
        <p className="min-w-0 flex-1 pb-1.5 text-quiet" role="status">
          {widthMm && size ? (
            <>
              The picture is <strong className="font-medium text-ink">{formatLengthMm(widthMm)}</strong> wide, give or take{' '}
              {formatNumber(100 * uncertaintyOf(line, size), 1)} %; the line has {formatNumber(lengthPx(line, size), 0)} pixels.
            </>
          ) : size ? (
            `The line has ${formatNumber(lengthPx(line, size), 0)} of ${size.width} pixels.`
          ) : (
            ''
          )}
        </p>
        <Button variant="bare" onClick={onClose}>
          Leave it
        </Button>
        <Button type="submit" variant="next" disabled={!widthMm}>
          Take this width
        </Button>
      </form>
    </Modal>
  )
}

const STEPS: Record<string, readonly [number, number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
}
