import { mkdir, writeFile } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { folderOf, tokenizeName } from '#core/file-names'
import { proposeAgain } from '#core/standard/propose-category'
import { takeHouseForm } from '../fixes/take-house-form'
import { type Inspection, inspectItem } from '../items/inspect-item'
import { type ItemSource, withGivenFacts } from '../items/item-source'
import { sourceFileAt } from '../reading/source-file'
import type { RecognizedItem } from './recognized-item'

export interface MeasuredDelivery {
  inspection: Inspection
  category: string
  categoryConfidence: number
}

/**
 * Measures an item as Intake does: what it came in is brought into the form of the house, and its category proposed anew by what was measured.
 * @param temporary an empty folder for what is made on the way
 * @throws FileError when its main file does not read
 */
export async function measureDelivered(item: RecognizedItem, temporary: string): Promise<MeasuredDelivery> {
  const source = await openInHouseForm(item, temporary)
  const first = await inspectItem(source, item.category)
  const { name, sourceFolder, category, categoryConfidence } = item
  const folders = sourceFolder ? sourceFolder.split(' / ') : folderOf(item.files[0].file.path).split('/')
  const placed = proposeAgain(
    item.kind,
    { words: tokenizeName(name), folders, facts: first.facts },
    { category, categoryConfidence },
  )
  const inspection = placed.category === category ? first : await inspectItem(source, placed.category)
  return { inspection, ...placed }
}

async function openInHouseForm(item: RecognizedItem, temporary: string): Promise<ItemSource> {
  const source = withGivenFacts(item, item.given)
  const { files: made } = await takeHouseForm(source)
  const files = [...source.files]
  for (const { from, path, role, handednessHint, bytes } of made) {
    const diskPath = join(temporary, path)
    await mkdir(dirname(diskPath), { recursive: true })
    await writeFile(diskPath, bytes)
    const taken = { file: await sourceFileAt(diskPath, path), role, byContentOnly: false, handednessHint }
    const at = files.findIndex(f => f.file.path === from)
    if (at < 0) files.push(taken)
    else {
      files.push({ ...files[at], role: role === 'model' || role === 'lod' ? 'modelPart' : 'original' })
      files[at] = { ...taken, byContentOnly: files[at].byContentOnly }
    }
  }
  return { ...source, files }
}
