import { sourceOfBytes } from '#core/codecs/byte-source'
import { openExr } from '#core/codecs/exr'
import { extensionOf, resolveType } from '#core/codecs/sniff'
import { analyseEnvironmentRows, type EnvironmentAnalysis } from '#core/environment/analyse-environment'
import { type Failure, FileError, toFailure } from '#core/findings/failure'
import type { Model } from '#core/geometry/model'
import { parseGlb } from '#core/geometry/read-gltf'
import type { ByteImage, Image } from '#core/image/image'
import type { PictureRows } from '#core/image/picture-rows'
import { buildMaterialFromMaps } from '#core/material/build-material'
import { decideHandedness } from '#core/material/decide-handedness'
import type { MaterialMap } from '#core/material/material-subject'
import type { OpenPbrMaterial } from '#core/material/open-pbr'
import type { MapRole } from '#core/material/texture-set'
import { readPhotometry } from '#core/photometry/analyse-photometry'
import type { CandelaWeb } from '#core/photometry/candela-web'
import { objectsOfModel } from '#core/render/pictures/model-objects'
import type { PreviewSubject } from '#core/render/pictures/preview'
import type { SceneObject } from '#core/render/scene/scene'
import type { Relief } from '#core/render/stages/relief-heights'
import { assembleModel, isPlainGlb } from '../models/assemble-model'
import { readEnvironmentRows } from '../reading/decode-environment'
import { decodeByteImage, decodeFullDepth, type ImageHeader, readImageHeader } from '../reading/decode-image'
import { type FailedFile, readBytes, readHead, type SourceFile } from '../reading/source-file'
import { toPanorama } from '../writing/house-panorama'
import { hashRows } from './hash-rows'
import { type ItemSource, isDrawnRole, isMapRole, mainFile } from './item-source'

export type LoadedItem =
  | { kind: 'material'; material: OpenPbrMaterial; images: ByteImage[]; maps: MaterialMap[] }
  | { kind: 'model'; model: Model; light: LightCurve | null }
  | { kind: 'environment'; analysis: EnvironmentAnalysis; contentHash: string }
  | { kind: 'light'; light: LightCurve }
  | { kind: 'map'; path: string; image: Image; header: ImageHeader }

/** Texture coordinates of a stage are in metres: a material nobody gave a size is shown as if one repeat were this wide. */
const ASSUMED_WIDTH_MM = 1000

/**
 * Reads an item's files. A broken map is left out and named; a broken model or environment fails the item.
 * @param purpose checks want full depth, previews want 8 bits
 */
export async function loadItem(
  source: ItemSource,
  purpose: 'checks' | 'preview',
  maxTexture: number,
): Promise<{ loaded: LoadedItem; failures: FailedFile[] }> {
  switch (source.kind) {
    case 'material':
      return loadMaterial(source, purpose, maxTexture)
    case 'model': {
      const model = await readModelFile(source, mainFile(source))
      const { light, failures } = await readLightCurve(source)
      return { loaded: { kind: 'model', model, light }, failures }
    }
    case 'environment': {
      const file = mainFile(source)
      const panorama = await toPanorama(file)
      if (panorama) return { loaded: { kind: 'environment', ...analyse(openExr(sourceOfBytes(panorama.bytes))) }, failures: [] }
      const type = resolveType(file.path, await readHead(file.diskPath)) === 'exr' ? 'exr' : 'hdr'
      return { loaded: { kind: 'environment', ...readEnvironmentRows(file.diskPath, type, analyse) }, failures: [] }
    }
    case 'light': {
      mainFile(source)
      const { light, failures } = await readLightCurve(source)
      if (light) return { loaded: { kind: 'light', light }, failures }
      throw new FileError(failures[0].code, failures[0].message)
    }
    case 'map': {
      const { path, diskPath } = mainFile(source)
      const header = await readImageHeader(diskPath)
      const image =
        purpose === 'checks'
          ? await decodeFullDepth(diskPath, maxTexture, header)
          : await decodeByteImage(diskPath, maxTexture, header)
      return { loaded: { kind: 'map', path, image, header }, failures: [] }
    }
    default:
      return source.kind satisfies never
  }
}

/** A candela web and the file that says it. */
export interface LightCurve {
  web: CandelaWeb
  path: string
}

/** An item's light curve, the first that reads; those that do not are named. */
export async function readLightCurve({ files }: ItemSource): Promise<{ light: LightCurve | null; failures: FailedFile[] }> {
  const failures: FailedFile[] = []
  for (const { file } of files.filter(f => f.role === 'photometry')) {
    try {
      const text = Buffer.from(await readBytes(file)).toString('latin1')
      return { light: { web: readPhotometry(file.path, text), path: file.path }, failures }
    } catch (error) {
      failures.push({ path: file.path, ...toFailure(error) })
    }
  }
  return { light: null, failures }
}

/** The model as one file: as it is, or put together from what it names. */
export const readModelFile = async (source: ItemSource, file: SourceFile): Promise<Model> =>
  parseGlb(await readModelBytes(source, file))

export async function readModelBytes(source: ItemSource, file: SourceFile): Promise<Uint8Array> {
  if (await isPlainGlb(file)) return readBytes(file)
  const parts = source.files.filter(f => f.role === 'modelPart').map(f => f.file)
  return (await assembleModel(file, parts)).bytes
}

/** One pass over the rows, from which everything about an environment comes: figures, findings, a smaller copy, and the hash. */
function analyse(rows: PictureRows) {
  const { rows: hashed, digest } = hashRows(rows)
  return { analysis: analyseEnvironmentRows(hashed), contentHash: digest() }
}

/** The text of a material's MaterialX file; null where it has none. */
export async function readDefinition({ files }: ItemSource): Promise<{ text: string; path: string } | null> {
  const file = files.find(f => f.role === 'definition' && extensionOf(f.file.path) === 'mtlx')?.file
  return file ? { text: Buffer.from(await readBytes(file)).toString('utf8'), path: file.path } : null
}

async function loadMaterial(source: ItemSource, purpose: 'checks' | 'preview', maxTexture: number) {
  const failures: FailedFile[] = []
  const images: ByteImage[] = []
  const maps: MaterialMap[] = []
  const roleImages: Parameters<typeof buildMaterialFromMaps>[1][number][] = []
  for (const { file, role, byContentOnly, handednessHint } of source.files) {
    if (!isMapRole(role)) continue
    if (purpose === 'preview' && !isDrawn(role, source)) continue
    try {
      const header = await readImageHeader(file.diskPath)
      const image: Image =
        purpose === 'checks'
          ? await decodeFullDepth(file.diskPath, maxTexture, header)
          : await decodeByteImage(file.diskPath, maxTexture, header)
      maps.push({ role, path: file.path, image, byContentOnly, ...header })
      if (!(image.data instanceof Uint8Array)) continue
      const index = images.push(image as ByteImage) - 1
      roleImages.push({
        role,
        image: index,
        ...(role === 'normal' && purpose === 'preview' ? { handedness: decideHandedness(image, handednessHint) } : {}),
      })
    } catch (error) {
      failures.push({ path: file.path, ...toFailure(error) })
    }
  }
  if (maps.length === 0 && failures.length > 0) throw new FileError(failures[0].code, failures[0].message)
  const material = buildMaterialFromMaps(source.name, roleImages, tileSize(source, maps), source.constants, source.tiling)
  return { loaded: { kind: 'material' as const, material, images, maps }, failures }
}

export interface MaterialOutline {
  material: OpenPbrMaterial
  /** File behind each image index that the material's textures name. */
  images: SourceFile[]
  /** Its normal map, reduced. */
  normal: ByteImage | null
}

/**
 * A material by the headers of its maps: nothing is decoded but its normal map, whose pixels say which way up it is.
 * @throws FileError when a map does not read
 */
export async function outlineMaterial(source: ItemSource, maxTexture: number): Promise<MaterialOutline> {
  const images: SourceFile[] = []
  const headers: ImageHeader[] = []
  const roleImages: Parameters<typeof buildMaterialFromMaps>[1][number][] = []
  let normal: ByteImage | null = null
  for (const { file, role, handednessHint } of source.files) {
    if (!isMapRole(role) || !isDrawn(role, source)) continue
    try {
      const header = await readImageHeader(file.diskPath)
      const image = images.push(file) - 1
      headers.push(header)
      if (role === 'normal') {
        normal = await decodeByteImage(file.diskPath, maxTexture, header)
        roleImages.push({ role, image, handedness: decideHandedness(normal, handednessHint) })
      } else roleImages.push({ role, image })
    } catch (error) {
      const failure = toFailure(error)
      throw new FileError(failure.code, `${file.path}: ${failure.message}`)
    }
  }
  const size = tileSize(source, headers)
  return { material: buildMaterialFromMaps(source.name, roleImages, size, source.constants, source.tiling), images, normal }
}

/** Heights are drawn only where no normal map says the same better. */
const isDrawn = (role: MapRole, { files }: ItemSource): boolean =>
  isDrawnRole(role) && !(role === 'height' && files.some(f => f.role === 'normal'))

function tileSize(source: ItemSource, maps: readonly Pick<ImageHeader, 'widthPx' | 'heightPx'>[]): [number, number] {
  const widthM = (source.widthMm ?? ASSUMED_WIDTH_MM) / 1000
  const map = maps[0]
  return [widthM, map ? (widthM * map.heightPx) / map.widthPx : widthM]
}

/** What the preview renderer draws: everything that light falls on, or that gives it. */
export type RenderedItem = Exclude<LoadedItem, { kind: 'map' }>

/** Turns a loaded item into what the preview renderer draws. */
export async function toPreviewSubject(
  loaded: RenderedItem,
  maxTexture: number,
  { sun = null, relief }: { sun?: { azimuthDeg: number; elevationDeg: number } | null; relief?: Relief | null } = {},
): Promise<PreviewSubject> {
  switch (loaded.kind) {
    case 'material':
      return { kind: 'material', material: loaded.material, images: loaded.images, relief }
    case 'model':
      return { kind: 'model', objects: await modelObjects(loaded.model, maxTexture), web: loaded.light?.web }
    case 'environment':
      return { kind: 'environment', map: loaded.analysis.overview, sun }
    case 'light':
      return { kind: 'light', web: loaded.light.web }
    default:
      return loaded satisfies never
  }
}

async function modelObjects(model: Model, maxTexture: number): Promise<SceneObject[]> {
  const images: ByteImage[] = []
  for (const image of model.images) {
    try {
      images.push(await decodeByteImage(image.bytes, maxTexture))
    } catch (error) {
      const failure: Failure = toFailure(error)
      throw new FileError(failure.code, `The texture ${image.name || 'without a name'} inside the model: ${failure.message}`)
    }
  }
  return objectsOfModel(model, images)
}
