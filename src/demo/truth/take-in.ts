import { folderOf } from '#core/file-names'
import { inspectItem } from '#files/items/inspect-item'
import { collectSources } from '#files/reading/collect-sources'
import { recognizeDelivery } from '#files/recognition/recognize-delivery'

/** What Intake says of a delivery on disk: the codes of findings and failures by folder, or by path for a file that is in no item. */
export async function takeIn(root: string): Promise<{ path: string; codes: string[] }[]> {
  const { items, failures } = await recognizeDelivery((await collectSources([root])).files)
  const found = failures.map(f => ({ path: f.path, codes: [f.code as string] }))
  for (const item of items) {
    const path = folderOf(item.files[0].file.path)
    try {
      const { findings } = await inspectItem(item, item.category)
      found.push({ path, codes: findings.map(f => f.code) })
    } catch (error) {
      found.push({ path, codes: [`failed: ${error instanceof Error ? error.message : error}`] })
    }
  }
  return found
}
