import { toFailure } from '#core/findings/failure'
import { tokenizeName } from '#core/material/texture-set'
import { createResolver, listModelReferences } from './model-references'
import { createItem, folderOf, type RecognizedFile, type RecognizedItem, stemWords } from './recognize-delivery'
import type { FailedFile, TypedFile } from './source-file'

/** Words of a name that say which level of detail a file is, best first. */
const LEVEL_WORDS: readonly (readonly string[])[] = [
  ['high', 'hi', 'hp', 'highpoly'],
  ['mid', 'medium', 'mp'],
  ['low', 'lo', 'lp', 'lowpoly'],
]

/** The level of detail that a name states, 0 the best; null when it states none. `stem` is the name without it. */
export function parseLevel(path: string): { stem: string; level: number | null } {
  const tokens = tokenizeName(path)
  let level: number | null = null
  const rest = tokens.filter((token, i) => {
    // The first word is what the thing is called.
    if (i === 0 || level !== null) return true
    const numbered = /^lod(\d)$/.exec(token)
    const split = token === 'lod' ? /^\d$/.exec(tokens[i + 1] ?? '') : null
    const worded = LEVEL_WORDS.findIndex(words => words.includes(token))
    if (numbered) level = Number(numbered[1])
    else if (split) level = Number(split[0])
    else if (worded >= 0 && i === tokens.length - 1) level = worded
    else return true
    return false
  })
  return { stem: (level !== null && tokens.includes('lod') ? rest.filter(t => t !== String(level)) : rest).join(' '), level }
}

/** Models with what they name beside themselves, levels of detail of one thing as one item. */
export async function recognizeModels(
  files: readonly TypedFile[],
  failures: FailedFile[],
): Promise<{ items: RecognizedItem[]; taken: ReadonlySet<string> }> {
  const taken = new Set<string>()
  const groups = new Map<string, { file: TypedFile; level: number | null; parts: TypedFile[] }[]>()
  const byPath = new Map(files.map(f => [f.path, f]))
  for (const file of files) {
    if (file.type !== 'glb' && file.type !== 'gltf' && file.type !== 'obj') continue
    const resolve = createResolver(file.path, files)
    try {
      const addresses = await listModelReferences(file, resolve)
      const found = addresses.map(address => resolve(address)).filter(f => f !== null)
      const parts = [...new Set(found)].map(f => byPath.get(f.path)!)
      for (const part of parts) taken.add(part.path)
      const { stem, level } = parseLevel(file.path)
      // Without a level a file is a thing of its own, whatever it is called; the same thing in two formats is still one.
      const key = `${folderOf(file.path)}\n${level === null ? stem : `${stem} by level`}`
      groups.set(key, [...(groups.get(key) ?? []), { file, level, parts }])
    } catch (error) {
      failures.push({ path: file.path, ...toFailure(error) })
    }
  }
  return { items: [...groups.values()].map(toItem), taken }
}

/** Of one level in several formats the one that holds all of itself. */
const FORMATS = ['glb', 'gltf', 'obj']

function toItem(group: { file: TypedFile; level: number | null; parts: TypedFile[] }[]): RecognizedItem {
  const sorted = [...group].sort(
    (a, b) => (a.level ?? 0) - (b.level ?? 0) || FORMATS.indexOf(a.file.type) - FORMATS.indexOf(b.file.type),
  )
  const seen = new Set<number>()
  const entry = (file: TypedFile, role: RecognizedFile['role']): RecognizedFile => ({
    file,
    role,
    byContentOnly: false,
    handednessHint: null,
  })
  const main = sorted.map(({ file, level }, i) => {
    const isRepeat = seen.has(level ?? 0)
    seen.add(level ?? 0)
    return entry(file, i === 0 ? 'model' : isRepeat ? 'alternate' : 'lod')
  })
  const parts = [...new Set(sorted.flatMap(g => g.parts))].map(file => entry(file, 'modelPart'))
  const words =
    sorted.length > 1 || sorted[0].level !== null
      ? parseLevel(sorted[0].file.path).stem.split(' ')
      : stemWords(sorted[0].file.path)
  return createItem('model', [...main, ...parts], words.filter(Boolean), folderOf(sorted[0].file.path))
}
