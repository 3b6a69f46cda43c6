import { describe, expect, it } from 'vitest'
import { createSphere } from '../../geometry/shapes'
import { createMaterial } from '../../material/open-pbr'
import { createCamera } from '../film/camera'
import { createExposedLight, createHouseLightMap } from '../lights/house-light'
import { createRayHit } from '../scene/ray-caster'
import { createScene } from '../scene/scene'
import type { SimdCaster } from '../scene/simd-caster'
import { packScene, packView } from './kernel-scene'
import { createTracer } from './kernel-tracer'

const sceneOf = (ior: number) =>
  createScene([
    {
      mesh: createSphere(0.5, [0, 0, 0], 16),
      material: createMaterial('ball', { specularIor: ior, transmissionWeight: 1 }),
      images: [],
    },
  ])
const memoryOf = (scene: ReturnType<typeof sceneOf>) => (scene.caster as SimdCaster).memory

describe('the memory of a scene', () => {
  it('is given out in pieces that lie one behind the other, on sixteens, and grows', () => {
    const memory = memoryOf(sceneOf(1.5))
    const before = memory.buffer.byteLength
    const [a, b, c] = [memory.allocate(10), memory.allocate(1), memory.allocate(before * 2)]
    expect([a % 16, b % 16, c % 16]).toEqual([0, 0, 0])
    expect(b).toBeGreaterThanOrEqual(a + 10)
    expect(c).toBeGreaterThan(b)
    expect(memory.buffer.byteLength).toBeGreaterThanOrEqual(c + before * 2)
    expect(memory.bytes).toBe(c + before * 2)
  })

  it('keeps what rays need when it grows under them', () => {
    const scene = sceneOf(1.5)
    const memory = memoryOf(scene)
    const hit = createRayHit()
    const cast = () => scene.caster.closestHit(0, 0, 3, 0, 0, -1, 1e30, hit) && hit.distance
    const before = cast()
    expect(before).toBeCloseTo(2.5, 2)
    memory.allocate(memory.buffer.byteLength * 3)
    expect(cast()).toBe(before)
  })

  it('takes a scene once, and a light once for all who look at it', () => {
    const scene = sceneOf(1.45)
    const memory = memoryOf(scene)
    const at = packScene(memory, scene)
    const whole = memory.bytes
    expect(packScene(memory, scene)).toBe(at)
    expect(memory.bytes).toBe(whole)
    const light = createExposedLight(createHouseLightMap(64), 0)
    const camera = createCamera([0, 0, 3], [0, 0, 0], 50, 1)
    const look = (seed: number) =>
      packView(memory, { ...camera, background: null, width: 8, height: 8, seed, environment: light })
    look(1)
    const withLight = memory.bytes
    look(2)
    // A view is small; the map of the light is not there a second time.
    expect(memory.bytes - withLight).toBeLessThan(400)
  })

  it('has tables made for it while it traces, once each', () => {
    const scene = sceneOf(1.37)
    const memory = memoryOf(scene)
    const light = createExposedLight(createHouseLightMap(64), 0)
    const camera = createCamera([0, 0, 3], [0, 0, 0], 50, 1)
    const tracer = createTracer(scene, light, camera, { background: null, width: 16, height: 16, seed: 1 })
    const asked: string[] = []
    const { onTable } = memory
    memory.onTable = (key, which) => {
      asked.push(`${key} ${which}`)
      return onTable(key, which)
    }
    for (let p = 0; p < 256; p++) tracer.tracePixel(p % 16, p >> 4, 0, 4)
    expect(asked).toContain('137 0')
    expect(asked).toContain('137 1')
    expect(new Set(asked).size).toBe(asked.length)
  })
})
