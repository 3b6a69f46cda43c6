import { guessRoleByContent } from '#core/material/content-role'
import { type MapRole, parseMapName } from '#core/material/texture-set'
import { decodeByteImage } from '../reading/decode-image'
import type { SourceFile } from '../reading/source-file'

/** A texture that a model names and that no file of that name was found for. */
export interface LostTexture {
  address: string
  /** What the model uses it as; null where that does not show. */
  role: MapRole | null
}

/** Names that have this share of their words in common may mean the same thing. */
const LEAST_SHARED = 0.2
const LOOK_PX = 64

/**
 * Finds lost textures among pictures that nothing else asks for: by what the model uses them as, against what each picture's name or
 * pixels say it is, and by the words that the names have in common. A picture that is the only one of its kind needs no common word;
 * where two would do, none is taken.
 * @returns by address
 */
export async function matchTextures(
  lost: readonly LostTexture[],
  candidates: readonly SourceFile[],
): Promise<Map<string, SourceFile>> {
  const matched = new Map<string, SourceFile>()
  if (lost.length === 0 || candidates.length === 0) return matched
  const roles = new Map(await Promise.all(candidates.map(async file => [file.path, await roleOf(file)] as const)))
  const left = new Set(candidates)
  const ofRole = (role: MapRole | null) => [...left].filter(file => role !== null && roles.get(file.path) === role)
  const wanted = lost.map(({ address, role }) => ({ address, role: role ?? parseMapName(address).role }))
  for (const { address, role } of wanted) {
    const scored = ofRole(role)
      .map(file => ({ file, shared: sharedWords(address, file.path) }))
      .filter(s => s.shared >= LEAST_SHARED)
      .sort((a, b) => b.shared - a.shared)
    if (scored.length === 0 || scored[0].shared === scored[1]?.shared) continue
    matched.set(address, scored[0].file)
    left.delete(scored[0].file)
  }
  for (const { address, role } of wanted) {
    if (matched.has(address) || wanted.filter(w => w.role === role && !matched.has(w.address)).length > 1) continue
    const [only, other] = ofRole(role)
    if (!only || other) continue
    matched.set(address, only)
    left.delete(only)
  }
  return matched
}

/** What a picture is, by its name, else by its pixels. */
async function roleOf(file: SourceFile): Promise<MapRole | null> {
  const { role } = parseMapName(file.path)
  if (role) return role
  const image = await decodeByteImage(file.diskPath, LOOK_PX).catch(() => null)
  const guess = image && guessRoleByContent(image)
  return guess && guess.confidence > 0.5 ? guess.role : null
}

/** Words in common over all words of both names, roles and sizes left out; 0..1. */
function sharedWords(a: string, b: string): number {
  const [first, second] = [a, b].map(path => new Set(parseMapName(path.replaceAll('\\', '/')).stem.split(' ').filter(Boolean)))
  const all = new Set([...first, ...second])
  const common = [...first].filter(word => second.has(word)).length
  return all.size === 0 ? 0 : common / all.size
}
