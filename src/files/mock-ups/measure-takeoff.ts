import { FileError } from '#core/findings/failure'
import { parseGlb } from '#core/geometry/read-gltf'
import { createMaterial } from '#core/material/open-pbr'
import type { Scene } from '#core/mock-up/scene/scene'
import { measureScene, type Takeoff } from '#core/takeoff/measure-scene'
import { type ItemSource, mainFile } from '../items/item-source'
import { readModelBytes } from '../items/load-item'

/** What a scene is made of, measured; of its models only the shapes are opened. */
export async function measureTakeoff(scene: Scene, sources: Readonly<Record<string, ItemSource>>): Promise<Takeoff> {
  const models: Parameters<typeof measureScene>[1] = new Map()
  for (const [key, source] of Object.entries(sources)) {
    if (source.kind !== 'model') continue
    try {
      const model = await parseGlb(await readModelBytes(source, mainFile(source)))
      const plain = createMaterial('no material')
      const parts = model.parts.map(({ name, mesh, material }) => ({ name, mesh, material: model.materials[material] ?? plain }))
      ;(models as Map<string, typeof parts>).set(key, parts)
    } catch (error) {
      // What does not read is named as missing.
      if (!(error instanceof FileError)) throw error
    }
  }
  return measureScene(scene, models)
}
