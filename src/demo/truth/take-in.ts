import { mkdtemp, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { folderOf } from '#core/file-names'
import { collectSources } from '#files/reading/collect-sources'
import { measureDelivered } from '#files/recognition/measure-delivered'
import { recognizeDelivery } from '#files/recognition/recognize-delivery'

/** What Intake says of a delivery on disk: the codes of findings and failures by folder, or by path for a file that is in no item. */
export async function takeIn(root: string): Promise<{ path: string; codes: string[] }[]> {
  const { items, failures } = await recognizeDelivery((await collectSources([root])).files)
  const found = failures.map(f => ({ path: f.path, codes: [f.code as string] }))
  const temporary = await mkdtemp(join(tmpdir(), 'muscovite-taken-'))
  try {
    for (const [i, item] of items.entries()) {
      const path = folderOf(item.files[0].file.path)
      try {
        const { inspection } = await measureDelivered(item, join(temporary, String(i)))
        found.push({ path, codes: inspection.findings.map(f => f.code) })
      } catch (error) {
        found.push({ path, codes: [`failed: ${error instanceof Error ? error.message : error}`] })
      }
    }
  } finally {
    await rm(temporary, { recursive: true, force: true })
  }
  return found
}
