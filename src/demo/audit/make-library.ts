import { mkdir, writeFile } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { type Mesh, mergeMeshes, placeMesh } from '#core/geometry/mesh'
import { createBox, createLathe } from '#core/geometry/shapes'
import type { OpenPbrParameters } from '#core/material/open-pbr'
import { createRandom, type Random } from '#core/math/random'
import type { Vec3 } from '#core/math/vec3'
import type { PrintedVersion } from '#files/audits/print-item'
import type { ItemSource } from '#files/items/item-source'
import { throughLens, writeLightCurve } from '../light-curve'
import { encodeMap } from '../make-file'
import { type Finish, type ModelRecipe, writeGlb } from '../model-file'
import { cushion, legs, rod } from '../model-shapes'
import { alternate, boards, brickwork, plaster, terrazzo, twill, weave } from '../surface-textures'
import { lch, makeMaps, type TextureRecipe } from '../texture-set'

/** A version of an item that is made up, with what it is to the project. */
export interface LibraryVersion extends Omit<PrintedVersion, 'print'> {
  source: ItemSource
}

export interface AuditLibrary {
  versions: LibraryVersion[]
  /** Made the same way, and in no library. */
  strangers: { source: ItemSource }[]
}

const TEXTURE_PX = 512

export interface AuditCounts {
  materials: number
  models: number
  lights?: number
}

/** Materials, models and luminaires from a seed: some with an older version, some withdrawn, some that the project has not pinned. */
export async function makeLibrary(
  root: string,
  seed: number,
  { materials, models, lights = 0 }: AuditCounts,
): Promise<AuditLibrary> {
  const random = createRandom(seed)
  const library: AuditLibrary = { versions: [], strangers: [] }
  for (let n = 0; n < materials + models + lights; n++) {
    const kind = n < materials ? 'material' : n < materials + models ? 'model' : 'light'
    const make = {
      material: n % 5 === 4 ? makePlainSource : makeTexturedSource,
      model: makeModelSource,
      light: makeLightSource,
    }[kind]
    const code = `${{ material: 'SRF', model: 'OBJ', light: 'LUM' }[kind]}-${String(n + 1).padStart(4, '0')}`
    const own = random.index(2 ** 30)
    const first = await make(join(root, code, 'v1'), own, 0)
    if (n % 8 === 7) {
      library.strangers.push({ source: first })
      continue
    }
    const count = n % 3 === 0 ? 2 : 1
    const versions = [first]
    if (count === 2) versions.push(await make(join(root, code, 'v2'), own, 1))
    const about = {
      code,
      name: first.name,
      isWithdrawn: n % 11 === 5,
      pinned: n % 7 === 3 ? null : count,
      kind: first.kind,
    }
    for (const [k, source] of versions.entries()) library.versions.push({ ...about, version: k + 1, source })
  }
  return library
}

const NAMES = [
  'Alder',
  'Basalt',
  'Cinder',
  'Dune',
  'Elm',
  'Fjord',
  'Granite',
  'Heath',
  'Iris',
  'Jade',
  'Kelp',
  'Loam',
  'Moss',
  'Nettle',
]
const WORDS = ['plain', 'fine', 'coarse', 'brushed', 'sawn', 'honed', 'washed', 'waxed', 'raw', 'dense', 'open', 'soft']
const nameOf = (seed: number): string =>
  `${NAMES[seed % NAMES.length]} ${WORDS[(seed >> 5) % WORDS.length]} ${(seed >> 9) % 1000}`

const colorOf = (random: Random): Vec3 =>
  lch(random.between(0.3, 0.88), random.between(0.01, 0.13), random.between(0, 360)).map(v => Math.min(v, 0.85)) as Vec3

/** A version differs from the one before in what somebody would really have changed: a little lighter, a little rougher. */
const later = (color: Vec3, revision: number): Vec3 => color.map(v => v * (1 + 0.14 * revision)) as Vec3

function textureOf(seed: number, revision: number): TextureRecipe {
  const random = createRandom(seed)
  const widthMm = Math.round(random.between(300, 2400))
  const [one, two] = [later(colorOf(random), revision), later(colorOf(random), revision)]
  const roughness = random.between(0.3, 0.75) + 0.06 * revision
  const own = random.index(1e6)
  const texel = [
    () =>
      boards(
        own,
        { boards: 3 + random.index(8), joints: 1 + random.index(3), widthMm },
        [one, two],
        1 + random.next(),
        1,
        roughness,
      ),
    () => plaster(own, one, random.between(0.5, 3), 6 + random.index(30), roughness),
    () => terrazzo(own, one, [two, later(colorOf(random), revision)]),
    () => weave(own, 24 + random.index(40), random.next() < 0.5 ? alternate : twill, one, two, 0.6, random.between(0.3, 1)),
    () =>
      brickwork(
        own,
        { columns: 3 + random.index(4), rows: 8 + random.index(8), widthMm, offset: 0.5, jointMm: 10 },
        [one, two],
        colorOf(random),
        2,
      ),
  ][random.index(5)]()
  return { folder: '', stem: 'map', widthMm, sizePx: TEXTURE_PX, texel }
}

const ROLES = { basecolor: 'baseColor', normal: 'normal', roughness: 'roughness', metalness: 'metalness' } as const

async function put(path: string, bytes: Uint8Array): Promise<ItemSource['files'][number]['file']> {
  await mkdir(dirname(path), { recursive: true })
  await writeFile(path, bytes)
  return { path: path.split('/').pop()!, diskPath: path, size: bytes.length }
}

async function makeTexturedSource(folder: string, seed: number, revision: number): Promise<ItemSource> {
  const recipe = textureOf(seed, revision)
  const files: ItemSource['files'] = []
  for (const map of makeMaps(recipe)) {
    const role = ROLES[map.role as keyof typeof ROLES]
    if (!role) continue
    const file = await put(join(folder, `${map.role}.png`), new Uint8Array(await encodeMap(map)))
    files.push({ file, role, byContentOnly: false, handednessHint: role === 'normal' ? 'openGl' : null })
  }
  return { kind: 'material', name: nameOf(seed), files, widthMm: recipe.widthMm, constants: {} }
}

async function makePlainSource(_: string, seed: number, revision: number): Promise<ItemSource> {
  const random = createRandom(seed)
  const constants: Partial<OpenPbrParameters> = {
    baseColor: later(colorOf(random), revision),
    specularRoughness: random.between(0.1, 0.9),
    ...(random.next() < 0.25 ? { baseMetalness: 1 } : {}),
    ...(random.next() < 0.2 ? { coatWeight: random.between(0.4, 1), coatRoughness: random.between(0.02, 0.3) } : {}),
  }
  return { kind: 'material', name: nameOf(seed), files: [], widthMm: null, constants }
}

async function makeModelSource(folder: string, seed: number, revision: number): Promise<ItemSource> {
  const recipe = { folder: '', stem: nameOf(seed), parts: partsOf(seed, revision) }
  const file = await put(join(folder, 'model.glb'), await writeGlb(recipe))
  return {
    kind: 'model',
    name: nameOf(seed),
    files: [{ file, role: 'model', byContentOnly: false, handednessHint: null }],
    widthMm: null,
    constants: {},
  }
}

/** A downlight, a spot, or a lantern that shines all round; a later version is a little stronger. */
async function makeLightSource(folder: string, seed: number, revision: number): Promise<ItemSource> {
  const random = createRandom(seed)
  const candela = random.between(300, 12_000) * (1 + 0.15 * revision)
  const curve = random.next() < 0.8 ? throughLens(candela, random.between(10, 80)) : () => candela / 10
  const text = writeLightCurve({ name: nameOf(seed), curve, watts: 12, cctK: [2700, 3000, 3500, 4000][random.index(4)] })
  const file = await put(join(folder, 'light.ies'), new TextEncoder().encode(text))
  return {
    kind: 'light',
    name: nameOf(seed),
    files: [{ file, role: 'photometry', byContentOnly: false, handednessHint: null }],
    widthMm: null,
    constants: {},
  }
}

/** A piece of furniture of two to five parts; a later version is a little wider. */
function partsOf(seed: number, revision: number): ModelRecipe['parts'] {
  const random = createRandom(seed)
  const between = random.between
  const finish = (name: string): Finish => ({
    name: `${name} ${seed % 997}`,
    color: colorOf(random),
    roughness: between(0.15, 0.9),
  })
  const [width, height, depth] = [between(0.4, 2.2), between(0.35, 1.1), between(0.4, 1.1)]
  const at = (mesh: Mesh, x: number, y: number, z: number) => placeMesh(mesh, [x, y, z])
  const parts: ModelRecipe['parts'] = [
    {
      name: 'body',
      mesh: at(cushion(width * (1 + 0.05 * revision), between(0.05, 0.4), depth), 0, height * 0.4, 0),
      finish: finish('body'),
    },
    {
      name: 'legs',
      mesh: legs(width * 0.42, depth * 0.4, height * 0.4, between(0, 0.05), between(0.01, 0.03)),
      finish: finish('frame'),
    },
  ]
  if (random.next() < 0.7)
    parts.push({
      name: 'back',
      mesh: at(createBox(width * 0.95, height * 0.5, between(0.02, 0.12), 0.008), 0, height * 0.75, -depth / 2),
      finish: finish('back'),
    })
  if (random.next() < 0.5)
    parts.push({
      name: 'knob',
      mesh: at(
        createLathe(
          [
            [0.001, 0],
            [between(0.02, 0.08), 0.02],
            [0.03, between(0.04, 0.09)],
            [0.001, 0.1],
          ],
          40,
        ),
        width * 0.3,
        height,
        0,
      ),
      finish: finish('knob'),
    })
  if (random.next() < 0.5)
    parts.push({
      name: 'rails',
      mesh: mergeMeshes(
        [-1, 1].map(s => rod([s * width * 0.4, height * 0.2, -depth * 0.4], [s * width * 0.4, height * 0.2, depth * 0.4], 0.012)),
      ),
      finish: finish('rails'),
    })
  return parts
}
