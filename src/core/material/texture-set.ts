import { extensionOf } from '../codecs/sniff'
import { folderOf, tokenizeName } from '../file-names'
import { groupBy } from '../group-by'

export const MAP_ROLES = [
  'baseColor',
  'normal',
  'roughness',
  'gloss',
  'metalness',
  'ambientOcclusion',
  'height',
  'opacity',
  'specular',
  'emission',
  'translucency',
  'orm',
] as const
export type MapRole = (typeof MAP_ROLES)[number]

/** Runs of name tokens that mean a role. Longer runs are tried first. */
const ROLE_TOKENS: Record<MapRole, string[]> = {
  baseColor: [
    'base color',
    'base colour',
    'basecolor',
    'basecolour',
    'albedo',
    'diffuse',
    'diff',
    'col',
    'color',
    'colour',
    'alb',
    'bc',
  ],
  normal: ['normal', 'normals', 'nrm', 'nor', 'norm', 'normalmap'],
  roughness: ['roughness', 'rough', 'rgh'],
  gloss: ['glossiness', 'gloss', 'smoothness'],
  metalness: ['metalness', 'metallic', 'metal', 'mtl'],
  ambientOcclusion: ['ambient occlusion', 'ambientocclusion', 'occlusion', 'ao', 'occ'],
  height: ['height', 'displacement', 'disp', 'bump', 'depth'],
  opacity: ['opacity', 'alpha', 'mask', 'cutout'],
  specular: ['specular', 'spec', 'refl', 'reflection'],
  emission: ['emission', 'emissive', 'emit', 'glow'],
  translucency: ['translucency', 'transmission', 'sss'],
  orm: ['orm', 'arm', 'occlusion roughness metallic', 'ao rough metal'],
}

const ROLE_BY_TOKENS = new Map(MAP_ROLES.flatMap(role => ROLE_TOKENS[role].map(tokens => [tokens, role] as const)))

/** What words mean that are one supplier's own, in lower case. */
export type RoleWords = Readonly<Record<string, MapRole>>

export interface ParsedMapName {
  stem: string
  role: MapRole | null
  /** Longest side the name claims, in pixels. */
  claimedPx: number | null
  handedness: 'openGl' | 'directX' | null
}

/**
 * Reads role, resolution and handedness from a file name; what is left is the stem that a set shares. The last
 * role word counts, so that `metal_plate_diff` is a base colour and not a metalness map.
 */
export function parseMapName(path: string, words: RoleWords = {}): ParsedMapName {
  const tokens = tokenizeName(path)
  const used = new Set<number>()
  let claimedPx: number | null = null
  let handedness: ParsedMapName['handedness'] = null
  tokens.forEach((token, i) => {
    const k = /^(\d{1,2})k$/.exec(token)
    const px = /^(\d{3,5})(px)?$/.exec(token)
    if (k) claimedPx = Number(k[1]) * 1024
    else if (px && [256, 512, 1024, 2048, 4096, 8192, 16384].includes(Number(px[1]))) claimedPx = Number(px[1])
    else if (['gl', 'ogl', 'opengl'].includes(token)) handedness = 'openGl'
    else if (['dx', 'directx'].includes(token)) handedness = 'directX'
    else return
    used.add(i)
  })
  let role: MapRole | null = null
  for (let end = tokens.length; end > 0 && role === null; end--) {
    for (const span of [3, 2, 1]) {
      if (end - span < 0) continue
      const run = tokens.slice(end - span, end).join(' ')
      const found = words[run] ?? ROLE_BY_TOKENS.get(run)
      // The first word of a name is what the thing is called, even when it is also a role word.
      if (!found || (end - span === 0 && tokens.length > span + used.size)) continue
      role = found
      for (let i = end - span; i < end; i++) used.add(i)
      break
    }
  }
  if (role === null && handedness !== null) role = 'normal'
  const stem = tokens.filter((_, i) => !used.has(i)).join(' ')
  return { stem, role, claimedPx, handedness }
}

export interface MapCandidate {
  path: string
  widthPx: number
  heightPx: number
  bitsPerChannel: number
  /** What the pixels look like, for names that say nothing. */
  contentRole: { role: MapRole; confidence: number } | null
}

export interface AssignedMap {
  path: string
  role: MapRole
  handednessHint: 'openGl' | 'directX' | null
  confidence: number
  reason: 'name' | 'content' | 'nameAndContent'
}

export interface TextureSet {
  stem: string
  folder: string
  maps: AssignedMap[]
  /** Same role at another resolution or depth: kept with the item, not used for the preview. */
  alternates: AssignedMap[]
}

/** Groups image files into texture sets by folder and stem, and gives each file its role. */
export function recognizeTextureSets(
  candidates: readonly MapCandidate[],
  words: RoleWords = {},
): { sets: TextureSet[]; leftOver: string[] } {
  const groups = groupBy(
    candidates.map(candidate => ({ candidate, parsed: parseMapName(candidate.path, words) })),
    ({ candidate, parsed }) => `${withoutSizeFolder(folderOf(candidate.path))}\n${parsed.stem}`,
  )
  const sets: TextureSet[] = []
  const leftOver: string[] = []
  for (const [key, members] of groups) {
    const [folder, stem] = key.split('\n')
    const assigned = members.flatMap(({ candidate, parsed }) => {
      const map = assignRole(candidate, parsed)
      if (!map) leftOver.push(candidate.path)
      return map ? [{ map, candidate }] : []
    })
    if (assigned.length === 0) continue
    assigned.sort((a, b) => preference(b.candidate, b.map.role) - preference(a.candidate, a.map.role))
    const maps: AssignedMap[] = []
    const alternates: AssignedMap[] = []
    for (const { map } of assigned) (maps.some(m => m.role === map.role) ? alternates : maps).push(map)
    sets.push({ stem: stem || folder.split('/').pop() || 'material', folder, maps, alternates })
  }
  return { sets, leftOver }
}

/** Sizes of one set may come in folders beside each other: "Oak/4K", "Oak/1K". */
export const withoutSizeFolder = (folder: string): string =>
  folder.replace(/(^|\/)(\d{1,2}k|512|1024|2048|4096|8192)([ _-]?(png|jpe?g|tiff?|exr|hdr))?$/i, '')

function assignRole(candidate: MapCandidate, parsed: ParsedMapName): AssignedMap | null {
  const { contentRole } = candidate
  const base = { path: candidate.path, handednessHint: parsed.handedness }
  if (parsed.role) {
    const agrees = contentRole?.role === parsed.role
    return { ...base, role: parsed.role, confidence: agrees ? 0.99 : 0.9, reason: agrees ? 'nameAndContent' : 'name' }
  }
  return contentRole && contentRole.confidence > 0.5
    ? { ...base, role: contentRole.role, confidence: contentRole.confidence, reason: 'content' }
    : null
}

/** Higher is better: larger first; for height, more bits before more pixels. */
function preference(c: MapCandidate, role: MapRole): number {
  const size = Math.log2(Math.max(c.widthPx, c.heightPx, 1))
  const lossless = ['png', 'tif', 'tiff', 'exr'].includes(extensionOf(c.path)) ? 0.5 : 0
  return size + lossless + (role === 'height' && c.bitsPerChannel > 8 ? 100 : 0)
}
