import type { DerivedFile } from './apply-fixes'
import { assembleModel, isSelfContained } from './assemble-model'
import type { ItemSource } from './load-item'

/**
 * Makes one self-contained binary glTF of each model and level of detail of an item that is not one already. Nothing where there is
 * nothing to do.
 * @throws FileError when a model does not read, or a buffer of it did not come along
 */
export async function assembleItem(source: ItemSource): Promise<DerivedFile[]> {
  const parts = source.files.filter(f => f.role === 'modelPart').map(f => f.file)
  const made: DerivedFile[] = []
  for (const { file, role } of source.files) {
    if ((role !== 'model' && role !== 'lod') || (await isSelfContained(file))) continue
    const { bytes } = await assembleModel(file, parts)
    made.push({ from: file.path, path: file.path.replace(/\.[^./]+$/, '.glb'), role, handednessHint: null, bytes })
  }
  return made
}
