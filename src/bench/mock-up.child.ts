import { mkdtemp, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { type Mesh, mergeMeshes } from '#core/geometry/mesh'
import { movePointInPlace } from '#core/math/affine'
import { composeScene } from '#core/mock-up/composing/compose'
import { prepareShot } from '#core/mock-up/composing/render-shot'
import type { ItemRef, Scene } from '#core/mock-up/scene/scene'
import { createScene } from '#core/render/scene/scene'
import { KeptResources } from '#files/mock-ups/kept-resources'
import { openResources } from '#files/mock-ups/open-resources'
import { renderMockUp, sizesFor } from '#files/mock-ups/render-mock-up'
import { stageWorld, toSource, writeWorld } from './mock-up-world'

/** A process of its own that begins a final of the large mock-up, and tells how long that took and how large it grew. */
const folder = await mkdtemp(join(tmpdir(), 'muscovite-mock-up-'))
try {
  const items = await writeWorld(folder)
  const keyOf = new Map(items.map((i, k) => [i.code, (k + 1).toString(16).padStart(64, '0')]))
  const refOf = (code: string): ItemRef => ({ code, version: 1, inputKey: keyOf.get(code)! })
  const sources = Object.fromEntries(items.map(i => [keyOf.get(i.code)!, toSource(i)]))
  const scene = stageWorld(refOf)
  const before = performance.now()
  const { resources } = await openResources(sources, sizesFor('final', sources))
  const opened = performance.now()
  const prepared = prepareShot(scene, scene.shots.all, resources)
  const rendering = prepared.start({ width: 640, seed: 1, noiseTarget: 0.02, maxSamples: 64, denoised: true })
  rendering.step()
  const begun = performance.now()
  for (let k = 1; k < rendering.tiles.length; k++) rendering.step()
  const whole = performance.now()
  const megabytes = process.resourceUsage().maxRSS / 1024

  // A draft as the server makes it, and once more as after an edit: until something of it is to be seen, and until its first pass.
  const kept = new KeptResources(60_000)
  const beginDraft = async (): Promise<{ shownSeconds: number; tracedSeconds: number }> => {
    const from = performance.now()
    let shownSeconds = 0
    const onInterim = async () => {
      shownSeconds ||= (performance.now() - from) / 1000
    }
    const draft = { scene, shot: 'all', quality: 'draft' as const, seed: 1, sources }
    await renderMockUp(draft, () => false, { kept, onInterim })
    return { shownSeconds, tracedSeconds: (performance.now() - from) / 1000 }
  }
  const first = await beginDraft()
  const again = await beginDraft()
  kept.letGo()

  // The same of few enough plants to be flattened.
  const few: Scene = { ...scene, plantings: { field: { ...scene.plantings.field, perM2: 40 / 2500 } } }
  const { loose, placed } = composeScene(few, resources)
  const instancedFrom = performance.now()
  createScene(
    loose,
    new Map(),
    [],
    placed.map(({ parts, placements }) => ({ objects: parts, placements })),
  )
  const flatFrom = performance.now()
  const flat = placed.flatMap(({ parts, placements }) =>
    parts.map(part => ({
      ...part,
      mesh: mergeMeshes(
        placements.map((to): Mesh => {
          const positions = part.mesh.positions.slice()
          for (let v = 0; v < positions.length; v += 3) movePointInPlace(to, positions, v)
          return { ...part.mesh, positions }
        }),
      ),
    })),
  )
  createScene([...loose, ...flat])
  process.send!({
    ...{ first, again },
    openSeconds: (opened - before) / 1000,
    beginSeconds: (begun - opened) / 1000,
    passSeconds: (whole - begun) / 1000,
    placements: prepared.placements,
    instancedSeconds: (flatFrom - instancedFrom) / 1000,
    flatSeconds: (performance.now() - flatFrom) / 1000,
    megabytes,
  })
} finally {
  await rm(folder, { recursive: true, force: true })
  process.disconnect()
}
