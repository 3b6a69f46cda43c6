import type { Affine } from '#core/math/affine'
import type { Vec3 } from '#core/math/vec3'
import { type Lens, seeThrough } from '#core/mock-up/composing/look-through'
import type { Box } from '#core/mock-up/placing/snapping'

const EDGES = [
  [0, 1],
  [1, 3],
  [3, 2],
  [2, 0],
  [4, 5],
  [5, 7],
  [7, 6],
  [6, 4],
  [0, 4],
  [1, 5],
  [2, 6],
  [3, 7],
]

interface Props {
  lens: Lens
  size: { width: number; height: number }
  outlines: readonly { toWorld: Affine; box: Box }[]
  lines: readonly [Vec3, Vec3][]
}

/** Lines over the picture, live or traced: light ones with a dark rim, seen on anything. */
export function Marks({ lens, size, outlines, lines }: Props) {
  const segments = [...outlines.flatMap(edgesOf), ...lines]
  const path = segments
    .flatMap(([a, b]) => {
      const [p, q] = [seeThrough(lens, a), seeThrough(lens, b)]
      if (!p || !q) return []
      const at = ({ x, y }: typeof p) =>
        `${((x * 0.5 + 0.5) * size.width).toFixed(1)} ${((0.5 - y * 0.5) * size.height).toFixed(1)}`
      return [`M${at(p)}L${at(q)}`]
    })
    .join('')
  if (path === '') return null
  return (
    <svg aria-hidden className="pointer-events-none absolute inset-0 size-full">
      <path d={path} stroke="#141414" strokeOpacity={0.6} strokeWidth={3} fill="none" />
      <path d={path} stroke="#ffffff" strokeWidth={1.25} fill="none" />
    </svg>
  )
}

function edgesOf({ toWorld: a, box }: { toWorld: Affine; box: Box }): [Vec3, Vec3][] {
  const corner = (n: number): Vec3 => {
    const p = [0, 1, 2].map(k => (n & (1 << k) ? box.max[k] : box.min[k]))
    return [0, 1, 2].map(i => a[i * 4] * p[0] + a[i * 4 + 1] * p[1] + a[i * 4 + 2] * p[2] + a[i * 4 + 3]) as Vec3
  }
  return EDGES.map(([from, to]) => [corner(from), corner(to)])
}
