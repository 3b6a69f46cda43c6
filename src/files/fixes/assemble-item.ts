import type { ItemSource } from '../items/load-item'
import { assembleModel, isSelfContained } from '../models/assemble-model'
import type { DerivedFile } from './apply-fixes'

/**
 * Makes one self-contained binary glTF of each model and level of detail of an item that is not one already. Nothing where there is
 * nothing to do.
 * @returns with the addresses that no file was found for
 * @throws FileError when a model does not read, or a buffer of it did not come along
 */
export async function assembleItem(source: ItemSource): Promise<{ files: DerivedFile[]; missing: string[] }> {
  const parts = source.files.filter(f => f.role === 'modelPart').map(f => f.file)
  const made: DerivedFile[] = []
  const missingOnes = new Set<string>()
  for (const { file, role } of source.files) {
    if ((role !== 'model' && role !== 'lod') || (await isSelfContained(file))) continue
    const { bytes, missing } = await assembleModel(file, parts)
    for (const address of missing) missingOnes.add(address)
    made.push({ from: file.path, path: file.path.replace(/\.[^./]+$/, '.glb'), role, handednessHint: null, bytes })
  }
  return { files: made, missing: [...missingOnes] }
}
