import { writeHdr } from '#core/codecs/hdr'
import type { FindingCode } from '#core/findings/finding'
import { createRandom, type Random } from '#core/math/random'
import { encodeExr } from '#files/writing/encode-exr'
import { createFileWriter } from '../file-writer'
import { TEXTURE_RECIPES } from '../materials'
import { writeGlb } from '../model-file'
import { MODEL_RECIPES } from '../models'
import { makeSky, SKY_RECIPES, type SkyRecipe } from '../skies'
import { makeMaps, type TextureRecipe } from '../texture-set'
import { encodeMapFile, MATERIAL_FAULTS, type MapFile } from './material-faults'
import { hasFlatTriangles, MODEL_FAULTS, readDocument, writeDocument } from './model-faults'
import { packModel, pickMapForm } from './other-forms'
import { SKY_FAULTS } from './sky-faults'

/** What was planted in one item, or in one file that should not read. */
export interface Planted {
  /** Folder of the item, or path of the file. */
  path: string
  kind: 'material' | 'model' | 'environment' | 'file'
  codes: string[]
  /** Findings that follow from those, or may: neither right nor wrong. */
  entailed: string[]
}

const SKY_PX = 1024
const PACKED_SHARE = 0.3
const OLDER_SKIES = 0.4
/** How often each fault is planted, and how many items of each kind come sound. */
export interface TruthSize {
  times: number
  materials: number
  models: number
  skies: number
  /** Side of every map in pixels. */
  mapPx: number
}
const WHOLE: TruthSize = { times: 3, materials: 14, models: 8, skies: 6, mapPx: 256 }

/**
 * Writes a delivery of sound and spoilt items whose faults are known, all from one seed: recipes, their turns and tints, which fault, how
 * strong.
 */
export async function makeTruth(
  root: string,
  seed: number,
  size: TruthSize = WHOLE,
): Promise<{ planted: Planted[]; written: string[] }> {
  const random = createRandom(seed)
  const planted: Planted[] = []
  const { put, written } = createFileWriter(root)
  let serial = 0
  const nameFor = (stem: string) => `${stem}_${String(++serial).padStart(3, '0')}`
  // A recipe is spoilt in many ways, and made once.
  const modelOf = makeOnce((recipe: (typeof MODEL_RECIPES)[number]) => writeGlb({ ...recipe, parts: recipe.build() }))
  const skyOf = makeOnce((recipe: SkyRecipe) => makeSky(recipe, SKY_PX))

  const putMaterial = async (fault: (typeof MATERIAL_FAULTS)[number] | null) => {
    const { recipe, files } = pickMaterial(random, size.mapPx, fault)
    const name = nameFor(recipe.stem)
    const folder = `${recipe.folder.split('/').pop()}/${name}`
    const spoilt = fault ? await fault.spoil(files, random) : files
    const encode = pickMapForm(random)
    for (const file of spoilt) {
      const { ending, bytes } = await encode(file)
      await put(`${folder}/${[name, file.word].filter(Boolean).join('_')}.${ending}`, bytes)
    }
    planted.push({
      path: folder,
      kind: 'material',
      codes: ['realWorldSizeMissing', ...(fault ? [fault.code] : [])],
      entailed: fault?.entails ?? [],
    })
  }
  const putModel = async (fault: (typeof MODEL_FAULTS)[number] | null) => {
    for (;;) {
      const recipe = MODEL_RECIPES[random.index(MODEL_RECIPES.length)]
      const document = await readDocument((await modelOf(recipe)).slice())
      if (fault && !fault.fits(document)) continue
      const isFlat = hasFlatTriangles(document)
      await fault?.spoil(document, random)
      const name = nameFor(recipe.stem)
      const folder = `${recipe.folder.split('/').pop()}/${name}`
      const written = fault?.write ? await fault.write(document) : [['.glb', await writeDocument(document)] as const]
      const isPacked = random.next() < PACKED_SHARE
      for (const [ending, bytes] of written)
        await put(
          `${folder}/${ending.startsWith('/') ? ending.slice(1) : name + ending}`,
          isPacked && ending === '.glb' ? await packModel(bytes) : bytes,
        )
      const codes: FindingCode[] = fault ? [fault.code] : []
      planted.push({
        path: folder,
        kind: 'model',
        codes,
        entailed: [...(fault?.entails ?? []), ...(isFlat ? ['degenerateTriangles'] : [])],
      })
      return
    }
  }
  const putSky = async (fault: (typeof SKY_FAULTS)[number] | null) => {
    const fitting = SKY_RECIPES.filter(r => !fault || fault.fits(r))
    const recipe = fitting[random.index(fitting.length)]
    const sound = skyOf(recipe)
    const map = { ...sound, data: sound.data.slice() }
    const name = nameFor(recipe.stem)
    const folder = `Skies/${name}`
    // The older form holds no value that is none, and so not every fault.
    if (!fault && random.next() < OLDER_SKIES) await put(`${folder}/${name}.hdr`, writeHdr(map))
    else await put(`${folder}/${name}.exr`, encodeExr(fault ? fault.spoil(map, random, recipe) : map))
    planted.push({ path: folder, kind: 'environment', codes: fault ? [fault.code] : [], entailed: fault?.entails ?? [] })
  }
  for (const fault of MATERIAL_FAULTS) for (let k = 0; k < size.times; k++) await putMaterial(fault)
  for (let k = 0; k < size.materials; k++) await putMaterial(null)
  for (const fault of MODEL_FAULTS) for (let k = 0; k < size.times; k++) await putModel(fault)
  for (let k = 0; k < size.models; k++) await putModel(null)
  for (const fault of SKY_FAULTS) for (let k = 0; k < size.times; k++) await putSky(fault)
  for (let k = 0; k < size.skies; k++) await putSky(null)
  for (let k = 0; k < size.times; k++) planted.push(...(await putBrokenFiles(random, size.mapPx, nameFor, put)))
  return { planted, written }
}

/** Remembers what was made of each. */
function makeOnce<K, V>(make: (of: K) => V): (of: K) => V {
  const made = new Map<K, V>()
  return of => {
    if (!made.has(of)) made.set(of, make(of))
    return made.get(of)!
  }
}

const PROBE_PX = 32

/** A recipe that a fault fits, rolled and tinted so that no two sets of a recipe are the same. */
function pickMaterial(
  random: Random,
  sizePx: number,
  fault: (typeof MATERIAL_FAULTS)[number] | null,
): { recipe: TextureRecipe; files: MapFile[] } {
  for (;;) {
    const recipe = TEXTURE_RECIPES[random.index(TEXTURE_RECIPES.length)]
    const [du, dv] = [random.next(), random.next()]
    const tint = [0, 1, 2].map(() => random.between(0.88, 1.08))
    const varied: TextureRecipe = {
      ...recipe,
      sizePx,
      aspect: 1,
      texel: (u, v) => {
        const texel = recipe.texel((u + du) % 1, (v + dv) % 1)
        const [r, g, b] = texel.color
        return { ...texel, color: [Math.min(0.85, r * tint[0]), Math.min(0.85, g * tint[1]), Math.min(0.85, b * tint[2])] }
      },
    }
    // Whether it fits shows on a small one, too.
    if (fault && !fault.fits(recipe, makeMaps({ ...varied, sizePx: PROBE_PX }))) continue
    return { recipe, files: makeMaps(varied).map(map => ({ map, word: map.role, profile: null })) }
  }
}

async function putBrokenFiles(
  random: Random,
  sizePx: number,
  nameFor: (stem: string) => string,
  put: (path: string, bytes: Uint8Array) => Promise<unknown>,
): Promise<Planted[]> {
  const { files } = pickMaterial(random, sizePx, null)
  const whole = await encodeMapFile(files[0])
  const broken: [string, string, Uint8Array][] = [
    ['truncated', 'png', whole.subarray(0, Math.floor(whole.length * random.between(0.3, 0.9)))],
    ['emptyFile', 'png', new Uint8Array(0)],
    ['typeMismatch', 'hdr', whole],
  ]
  const planted: Planted[] = []
  for (const [code, ending, bytes] of broken) {
    const path = `Loose/${nameFor('Sample')}_basecolor.${ending}`
    await put(path, bytes)
    planted.push({ path, kind: 'file', codes: [code], entailed: [] })
  }
  return planted
}
