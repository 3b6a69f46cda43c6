import type { FindingCode } from '#core/findings/finding'
import { groupBy } from '#core/group-by'
import type { BatchItem } from '#shared/contracts/intake.contract'
import { plural } from '../../../../words/states'

/** What a lead looks at first: something to fix, a size or a category in doubt, files that would not read. */
export const isDoubtful = (i: BatchItem): boolean =>
  i.state !== 'accepted' &&
  ((i.needsWidth && i.decision !== 'link') ||
    i.state === 'failed' ||
    i.categoryConfidence < 0.5 ||
    i.findings.some(f => f.severity !== 'note'))

/** What accepting does not settle by itself: facts that are missing or not as they may be, another name, words that are not ours. */
export const isOffStandard = (i: BatchItem): boolean =>
  i.state !== 'accepted' &&
  (i.proposedName !== null || [i.missingFacts, i.outOfRange, i.strangeTags].some(list => list.length > 0))

/** Higher is more in doubt: what cannot be accepted first, then what must and should be fixed, then a guessed category. */
export function doubtOf(i: BatchItem): number {
  if (i.state === 'accepted') return -1
  const count = (severity: string) => i.findings.filter(f => f.severity === severity).length
  return (
    (i.state === 'failed' ? 1000 : 0) +
    count('mustFix') * 50 +
    (i.needsWidth ? 40 : 0) +
    count('shouldFix') * 10 +
    (1 - i.categoryConfidence) * 5 +
    count('note')
  )
}

const BY_NAME = new Intl.Collator()

export const ORDERS = ['category', 'doubt', 'name', 'folder', 'lacking'] as const
export type Order = (typeof ORDERS)[number]

/** '' for every row, 'doubtful', 'fixed', 'known' to the library, or the code of a finding. */
export type RowFilter = '' | 'doubtful' | 'offStandard' | 'fixed' | 'known' | FindingCode

export function viewRows(items: readonly BatchItem[], filter: RowFilter, order: Order): readonly BatchItem[] {
  if (filter === '' && order === 'category') return items
  const shown = items.filter(i =>
    filter === ''
      ? true
      : filter === 'doubtful'
        ? isDoubtful(i)
        : filter === 'fixed'
          ? i.fixes.length > 0
          : filter === 'offStandard'
            ? isOffStandard(i)
            : filter === 'known'
              ? i.conflict !== null
              : i.findings.some(f => f.code === filter),
  )
  if (order === 'doubt') return [...shown].sort((a, b) => doubtOf(b) - doubtOf(a) || a.id - b.id)
  if (order === 'name') return [...shown].sort((a, b) => BY_NAME.compare(a.name, b.name) || a.id - b.id)
  return shown
}

/** Rows under one heading, in an order that has headings. */
export interface RowGroup {
  title: string
  items: BatchItem[]
}

const LACKS: readonly [title: string, test: (item: BatchItem) => boolean][] = [
  ['Could not be read', i => i.state === 'failed'],
  ['No real-world width', i => i.needsWidth && i.decision !== 'link'],
  ['No category', i => i.categoryConfidence < 0.5],
  ['Must be fixed', i => i.findings.some(f => f.severity === 'mustFix')],
  ['Facts that the standard asks for', i => i.missingFacts.length > 0],
]

/** Every row once: by the delivery's folders, or by the first thing that keeps it from being accepted; null for an order without headings. */
export function groupRows(items: readonly BatchItem[], order: Order): RowGroup[] | null {
  if (order !== 'folder' && order !== 'lacking') return null
  const titleOf = (item: BatchItem): string => {
    if (order === 'folder') return item.sourceFolder || 'In no folder of its own'
    if (item.state === 'accepted') return 'Accepted'
    return LACKS.find(([, test]) => test(item))?.[0] ?? 'Lacks nothing'
  }
  const groups = [...groupBy(items, titleOf)].map(([title, members]): RowGroup => ({ title, items: members }))
  const rank = ({ title }: RowGroup) => {
    const at = LACKS.findIndex(([t]) => t === title)
    return at >= 0 ? at : title === 'Accepted' ? LACKS.length + 1 : LACKS.length
  }
  return order === 'folder' ? groups.sort((a, b) => BY_NAME.compare(a.title, b.title)) : groups.sort((a, b) => rank(a) - rank(b))
}

/** "3 items accepted as drafts, 1 as a new version, 2 linked to what the library has." */
export function describeAccepted(accepted: readonly BatchItem[]): string {
  const count = (decision: string) =>
    accepted.filter(i => (i.decision ?? (i.twinOf === null ? 'keepBoth' : 'link')) === decision).length
  const [own, versions, links] = [count('keepBoth'), count('newVersion'), count('link')]
  const parts = [
    own > 0 ? `${plural(own, 'item')} accepted as ${own === 1 ? 'a draft' : 'drafts'}` : '',
    versions > 0 ? `${plural(versions, 'new version')}` : '',
    links > 0 ? `${links} linked to what the library has` : '',
  ]
  return `${parts.filter(Boolean).join(', ')}.`
}

export interface FindingKind {
  code: FindingCode
  rows: number
  isFixable: boolean
}

/** Which findings there are among rows, the most frequent first. */
export function listFindingKinds(items: readonly BatchItem[]): FindingKind[] {
  const kinds = new Map<string, FindingKind>()
  for (const item of items) {
    if (item.state === 'accepted') continue
    for (const f of new Map(item.findings.map(x => [x.code, x])).values()) {
      const kind = kinds.get(f.code) ?? { code: f.code as FindingCode, rows: 0, isFixable: false }
      kind.rows++
      kind.isFixable ||= f.fix !== null
      kinds.set(f.code, kind)
    }
  }
  return [...kinds.values()].sort((a, b) => b.rows - a.rows || a.code.localeCompare(b.code))
}

/** The row that a file most likely belongs to: the one whose files share the longest beginning of their path, within its folder. */
export function findHome(items: readonly BatchItem[], path: string): BatchItem | null {
  const folder = path.slice(0, path.lastIndexOf('/') + 1)
  let best: { item: BatchItem; length: number } | null = null
  for (const item of items)
    for (const file of item.files) {
      const length = sharedLength(file.path, path)
      if (length > folder.length && (!best || length > best.length)) best = { item, length }
    }
  return best?.item ?? null
}

function sharedLength(a: string, b: string): number {
  let length = 0
  while (length < a.length && a[length] === b[length]) length++
  return length
}

export interface RowFigures {
  ready: BatchItem[]
  measuring: number
  doubtful: number
  offStandard: number
  fixed: number
  known: number
  kinds: FindingKind[]
}

/** What the head of a worklist says of its rows, counted once for all of them. */
export function countRows(items: readonly BatchItem[]): RowFigures {
  const count = (test: (item: BatchItem) => boolean) => items.reduce((sum, i) => (test(i) ? sum + 1 : sum), 0)
  return {
    ready: items.filter(i => i.state === 'ready' && (!i.needsWidth || i.decision === 'link')),
    measuring: count(i => i.state === 'measuring'),
    doubtful: count(isDoubtful),
    offStandard: count(isOffStandard),
    fixed: count(i => i.fixes.length > 0),
    known: count(i => i.conflict !== null),
    kinds: listFindingKinds(items),
  }
}
