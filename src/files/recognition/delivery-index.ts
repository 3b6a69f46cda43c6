import Papa from 'papaparse'
import { tokenizeName } from '#core/file-names'

/** What a delivery's own list says of one thing. */
export interface IndexEntry {
  /** A file or folder it names, as written; empty when it gives a name only. */
  path: string
  name: string
  /** Where the delivery files it, its parts joined by " / ". */
  sourceFolder: string
  tags: string[]
  widthMm: number | null
}

export interface DeliveryIndex {
  path: string
  entries: IndexEntry[]
}

/** Which columns or keys mean what, in the words that lists use. */
const KEYS = {
  path: ['path', 'file', 'filename', 'file name', 'file path', 'filepath', 'source', 'asset'],
  name: ['name', 'title', 'item', 'label', 'product'],
  sourceFolder: ['category', 'categories', 'folder', 'group', 'collection', 'class', 'type', 'section'],
  subPlace: ['subcategory', 'sub category', 'subgroup', 'sub folder', 'subfolder'],
  tags: ['tags', 'tag', 'keywords', 'labels'],
  width: [
    'width',
    'size',
    'real world width',
    'real width',
    'tile width',
    'width mm',
    'width cm',
    'width m',
    'size mm',
    'size cm',
    'size m',
  ],
} as const
type Field = keyof typeof KEYS

const MAX_ENTRIES = 200_000

/**
 * Reads a list that came with a delivery: a table with a heading, JSON with objects, or plain lines of paths. Null when the text is no
 * such list. What it says of itself is not believed further than this: entries that name nothing that came along are dropped later.
 */
export function parseDeliveryIndex(path: string, text: string): DeliveryIndex | null {
  const ending = path.toLowerCase().split('.').pop()
  const entries =
    ending === 'json'
      ? readJson(text)
      : ending === 'csv' || ending === 'tsv'
        ? readTable(text)
        : ending === 'txt'
          ? readLines(text)
          : null
  return entries && entries.length > 0 ? { path, entries: entries.slice(0, MAX_ENTRIES) } : null
}

function readTable(text: string): IndexEntry[] | null {
  const { data, meta } = Papa.parse<Record<string, string>>(text.replace(/^\uFEFF/, ''), {
    header: true,
    skipEmptyLines: 'greedy',
  })
  const fields = meta.fields ?? []
  return fields.length < 2 ? null : readObjects(data)
}

function readJson(text: string): IndexEntry[] | null {
  let json: unknown
  try {
    json = JSON.parse(text.replace(/^\uFEFF/, ''))
  } catch {
    return null
  }
  return readObjects(listObjects(json, 0, ''))
}

/** Every object in a list, wherever the list hangs; the keys on the way to it are its source folder when it has none of its own. */
function listObjects(value: unknown, depth: number, sourceFolder: string): Record<string, unknown>[] {
  if (depth > 6 || typeof value !== 'object' || value === null) return []
  if (Array.isArray(value))
    return value.flatMap(entry =>
      typeof entry === 'string'
        ? [{ path: entry, category: sourceFolder }]
        : typeof entry === 'object' && entry !== null && !Array.isArray(entry)
          ? [sourceFolder ? { category: sourceFolder, ...entry } : (entry as Record<string, unknown>)]
          : [],
    )
  return Object.entries(value).flatMap(([key, inner]) => {
    const isWrapper = /^(items|assets|files|entries|list|data|materials|models|categories|index)$/i.test(key)
    return listObjects(inner, depth + 1, isWrapper ? sourceFolder : [sourceFolder, key].filter(Boolean).join(' / '))
  })
}

function readObjects(objects: readonly Record<string, unknown>[]): IndexEntry[] | null {
  const entries = objects.map(readObject).filter(e => e !== null)
  return entries.length > 0 && entries.some(e => e.sourceFolder !== '' || e.tags.length > 0 || e.widthMm !== null)
    ? entries
    : null
}

function readObject(object: Record<string, unknown>): IndexEntry | null {
  const found = new Map<Field, { key: string; value: unknown }>()
  for (const [key, value] of Object.entries(object)) {
    const plain = key
      .replace(/([a-z])([A-Z])/g, '$1 $2')
      .toLowerCase()
      .replace(/[\s_()-]+/g, ' ')
      .trim()
    for (const field of Object.keys(KEYS) as Field[])
      if (!found.has(field) && (KEYS[field] as readonly string[]).includes(plain)) found.set(field, { key: plain, value })
  }
  const text = (field: Field): string => {
    const value = found.get(field)?.value
    return typeof value === 'string' || typeof value === 'number' ? String(value).trim() : ''
  }
  const path = text('path')
  const name = text('name')
  if (path === '' && name === '') return null
  const sourceFolders = [found.get('sourceFolder')?.value, found.get('subPlace')?.value]
    .flatMap(toList)
    .flatMap(p => p.split(/[/\\>|]+/))
  const width = found.get('width')
  return {
    path,
    name,
    sourceFolder: sourceFolders
      .map(p => p.trim())
      .filter(Boolean)
      .join(' / '),
    tags: toList(found.get('tags')?.value)
      .flatMap(t => t.split(/[,;|]+/))
      .map(t => t.trim().toLowerCase())
      .filter(Boolean),
    widthMm: width ? parseWidthMm(width.key, width.value) : null,
  }
}

const toList = (value: unknown): string[] =>
  Array.isArray(value) ? value.filter((v): v is string => typeof v === 'string') : typeof value === 'string' ? [value] : []

const MM: Record<string, number> = { mm: 1, cm: 10, m: 1000, in: 25.4, inch: 25.4, '"': 25.4, ft: 304.8 }

/** "60 cm", "0.6 m", "600 x 600 mm", or a bare figure whose unit the heading gives. Null without a unit: guessing would be wrong by ten. */
function parseWidthMm(key: string, value: unknown): number | null {
  const text = typeof value === 'number' ? String(value) : typeof value === 'string' ? value : ''
  const figure = /(\d+(?:[.,]\d+)?)/.exec(text)
  if (!figure) return null
  const unit =
    /\b(mm|cm|m|in|inch|ft)\b|"/i.exec(text.replace(/\d+(?:[.,]\d+)?/g, ' '))?.[0].toLowerCase() ?? / (mm|cm|m)$/.exec(key)?.[1]
  const mm = unit ? Number(figure[1].replace(',', '.')) * MM[unit] : Number.NaN
  return mm > 0.5 && mm < 100_000 ? mm : null
}

/** Lines that are paths with folders; the folders are the source folder. */
function readLines(text: string): IndexEntry[] | null {
  const lines = text
    .split(/\r?\n/)
    .map(l => l.trim())
    .filter(l => l !== '' && !l.startsWith('#'))
  const paths = lines.filter(l => /^[^:*?"<>|]+[/\\][^:*?"<>|]+\.[a-z0-9]{2,5}$/i.test(l))
  if (paths.length < 2 || paths.length < lines.length * 0.6) return null
  return paths.map(path => {
    const parts = path
      .replaceAll('\\', '/')
      .split('/')
      .filter(p => p !== '.')
    return { path, name: '', sourceFolder: parts.slice(0, -1).join(' / '), tags: [], widthMm: null }
  })
}

const BACKUP_WORDS = ['backup', 'bak', 'old', 'copy', 'kopie', 'previous', 'archive', 'orig']

export type IndexVerdict = 'used' | 'older' | 'backup' | 'foreign'

/**
 * Which list of a delivery counts: of those that name what came along, the one that names most of it, newest name last; copies kept aside
 * are known by their names.
 * @param countMatches how many things of the delivery the entries of a list name
 */
export function chooseIndex(
  indexes: readonly DeliveryIndex[],
  countMatches: (index: DeliveryIndex) => number,
): { chosen: DeliveryIndex | null; verdicts: ReadonlyMap<string, IndexVerdict> } {
  const rated = indexes.map(index => ({ index, matches: countMatches(index), isBackup: isBackupName(index.path) }))
  const [best] = rated
    .filter(r => r.matches > 0)
    .sort(
      (a, b) =>
        Number(a.isBackup) - Number(b.isBackup) ||
        b.matches - a.matches ||
        b.index.path.localeCompare(a.index.path, undefined, { numeric: true }),
    )
  const verdicts = new Map<string, IndexVerdict>()
  for (const { index, matches, isBackup } of rated)
    verdicts.set(index.path, index === best?.index ? 'used' : matches === 0 ? 'foreign' : isBackup ? 'backup' : 'older')
  return { chosen: best?.index ?? null, verdicts }
}

const isBackupName = (path: string): boolean =>
  /(~|\.bak|\.old)(\.|$)/i.test(path) || / \(\d+\)\./.test(path) || tokenizeName(path).some(t => BACKUP_WORDS.includes(t))
