import { HOUSE_HABITS } from '#core/findings/finding'
import { collectSources } from '#files/collect-sources'
import { inspectItem } from '#files/inspect-item'
import { recognizeDelivery } from '#files/recognize-delivery'

/** What Intake says of a delivery on disk: the codes of findings and failures by folder, or by path for a file that is in no item. */
export async function takeIn(root: string): Promise<{ path: string; codes: string[] }[]> {
  const { items, failures } = await recognizeDelivery((await collectSources([root])).files)
  const found = failures.map(f => ({ path: f.path, codes: [f.code as string] }))
  for (const item of items) {
    const path = item.files[0].file.path.split('/').slice(0, -1).join('/')
    try {
      const { findings } = await inspectItem(item, item.category)
      // The house's habits are no faults: every sound sky has a heading of its own.
      found.push({ path, codes: findings.map(f => f.code).filter(code => !HOUSE_HABITS.has(code)) })
    } catch (error) {
      found.push({ path, codes: [`failed: ${error instanceof Error ? error.message : error}`] })
    }
  }
  return found
}
