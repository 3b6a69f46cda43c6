import { mkdtemp, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { dirname, join } from 'node:path'
import { toFailure } from '#core/findings/failure'
import type { Finding } from '#core/findings/finding'
import type { Facts } from '#files/items/inspect-item'
import { collectSources } from '#files/reading/collect-sources'
import type { FailedFile } from '#files/reading/source-file'
import { measureDelivered } from '#files/recognition/measure-delivered'
import { recognizeDelivery } from '#files/recognition/recognize-delivery'
import type { RecognizedItem } from '#files/recognition/recognized-item'
import { describeFinding } from '#shared/finding-words'
import { factLabel, formatFact } from '#shared/units'

interface InspectedItem {
  path: string
  kind: string
  name: string
  category: string
  files: { path: string; role: string }[]
  facts: Facts
  findings: (Finding & { message: string })[]
}

/** Prints what the paths hold; 1 when anything in them failed. */
export async function runInspect(paths: string[], json: boolean, print: (text: string) => void): Promise<number> {
  const sources = await collectSources(paths)
  try {
    const recognition = await recognizeDelivery(sources.files)
    const items: InspectedItem[] = []
    const failures: FailedFile[] = [...sources.failures, ...recognition.failures]
    const temporary = await mkdtemp(join(tmpdir(), 'muscovite-inspect-'))
    try {
      for (const [i, item] of recognition.items.entries())
        try {
          const { inspection, category } = await measureDelivered(item, join(temporary, String(i)))
          failures.push(...inspection.failures)
          const read = item.files.filter(f => !inspection.failures.some(x => x.path === f.file.path))
          items.push({
            path: pathOf(item),
            kind: item.kind,
            name: item.name,
            category,
            files: read.map(f => ({ path: f.file.path, role: f.role })),
            facts: inspection.facts,
            findings: inspection.findings.map(f => ({ ...f, message: describeFinding(f.code, f.evidence) })),
          })
        } catch (error) {
          // Each of its files has a place in what is printed.
          failures.push(...item.files.map(f => ({ path: f.file.path, ...toFailure(error) })))
        }
    } finally {
      await rm(temporary, { recursive: true, force: true })
    }
    print(
      json
        ? `${JSON.stringify({ items: items.map(withBoundsAsNumbers), leftOver: recognition.leftOver, failures })}\n`
        : report(items, failures),
    )
    return failures.length > 0 ? 1 : 0
  } finally {
    await sources.dispose()
  }
}

/** For programs the three extents are a list of metres; people read them as one text. */
const withBoundsAsNumbers = (item: InspectedItem) =>
  item.kind === 'model'
    ? { ...item, facts: { ...item.facts, boundsM: ['widthM', 'heightM', 'depthM'].map(name => item.facts[name]) } }
    : item

/** The file itself where one file is the item, the folder of a set. */
function pathOf(item: RecognizedItem): string {
  const main = item.files.filter(f => f.role !== 'picture')
  return main.length === 1 || item.kind !== 'material' ? main[0].file.path : dirname(main[0].file.path).replace(/^\.$/, item.name)
}

function report(items: InspectedItem[], failures: FailedFile[]): string {
  const lines: string[] = []
  for (const item of items) {
    lines.push(`${item.name}  (${item.kind}, ${item.category})  ${item.path}`)
    for (const [name, value] of Object.entries(item.facts))
      lines.push(`    ${factLabel(name).padEnd(24)} ${formatFact(name, value)}`)
    for (const f of item.findings)
      lines.push(`  ${f.severity === 'note' ? '·' : '!'} ${f.subject ? `${f.subject}: ` : ''}${f.message}`)
    lines.push('')
  }
  for (const failure of failures) lines.push(`x ${failure.path}: ${failure.message}`)
  lines.push(`${items.length} items, ${failures.length} failures`, '')
  return lines.join('\n')
}
