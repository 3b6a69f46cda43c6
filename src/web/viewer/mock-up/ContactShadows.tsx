import { useThree } from '@react-three/fiber'
import { useEffect, useMemo, useState } from 'react'
import { type BufferGeometry, MeshBasicMaterial, PlaneGeometry } from 'three'
import type { Composed } from '#core/mock-up/things/composed'
import { boundsOf } from '#core/mock-up/things/resources'
import type { Ground } from '#core/render/pictures/ground-shadow'
import type { ShadowAnswer, ShadowOrder } from '../../workers/shadow.worker'
import { toTriangles } from '../core-geometry'
import { toShadowTexture } from '../GroundShadow'
import { Instances } from './Instances'
import { trianglesOf } from './plan-triangles'

const SIZE_PX = 96
/** Around a thing the light is still missing so far, as a share of its height; and at most, metres. */
const REACH = 0.6
const FARTHEST_M = 0.6
/** Over the floor, metres: the two must not fight for a pixel. */
const GAP_M = 0.002
/** Of a heavier thing it would take too long to say where it keeps light off. */
const MOST_TRIANGLES = 600_000

/** What lies under one thing, in its own space. */
interface Shadow {
  geometry: BufferGeometry
  material: MeshBasicMaterial
}

/** By the positions of a thing's first part, which stay the same whatever it wears. */
const shadows = new WeakMap<Float32Array, Promise<Shadow | null>>()

/**
 * Where things stand, the light that they keep off the floor just around them: it is missing whatever the sky is. Worked out once for each thing,
 * in a worker, from an even light.
 * @param standing pieces that stand on something; what hangs keeps no light off
 */
export function ContactShadows({
  placed,
  standing,
}: {
  placed: readonly Composed<ImageBitmap>[]
  standing: ReadonlySet<string>
}) {
  return placed.map(thing => <OfThing key={thing.key} thing={thing} standing={standing} />)
}

function OfThing({ thing, standing }: { thing: Composed<ImageBitmap>; standing: ReadonlySet<string> }) {
  const invalidate = useThree(s => s.invalidate)
  const [shadow, setShadow] = useState<Shadow | null>(null)
  const isPiece = thing.of[0]?.piece !== undefined
  const first = thing.parts[0]?.mesh.positions
  // biome-ignore lint/correctness/useExhaustiveDependencies: the first part's positions stand for the thing
  useEffect(() => {
    if (!isPiece || !first) return
    let isLive = true
    let known = shadows.get(first)
    if (!known) {
      known = makeShadow(thing)
      shadows.set(first, known)
    }
    void known.then(made => {
      if (!isLive) return
      setShadow(made)
      invalidate()
    })
    return () => {
      isLive = false
    }
  }, [first, isPiece])
  const placements = useMemo(() => thing.placements.filter((_, k) => standing.has(thing.of[k].piece ?? '')), [thing, standing])
  return shadow && placements.length > 0 ? <Instances {...shadow} placements={placements} /> : null
}

/** One after the other: they are wanted, but nothing waits for them. */
let last: Promise<unknown> = Promise.resolve()

function makeShadow(thing: Composed<ImageBitmap>): Promise<Shadow | null> {
  if (trianglesOf(thing) > MOST_TRIANGLES) return Promise.resolve(null)
  const made = last.then(() => askWorker(thing))
  last = made.catch(() => {})
  return made.catch(() => null)
}

function askWorker(thing: Composed<ImageBitmap>): Promise<Shadow | null> {
  const { min, max } = boundsOf(thing.parts)
  const reach = Math.min(FARTHEST_M, REACH * (max[1] - min[1]))
  const side = Math.max(max[0] - min[0], max[2] - min[2]) + 2 * reach
  if (!(side > 0 && Number.isFinite(side))) return Promise.resolve(null)
  const ground: Ground = { x: (min[0] + max[0]) / 2, y: min[1], z: (min[2] + max[2]) / 2, side }
  return new Promise(resolve => {
    const worker = new Worker(new URL('../../workers/shadow.worker.ts', import.meta.url), { type: 'module' })
    worker.onerror = () => {
      worker.terminate()
      resolve(null)
    }
    worker.onmessage = ({ data }: MessageEvent<ShadowAnswer>) => {
      worker.terminate()
      resolve(toShadow(data, ground))
    }
    const positions = toTriangles(thing.parts.map(p => p.mesh))
    worker.postMessage({ positions, rig: null, ground, sizePx: SIZE_PX } satisfies ShadowOrder, [positions.buffer])
  })
}

function toShadow(shares: ShadowAnswer, { x, y, z, side }: Ground): Shadow {
  const geometry = new PlaneGeometry(side, side).rotateX(-Math.PI / 2).translate(x, y + GAP_M, z)
  const map = toShadowTexture(fadeOut(shares), SIZE_PX)
  const material = new MeshBasicMaterial({
    map,
    transparent: true,
    depthWrite: false,
    polygonOffset: true,
    polygonOffsetFactor: -2,
  })
  return { geometry, material }
}

/** Light again towards the edge, which would show as a line where it is cut off. */
function fadeOut(shares: Float32Array): Float32Array {
  const half = (SIZE_PX - 1) / 2
  return shares.map((share, p) => {
    const out = Math.max(Math.abs((p % SIZE_PX) - half), Math.abs(Math.floor(p / SIZE_PX) - half)) / half
    return 1 - (1 - share ** DEEPER) * Math.min(1, (1 - out) / FADE)
  })
}
const FADE = 0.2
/** Light hardly ever comes as evenly as it was taken to: what keeps some of it off mostly keeps off more. */
const DEEPER = 2
