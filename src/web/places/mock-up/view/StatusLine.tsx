import type { Piece } from '#core/mock-up/scene'
import type { Box } from '#core/mock-up/snapping'
import { Button } from '../../../components/controls/Button'
import { plural } from '../../../words/states'
import { distanceOf, type Moving } from './use-pointer'

interface Props {
  opening: number
  missing: number
  /** While pieces are moved: by how much, and what they are near. */
  moving: string | null
  outline: readonly (readonly [number, number])[] | null
  onFinish: () => void
}

/** What happens at the moment, at the upper edge of the picture; nothing where nothing does. */
export function StatusLine({ opening, missing, moving, outline, onFinish }: Props) {
  const text =
    moving ??
    (outline !== null
      ? outline.length < 3
        ? 'Click the corners of the area on the ground.'
        : `${plural(outline.length, 'corner')}. A double click, or Plant, ends it.`
      : opening > 0
        ? `Opening ${plural(opening, 'item')} of the library…`
        : missing > 0
          ? `${plural(missing, 'piece is', 'pieces are')} not shown: not in the library any more, or not yours to see.`
          : null)
  if (text === null) return null
  return (
    <div
      role="status"
      data-over-view
      className="absolute top-3 left-1/2 z-[6] flex -translate-x-1/2 items-center gap-3 rounded-sm bg-sheet px-3 py-1.5 shadow"
    >
      <span className={moving === null ? '' : 'figures text-xs'}>{text}</span>
      {outline !== null && outline.length >= 3 && (
        <Button variant="next" onClick={onFinish}>
          Plant
        </Button>
      )}
    </div>
  )
}

const SNAP_WORDS = { grid: 'on the grid', side: 'side to side', middle: 'middle to middle', gap: 'the same gap' } as const

export function sayMoving(
  { by, held, box }: Moving,
  boxes: ReadonlyMap<string, Box>,
  ids: readonly string[],
  pieces: Readonly<Record<string, Piece>>,
): string {
  const near = [...boxes]
    .filter(([id]) => !ids.includes(id))
    .map(([id, b]) => ({ id, m: distanceOf(box, b) }))
    .sort((a, b) => a.m - b.m)[0]
  const words = [`east ${by[0].toFixed(3)} m, south ${by[2].toFixed(3)} m`]
  if (near && near.m < 3) words.push(`${Math.round(near.m * 1000)} mm to ${pieces[near.id].name}`)
  if (held.length > 0) words.push([...new Set(held.map(h => SNAP_WORDS[h.kind]))].join(', '))
  return words.join('  ·  ')
}
