import { BufferAttribute, BufferGeometry, DoubleSide, Ray, Vector3 } from 'three'
import { MeshBVH, SAH } from 'three-mesh-bvh'
import { type Mesh, mergeMeshes, placeMesh } from '#core/geometry/mesh'
import { createSphere } from '#core/geometry/shapes'
import { affineOf } from '#core/math/affine'
import { createRandom } from '#core/math/random'
import { Bvh } from '#core/render/scene/bvh'
import { createRayHit, type RayCaster } from '#core/render/scene/ray-caster'
import { SimdCaster } from '#core/render/scene/simd-caster'
import { type Benchmark, bestSecondsOf, round, secondsOf } from './benchmark'

const RAYS = 1_000_000

/** A heap of balls of about so many triangles. */
function makeHeap(triangles: number) {
  const random = createRandom(4)
  const ball = createSphere(1, [0, 0, 0], 64)
  const count = Math.round(triangles / (ball.indices.length / 3))
  return mergeMeshes(
    Array.from({ length: count }, () =>
      placeMesh(ball, [random.between(-6, 6), random.between(-6, 6), random.between(-6, 6)], 0, random.between(0.3, 1)),
    ),
  )
}

function toSoup({ positions, indices }: Mesh): Float32Array {
  const soup = new Float32Array(indices.length * 3)
  for (let i = 0; i < indices.length; i++) soup.set(positions.subarray(indices[i] * 3, indices[i] * 3 + 3), i * 3)
  return soup
}

function toGeometry({ positions, indices }: Mesh): BufferGeometry {
  const geometry = new BufferGeometry()
  geometry.setAttribute('position', new BufferAttribute(positions, 3))
  geometry.setIndex(new BufferAttribute(indices.slice(), 1))
  return geometry
}

/** 200,000 triangles, and rays from anywhere to anywhere: incoherent, most of them hits. */
function makeScene() {
  const random = createRandom(4)
  const mesh = makeHeap(200_000)
  const rays = new Float32Array(RAYS * 6)
  for (let r = 0; r < RAYS; r++) {
    for (let c = 0; c < 3; c++) rays[r * 6 + c] = random.between(-8, 8)
    const target = [0, 1, 2].map(() => random.between(-5, 5))
    const d = target.map((t, c) => t - rays[r * 6 + c])
    const l = Math.hypot(...d)
    for (let c = 0; c < 3; c++) rays[r * 6 + 3 + c] = d[c] / l
  }
  return { mesh, rays }
}

export const raysBenchmark: Benchmark = {
  name: 'rays-vs-three-mesh-bvh',
  run: async () => {
    const { mesh, rays } = makeScene()
    const triangles = mesh.indices.length / 3
    const soup = toSoup(mesh)
    const hit = createRayHit()
    let ourHits = 0
    const castAll = (caster: RayCaster) => () => {
      ourHits = 0
      for (let r = 0; r < RAYS * 6; r += 6)
        if (caster.closestHit(rays[r], rays[r + 1], rays[r + 2], rays[r + 3], rays[r + 4], rays[r + 5], 1e30, hit)) ourHits++
    }
    const ours = await bestSecondsOf(3, castAll(SimdCaster.build({ positions: soup })))
    const plain = await bestSecondsOf(2, castAll(Bvh.build({ positions: soup })))
    const other = new MeshBVH(toGeometry(mesh))
    const ray = new Ray(new Vector3(), new Vector3())
    let otherHits = 0
    const theirs = await bestSecondsOf(2, () => {
      otherHits = 0
      for (let r = 0; r < RAYS * 6; r += 6) {
        ray.origin.set(rays[r], rays[r + 1], rays[r + 2])
        ray.direction.set(rays[r + 3], rays[r + 4], rays[r + 5])
        if (other.raycastFirst(ray, DoubleSide)) otherHits++
      }
    })
    return [
      {
        name: 'rays-vs-three-mesh-bvh',
        ratio: round(theirs / ours),
        ours: round(RAYS / ours / 1e6),
        baseline: round(RAYS / theirs / 1e6),
        unit: 'Mrays/s',
        note: `${triangles} triangles, ${RAYS} incoherent closest-hit rays, one thread; plain TypeScript ${round(RAYS / plain / 1e6)}; hits ${ourHits} against ${otherHits}`,
      },
    ]
  },
}

const TREE_TRIANGLES = 1_000_000

/** A tree over a million triangles, ready to be walked. */
export const buildBenchmark: Benchmark = {
  name: 'build-bvh',
  run: async () => {
    const mesh = makeHeap(TREE_TRIANGLES)
    const soup = toSoup(mesh)
    const ours = await bestSecondsOf(3, () => SimdCaster.build({ positions: soup }))
    let theirs = Number.POSITIVE_INFINITY
    for (let k = 0; k < 2; k++) {
      const geometry = toGeometry(mesh)
      theirs = Math.min(theirs, await secondsOf(() => new MeshBVH(geometry, { strategy: SAH })))
    }
    return [
      {
        name: 'build-bvh',
        ratio: round(theirs / ours),
        ours: round(ours),
        baseline: round(theirs),
        unit: 's',
        note: `${mesh.indices.length / 3} triangles by surface area, one thread, against three-mesh-bvh with SAH`,
      },
    ]
  },
}

const SHRUBS = 10_000
const SHRUB_TRIANGLES = 90_000

/** Ten thousand shrubs of one shape, ready to be walked; against the tree over one of them alone. */
export const placementsBenchmark: Benchmark = {
  name: 'build-placements',
  run: async () => {
    const positions = toSoup(makeHeap(SHRUB_TRIANGLES))
    const random = createRandom(4)
    const shapes = [{ first: 0, count: positions.length / 9 }]
    const placements = Array.from({ length: SHRUBS }, () => ({
      shape: 0,
      toWorld: affineOf(
        [random.between(-300, 300), random.between(-2, 2), random.between(-300, 300)],
        random.between(0, 2 * Math.PI),
        random.between(0.7, 1.3),
      ),
    }))
    const alone = SimdCaster.build({ positions })
    const one = await bestSecondsOf(2, () => SimdCaster.build({ positions }))
    const all = await bestSecondsOf(2, () => SimdCaster.build({ positions, shapes }, placements))
    const caster = SimdCaster.build({ positions, shapes }, placements)
    const again = await bestSecondsOf(3, () => caster.place(placements))
    return [
      {
        name: 'build-placements',
        ratio: round(one / all),
        ours: round(all),
        baseline: round(one),
        unit: 's',
        note: `${SHRUBS} placements of ${positions.length / 9} triangles against the tree over them once; ${round(caster.bytes / 1e6)} MB against ${round(alone.bytes / 1e6)}; put elsewhere in ${round(again * 1000)} ms`,
      },
    ]
  },
}
