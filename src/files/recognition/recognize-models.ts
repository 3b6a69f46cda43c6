import { isModelType, isPictureType, MODEL_TYPES } from '#core/codecs/sniff'
import { folderOf, stemWords, tokenizeName } from '#core/file-names'
import { toFailure } from '#core/findings/failure'
import { groupBy } from '#core/group-by'
import { type LostTexture, matchTextures } from '../models/match-textures'
import { createResolvers, listModelReferences } from '../models/model-references'
import type { FailedFile, TypedFile } from '../reading/source-file'
import { createItem, type RecognizedFile, type RecognizedItem } from './recognized-item'

/** Words of a name that say which level of detail a file is, best first. */
const LEVEL_WORDS: readonly (readonly string[])[] = [
  ['high', 'hi', 'hp', 'highpoly'],
  ['mid', 'medium', 'mp'],
  ['low', 'lo', 'lp', 'lowpoly'],
]

/** What a model's name says of it beside what it is called. */
export interface ParsedModelName {
  /** The name without the rest. */
  stem: string
  /** Level of detail, 0 the best; null when none is stated. */
  level: number | null
  /** How many triangles, where that is stated instead: "80k", "5000tris". */
  triangles: number | null
  /** Size of its textures, in thousands of pixels: "4k". */
  resolutionK: number | null
}

export function parseModelName(path: string): ParsedModelName {
  const tokens = tokenizeName(path)
  const parsed: ParsedModelName = { stem: '', level: null, triangles: null, resolutionK: null }
  const rest: string[] = []
  for (let i = 0; i < tokens.length; i++) {
    const token = tokens[i]
    // The first word is what the thing is called.
    if (i === 0 || !takeToken(parsed, token, tokens[i + 1], i === tokens.length - 1)) rest.push(token)
    else if (token === 'lod') i++
  }
  return { ...parsed, stem: rest.join(' ') }
}

/** Notes what a word of a name states; false where it is only a part of what the thing is called. */
function takeToken(parsed: ParsedModelName, token: string, next: string | undefined, isLast: boolean): boolean {
  const counted = /^(\d+)(k?)(tris?|triangles|polys?|faces)?$/.exec(token)
  if (counted && (counted[2] || counted[3])) {
    const thousands = Number(counted[1])
    if (counted[2] && !counted[3] && TEXTURE_SIZES_K.has(thousands)) parsed.resolutionK = thousands
    else parsed.triangles = thousands * (counted[2] ? 1000 : 1)
    return true
  }
  if (parsed.level !== null) return false
  const numbered = /^lod(\d)$/.exec(token) ?? (token === 'lod' ? /^(\d)$/.exec(next ?? '') : null)
  const worded = isLast ? LEVEL_WORDS.findIndex(words => words.includes(token)) : -1
  if (!numbered && worded < 0) return false
  parsed.level = numbered ? Number(numbered[1]) : worded
  return true
}
const TEXTURE_SIZES_K: ReadonlySet<number> = new Set([1, 2, 4, 8, 16])

/** Models with what they name beside themselves, levels of detail of one thing as one item. */
export async function recognizeModels(
  files: readonly TypedFile[],
  failures: FailedFile[],
): Promise<{ items: RecognizedItem[]; taken: ReadonlySet<string> }> {
  const taken = new Set<string>()
  const found: ModelEntry[] = []
  const lost: { parts: TypedFile[]; textures: LostTexture[]; path: string }[] = []
  const byPath = new Map(files.map(f => [f.path, f]))
  const resolverOf = createResolvers(files)
  for (const file of files) {
    if (!isModelType(file.type)) continue
    const resolve = resolverOf(file.path)
    try {
      const references = await listModelReferences(file, resolve)
      const beside = references.map(({ address }) => resolve(address)).filter(f => f !== null)
      const parts = [...new Set(beside)].map(f => byPath.get(f.path)!)
      for (const part of parts) taken.add(part.path)
      found.push({ file, parts, name: parseModelName(file.path) })
      const textures = references.filter(r => r.isTexture && resolve(r.address) === null)
      if (textures.length > 0) lost.push({ parts, textures, path: file.path })
    } catch (error) {
      failures.push({ path: file.path, ...toFailure(error) })
    }
  }
  // Only when every model has what it names by name can what is left over be somebody's.
  for (const { parts, textures, path } of lost) {
    const near = files.filter(f => isPictureType(f.type) && !taken.has(f.path) && isNear(f.path, path))
    for (const match of new Set((await matchTextures(textures, near)).values())) {
      parts.push(byPath.get(match.path)!)
      taken.add(match.path)
    }
  }
  // Files of one name in one folder are one thing: its levels of detail, its formats, its sizes of textures.
  const things = groupBy(found, ({ file, name }) => `${folderOf(file.path)}\n${name.stem}`)
  return { items: [...things.values()].map(toItem), taken }
}

/** In the model's own folder, below it, or in one that lies beside it. */
function isNear(path: string, modelPath: string): boolean {
  const folder = folderOf(modelPath)
  const parent = folderOf(folder)
  return path.startsWith(folder === '' ? '' : `${folder}/`) || (parent !== '' && folderOf(folderOf(path)) === parent)
}

interface ModelEntry {
  file: TypedFile
  parts: TypedFile[]
  name: ParsedModelName
}

function toItem(group: ModelEntry[]): RecognizedItem {
  // By what the names state: the level, else the count of triangles; a file without either is the whole.
  const whole = group.some(g => g.name.level === 0) ? 0 : -1
  const rank = ({ name }: ModelEntry) => name.level ?? (name.triangles !== null ? 1 / name.triangles : whole)
  const sorted = [...group].sort(
    (a, b) =>
      rank(a) - rank(b) ||
      (b.name.resolutionK ?? 0) - (a.name.resolutionK ?? 0) ||
      MODEL_TYPES.indexOf(a.file.type) - MODEL_TYPES.indexOf(b.file.type) ||
      b.file.size - a.file.size,
  )
  const seen = new Set<number>()
  const main = sorted.map((entry, i): RecognizedFile => {
    const isRepeat = seen.has(rank(entry))
    seen.add(rank(entry))
    const role = i === 0 ? 'model' : isRepeat ? 'alternate' : 'lod'
    return { file: entry.file, role, byContentOnly: false, handednessHint: null }
  })
  const parts = [...new Set(sorted.flatMap(g => g.parts))].map(
    (file): RecognizedFile => ({ file, role: 'modelPart', byContentOnly: false, handednessHint: null }),
  )
  const isPlain = sorted.length === 1 && sorted[0].name.level === null
  const words = isPlain ? stemWords(sorted[0].file.path) : sorted[0].name.stem.split(' ')
  return createItem('model', [...main, ...parts], words.filter(Boolean), folderOf(sorted[0].file.path))
}
