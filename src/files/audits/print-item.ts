import type { LightPrint } from '#core/audit/compare-lights'
import { asDelivered, type MaterialPrint, printMaterial } from '#core/audit/material-print'
import type { ModelPrint } from '#core/audit/model-print'
import { printLuminaire } from '#core/audit/print-light'
import type { LightReference, MaterialReference, ModelReference } from '#core/audit/reference'
import { printModel } from '#core/audit/scene-tree'
import { IDENTITY_MATRIX } from '#core/math/matrix'
import { type ItemSource, lighterFiles, mainFile } from '../items/item-source'
import { loadItem, readLightCurve, readModelBytes } from '../items/load-item'
import { MAX_SIDE } from '../reading/decode-image'
import type { SourceFile } from '../reading/source-file'
import { digest, readScene } from './read-scene'
import { openGlbBytes } from './scene-file'

/** What a version of an item is known again by in a scene. */
export interface ItemPrint {
  /** Of a material of the library, or the materials that a model brings along. */
  materials: MaterialPrint[]
  /** Of a model. */
  model: ModelPrint | null
  /** Of a luminaire, and of a model that comes with a curve of its light. */
  light: LightPrint | null
  /** Of a model, its levels of detail and its stand-in: what a profile may have handed over in its place. */
  lighter: { model: ModelPrint; materials: MaterialPrint[] }[]
  /** Side of one repeat of a material, in metres; null where nobody has said how wide it is. */
  repeatM: number | null
}

/**
 * Prints an item as it is handed over. A sky or a map is known by its stamp alone.
 * @throws FileError where it does not read
 */
export async function printItem(source: ItemSource): Promise<ItemPrint> {
  switch (source.kind) {
    case 'material': {
      const { loaded } = await loadItem(source, 'preview', MAX_SIDE)
      if (loaded.kind !== 'material') return NOTHING
      const { material, images } = loaded
      const [width, height] = material.tileSizeM ?? [1, 1]
      const repeatM = source.widthMm !== null && source.tiling !== 'once' ? Math.sqrt(width * height) : null
      return {
        materials: [await printMaterial(asDelivered(material), i => images[i] ?? null, digest)],
        model: null,
        light: null,
        lighter: [],
        repeatM,
      }
    }
    case 'model': {
      const { model, materials } = await printFile(source, mainFile(source))
      const { levels, standIn } = lighterFiles(source)
      const lighter = await Promise.all([...levels, ...(standIn ? [standIn] : [])].map(file => printFile(source, file)))
      return { materials, model, light: await printCurve(source), lighter, repeatM: null }
    }
    case 'light':
      return { ...NOTHING, light: await printCurve(source) }
    case 'environment':
    case 'map':
      return NOTHING
    default:
      return source.kind satisfies never
  }
}

async function printFile(source: ItemSource, file: SourceFile): Promise<{ model: ModelPrint; materials: MaterialPrint[] }> {
  const { roots, materials } = await readScene(openGlbBytes(await readModelBytes(source, file)))
  const whole = { id: -1, name: source.name, stamp: null, world: IDENTITY_MATRIX, parts: [], children: roots, instances: 1 }
  return { model: printModel(whole), materials: materials.map(m => m.print) }
}

/** The light of a luminaire as it comes; null where no curve of it is there. @throws FileError where that does not read */
export async function printCurve(source: ItemSource): Promise<LightPrint | null> {
  const { light } = await readLightCurve(source)
  return light && printLuminaire(light.web)
}

const NOTHING: ItemPrint = { materials: [], model: null, light: null, lighter: [], repeatM: null }

/** A version as a library has it, printed. */
export interface PrintedVersion extends Omit<ModelReference, 'print'> {
  kind: ItemSource['kind']
  print: ItemPrint
}

/** The versions that a scene is compared with. */
export function referencesOf(versions: readonly PrintedVersion[]): {
  materials: MaterialReference[]
  models: ModelReference[]
  lights: LightReference[]
} {
  const lights: LightReference[] = []
  const materials: MaterialReference[] = []
  const models: ModelReference[] = []
  for (const { print, kind, ...about } of versions) {
    const { repeatM } = print
    const put = (list: readonly MaterialPrint[], more: Pick<MaterialReference, 'isOfLighter'> = {}) => {
      for (const one of list)
        materials.push({ ...about, ...more, print: one, ofModel: kind === 'model' ? one.name : null, repeatM })
    }
    put(print.materials)
    if (print.light || kind === 'light') lights.push({ ...about, print: print.light })
    if (print.model) models.push({ ...about, print: print.model })
    for (const lighter of print.lighter) {
      put(lighter.materials, { isOfLighter: true })
      models.push({ ...about, print: lighter.model, isLighter: true })
    }
  }
  return { materials, models, lights }
}
