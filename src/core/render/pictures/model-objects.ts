import type { Model } from '../../geometry/model'
import type { ByteImage } from '../../image/image'
import { createMaterial } from '../../material/open-pbr'
import type { SceneObject } from '../scene/scene'

/** A model's parts as they are drawn; a part without a material is grey. */
export function objectsOfModel(model: Model, images: readonly ByteImage[]): SceneObject[] {
  const plain = createMaterial('no material', { baseColor: [0.6, 0.6, 0.6] })
  return model.parts.map(part => ({ mesh: part.mesh, material: model.materials[part.material] ?? plain, images }))
}
