import { readFile } from 'node:fs/promises'
import { tokenizeName } from '#core/file-names'
import type { TypedFile } from '../reading/source-file'
import { chooseIndex, type DeliveryIndex, type IndexEntry, type IndexVerdict, parseDeliveryIndex } from './delivery-index'
import type { RecognizedItem } from './recognized-item'

const MAX_INDEX_BYTES = 32 * 1024 ** 2

/**
 * Finds the lists among a delivery's texts and writes what the one that counts says (source folder, tags, width) into the items it names.
 * @returns what became of each text that is a list; other texts are not in it
 */
export async function applyDeliveryIndex(
  texts: readonly TypedFile[],
  items: readonly RecognizedItem[],
): Promise<ReadonlyMap<string, IndexVerdict>> {
  const indexes: DeliveryIndex[] = []
  for (const file of texts) {
    const isOfLists = /^(.*\.(?:csv|tsv|json|txt))(?:~|\.bak|\.old|\.orig|\.\d+)?$/i.exec(file.path)
    if (file.size > MAX_INDEX_BYTES || !isOfLists) continue
    const index = parseDeliveryIndex(isOfLists[1], await readFile(file.diskPath, 'utf8'))
    if (index) indexes.push({ ...index, path: file.path })
  }
  if (indexes.length === 0) return new Map()
  const lookUp = createLookUp(items)
  const matchesOf = (index: DeliveryIndex) => index.entries.flatMap(entry => lookUp(entry).map(item => ({ item, entry })))
  const { chosen, verdicts } = chooseIndex(indexes, index => new Set(matchesOf(index).map(m => m.item)).size)
  if (chosen)
    for (const { item, entry } of matchesOf(chosen)) {
      if (entry.sourceFolder) item.sourceFolder = entry.sourceFolder
      item.tags = [...new Set([...item.tags, ...entry.tags])]
      if (item.kind === 'material' && item.widthMm === null) item.widthMm = entry.widthMm
    }
  return verdicts
}

const plain = (path: string): string =>
  path
    .replaceAll('\\', '/')
    .replace(/^(\.?\/)+/, '')
    .replace(/\/+$/, '')
    .toLowerCase()
const wordsOf = (name: string): string => tokenizeName(name.replaceAll('/', ' ')).join(' ')

/** Items by what an entry may name them with: a file, a folder, or their name. */
function createLookUp(items: readonly RecognizedItem[]): (entry: IndexEntry) => RecognizedItem[] {
  const byTail = new Map<string, Set<RecognizedItem>>()
  const byName = new Map<string, Set<RecognizedItem>>()
  const put = (map: Map<string, Set<RecognizedItem>>, key: string, item: RecognizedItem) =>
    map.set(key, (map.get(key) ?? new Set()).add(item))
  for (const item of items) {
    put(byName, wordsOf(item.name), item)
    for (const { file } of item.files) {
      const parts = plain(file.path).split('/')
      // A list may begin its paths at any folder, and may name the folder of a set.
      for (let from = 0; from < parts.length; from++) {
        put(byTail, parts.slice(from).join('/'), item)
        for (let to = from + 1; to < parts.length; to++) put(byTail, `${parts.slice(from, to).join('/')}/`, item)
      }
    }
  }
  return ({ path, name }) => {
    const wanted = plain(path)
    // A folder with many items in it names none of them.
    const folder = wanted ? byTail.get(`${wanted}/`) : undefined
    const found =
      (wanted ? byTail.get(wanted) : undefined) ??
      (folder && folder.size === 1 ? folder : undefined) ??
      (name ? byName.get(wordsOf(name)) : undefined) ??
      (wanted ? byName.get(wordsOf(wanted.split('/').pop() ?? '')) : undefined)
    return found ? [...found] : []
  }
}
