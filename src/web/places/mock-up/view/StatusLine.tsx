import type { Vec3 } from '#core/math/vec3'
import type { Box } from '#core/mock-up/placing/snapping'
import type { Piece } from '#core/mock-up/scene/scene'
import { Button } from '../../../components/controls/Button'
import { plural } from '../../../words/states'
import { type Drawing, isEnough } from '../state/use-drawing'
import { distanceOf, type Moving } from './use-pointer'

interface Props {
  opening: number
  missing: number
  /** While pieces are moved: by how much, and what they are near. */
  moving: string | null
  drawing: Drawing | null
  onFinish: () => void
}

/** What happens at the moment, at the upper edge of the picture; nothing where nothing does. */
export function StatusLine({ opening, missing, moving, drawing, onFinish }: Props) {
  const text =
    moving ??
    (drawing !== null
      ? sayDrawing(drawing)
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
      <span className={moving === null && drawing?.kind !== 'distance' ? '' : 'figures text-xs'}>{text}</span>
      {drawing !== null && drawing.kind !== 'distance' && isEnough(drawing) && (
        <Button variant="next" onClick={onFinish}>
          Plant
        </Button>
      )}
    </div>
  )
}

function sayDrawing(drawing: Drawing): string {
  const { kind, points } = drawing
  if (kind === 'distance') return sayDistance(points)
  if (!isEnough(drawing))
    return kind === 'area'
      ? 'Click the corners of the area on the ground.'
      : 'Click the line along which it grows, corner by corner.'
  return `${plural(points.length, 'corner')}. A double click, or Plant, ends it.`
}

/** Of two points how far they are apart, and along each axis. */
function sayDistance([from, to]: readonly Vec3[]): string {
  if (!from || !to)
    return from ? 'Click the other point. Escape ends measuring.' : 'Click two points; corners hold. Escape ends measuring.'
  const [east, up, south] = [0, 1, 2].map(k => to[k] - from[k])
  const metres = (v: number) => `${v.toFixed(3)} m`
  const along = (v: number, forward: string, back: string) => `${v < 0 ? back : forward} ${metres(Math.abs(v))}`
  return [
    metres(Math.hypot(east, up, south)),
    `on the level ${metres(Math.hypot(east, south))}`,
    `${along(east, 'east', 'west')}, ${along(up, 'up', 'down')}, ${along(south, 'south', 'north')}`,
  ].join('  ·  ')
}

const SNAP_WORDS = { grid: 'on the grid', side: 'side to side', middle: 'middle to middle', gap: 'the same gap' } as const

export function sayMoving(
  { by, held, box }: Moving,
  boxes: ReadonlyMap<string, Box>,
  ids: readonly string[],
  pieces: Readonly<Record<string, Piece>>,
  walls: readonly Box[],
): string {
  const near = [...boxes]
    .filter(([id]) => !ids.includes(id))
    .map(([id, b]) => ({ id, m: distanceOf(box, b) }))
    .sort((a, b) => a.m - b.m)[0]
  const words = [`east ${by[0].toFixed(3)} m, south ${by[2].toFixed(3)} m`]
  if (near && near.m < 3) words.push(`${Math.round(near.m * 1000)} mm to ${pieces[near.id].name}`)
  const wall = nearestWall(box, walls)
  if (wall !== null && wall < 3) words.push(`${Math.round(wall * 1000)} mm to the wall`)
  if (held.length > 0) words.push([...new Set(held.map(h => SNAP_WORDS[h.kind]))].join(', '))
  return words.join('  ·  ')
}

/** Of a room, which is one box, the way from inside to its nearest side; null where nothing is inside of one. */
function nearestWall({ min, max }: Box, walls: readonly Box[]): number | null {
  const ways = walls.flatMap(room =>
    [0, 2].flatMap(k => {
      const [low, high] = [min[k] - room.min[k], room.max[k] - max[k]]
      return low >= -ON_WALL_M && high >= -ON_WALL_M ? [Math.max(0, Math.min(low, high))] : []
    }),
  )
  return ways.length > 0 ? Math.min(...ways) : null
}
const ON_WALL_M = 0.001
