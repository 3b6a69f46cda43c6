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
    'dif',
    'colormap',
    'diffusemap',
    'albedomap',
  ],
  normal: ['normal', 'normals', 'nrm', 'nor', 'norm', 'nml', 'normalmap', 'ddn'],
  roughness: ['roughness', 'rough', 'rgh'],
  gloss: ['glossiness', 'gloss', 'smoothness', 'smooth', 'gls', 'glossmap'],
  metalness: ['metalness', 'metallic', 'metal', 'mtl'],
  ambientOcclusion: ['ambient occlusion', 'ambientocclusion', 'occlusion', 'ao', 'occ'],
  height: ['height', 'displacement', 'disp', 'bump', 'depth', 'heightmap', 'bumpmap', 'hgt'],
  opacity: ['opacity', 'alpha', 'mask', 'cutout'],
  specular: ['specular', 'spec', 'refl', 'reflection', 'specmap', 'specularmap'],
  emission: ['emission', 'emissive', 'emit', 'glow', 'glowmap', 'lum'],
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
  /** siblings: what the rest of its set lacks; variant: it is the map of the set that this one is a variant of. */
  reason: 'name' | 'content' | 'nameAndContent' | 'siblings' | 'variant'
}

export interface TextureSet {
  stem: string
  folder: string
  maps: AssignedMap[]
  /** Same role at another resolution or depth: kept with the item, not used for the preview. */
  alternates: AssignedMap[]
  /** Of the same name, and no map that the set lacks. */
  pictures: string[]
  /** The stem of the set whose other maps it uses. */
  variantOf: string | null
}

interface Member {
  candidate: MapCandidate
  parsed: ParsedMapName
}

/** Groups image files into texture sets by folder and stem, and gives each file its role. What a set lacks, its siblings decide. */
export function recognizeTextureSets(
  candidates: readonly MapCandidate[],
  words: RoleWords = {},
): { sets: TextureSet[]; leftOver: string[] } {
  const named = candidates.map((candidate): Member => ({ candidate, parsed: parseMapName(candidate.path, words) }))
  const groups = groupBy(readLetters(named), m => groupKey(m.candidate.path, m.parsed.stem))
  const sets: TextureSet[] = []
  const leftOver: string[] = []
  for (const [key, members] of groups) {
    const [folder, stem] = key.split('\n')
    const { maps, alternates, others } = assignRoles(members)
    if (maps.length === 0 || (maps.length === 1 && maps[0].reason === 'content' && isNoName(stem))) {
      leftOver.push(...members.map(m => m.candidate.path))
      continue
    }
    const name = stem || folder.split('/').pop() || 'material'
    sets.push({ stem: name, folder, maps, alternates, pictures: others, variantOf: null })
  }
  return { sets: shareMaps(sets, new Map(candidates.map(c => [c.path, c]))), leftOver }
}

const groupKey = (path: string, stem: string): string => `${withoutSizeFolder(folderOf(path))}\n${stem}`

/** Names that a camera, a screen or a page of text gives, and no supplier of surfaces. */
export const isNoName = (stem: string): boolean =>
  /^(\d+|(img|image|dsc|photo|pic|picture|page|screen|figure|fig) ?\d*|screen ?shots?\b.*|untitled\b.*|readme\b.*)$/.test(stem)

/** Last letters of a name that many use for roles. On their own they may as well count variants. */
const LETTER_ROLES: Record<string, MapRole> = {
  d: 'baseColor',
  c: 'baseColor',
  n: 'normal',
  s: 'specular',
  r: 'roughness',
  m: 'metalness',
  h: 'height',
  g: 'gloss',
  e: 'emission',
}

/** A letter at the end is a role where another file of the same name has another role, and none counts on with letters. */
function readLetters(members: readonly Member[]): Member[] {
  const split = members.map(member => {
    const [, base, letter] = /^(.+) ([a-z])$/.exec(member.parsed.stem) ?? []
    return { member, base, letter: member.parsed.role === null ? letter : undefined }
  })
  const byBase = groupBy(
    split.filter(s => s.letter !== undefined),
    s => groupKey(s.member.candidate.path, s.base),
  )
  const namedRoles = groupBy(members, m => groupKey(m.candidate.path, m.parsed.stem))
  return split.map(({ member, base, letter }) => {
    const role = letter === undefined ? undefined : LETTER_ROLES[letter]
    if (!role) return member
    const key = groupKey(member.candidate.path, base)
    const siblings = byBase.get(key) ?? []
    const isCounted = siblings.some(s => !LETTER_ROLES[s.letter!])
    const others = new Set([
      ...siblings.map(s => LETTER_ROLES[s.letter!]),
      ...(namedRoles.get(key) ?? []).map(m => m.parsed.role ?? 'baseColor'),
    ])
    others.delete(role)
    if (isCounted || others.size === 0) return member
    return { ...member, parsed: { ...member.parsed, stem: base, role } }
  })
}

/** The best map of each role; the others of it as alternates, and what has none. */
function assignRoles(members: readonly Member[]): { maps: AssignedMap[]; alternates: AssignedMap[]; others: string[] } {
  const assigned = members.map(member => ({ ...member, map: assignRole(member.candidate, member.parsed) }))
  const isNamed = assigned.some(m => m.parsed.role !== null)
  const hasColor = assigned.some(m => m.map?.role === 'baseColor')
  if (isNamed && !hasColor) {
    // Grey concrete and steel have no colour that speaks for them; that they have the plain name does.
    const [plain] = assigned
      .filter(m => m.parsed.role === null && m.map?.role !== 'normal')
      .sort((a, b) => preference(b.candidate, 'baseColor') - preference(a.candidate, 'baseColor'))
    if (plain)
      plain.map = { path: plain.candidate.path, role: 'baseColor', handednessHint: null, confidence: 0.8, reason: 'siblings' }
  }
  const found = assigned
    .flatMap(({ map, candidate }) => (map ? [{ map, candidate }] : []))
    .sort((a, b) => preference(b.candidate, b.map.role) - preference(a.candidate, a.map.role))
  const maps: AssignedMap[] = []
  const alternates: AssignedMap[] = []
  for (const { map } of found) (maps.some(m => m.role === map.role) ? alternates : maps).push(map)
  return { maps, alternates, others: assigned.flatMap(m => (m.map ? [] : [m.candidate.path])) }
}

/**
 * A colour that stands alone beside a set whose name it begins with, `wall_red` beside `wall` and `wall_norm`, is a variant of that set and
 * uses its other maps, where both are of one shape. A set of such maps alone, without a colour, is none of its own then.
 */
function shareMaps(sets: readonly TextureSet[], candidates: ReadonlyMap<string, MapCandidate>): TextureSet[] {
  const byFolder = groupBy(sets, s => s.folder)
  const lent = new Set<TextureSet>()
  const shared = sets.map(set => {
    if (set.maps.length !== 1 || set.maps[0].role !== 'baseColor') return set
    const [base] = (byFolder.get(set.folder) ?? [])
      .filter(other => other !== set && isVariantName(set.stem, other.stem) && other.maps.some(m => m.role !== 'baseColor'))
      .filter(other => shapeOf(candidates.get(other.maps[0].path)) === shapeOf(candidates.get(set.maps[0].path)))
      .sort((a, b) => b.stem.length - a.stem.length)
    if (!base) return set
    lent.add(base)
    const borrowed = base.maps.filter(m => m.role !== 'baseColor').map((m): AssignedMap => ({ ...m, reason: 'variant' }))
    return { ...set, maps: [...set.maps, ...borrowed], variantOf: base.stem }
  })
  return shared.filter(set => !lent.has(set) || set.maps.some(m => m.role === 'baseColor'))
}

const isVariantName = (stem: string, base: string): boolean =>
  stem.startsWith(`${base} `) || (stem.startsWith(base) && /\d$/.test(base) && /^[a-z]$/.test(stem.slice(base.length)))

const shapeOf = (c: MapCandidate | undefined): number => (c ? Math.round((100 * c.widthPx) / c.heightPx) : 0)

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
