import { parseExr } from '#core/codecs/exr'
import { resolveType } from '#core/codecs/sniff'
import { FileError } from '#core/findings/failure'
import { parseGlb } from '#core/geometry/read-gltf'
import type { ByteImage, FloatImage } from '#core/image/image'
import { collectRows } from '#core/image/picture-rows'
import { reduceRows } from '#core/image/row-reducer'
import { createMaterial } from '#core/material/open-pbr'
import type { ResourcePart, Resources } from '#core/mock-up/things/resources'
import type { CandelaWeb } from '#core/photometry/candela-web'
import { severalAtOnce } from '#core/several-at-once'
import { type ItemSource, lighterFiles, mainFile } from '../items/item-source'
import { loadItem, readModelBytes } from '../items/load-item'
import { readEnvironmentRows } from '../reading/decode-environment'
import { decodeByteImage } from '../reading/decode-image'
import { readHead, type SourceFile } from '../reading/source-file'
import { toPanorama } from '../writing/house-panorama'

export interface ResourceSizes {
  /** Longest sides of textures, and the width of a sky, in pixels. */
  materialPx: number
  modelPx: number
  skyPx: number
  /** Of models that have levels of detail the lightest is opened. */
  isLight?: boolean
}

/** Pictures are decoded beside this thread. */
const AT_ONCE = 4

/**
 * Opens what a mock-up shows.
 * @param sources by the keys of their inputs
 * @returns with the keys of what does not read, and why: a mock-up is drawn without them
 */
export async function openResources(
  sources: Readonly<Record<string, ItemSource>>,
  sizes: ResourceSizes,
): Promise<{ resources: Resources; failures: Record<string, string> }> {
  const models = new Map<string, ResourcePart[]>()
  const materials: Map<string, { material: ReturnType<typeof createMaterial>; images: ByteImage[] }> = new Map()
  const skies = new Map<string, FloatImage>()
  const webs = new Map<string, CandelaWeb>()
  const failures: Record<string, string> = {}
  await severalAtOnce(Object.entries(sources), AT_ONCE, async ([key, source]) => {
    try {
      if (source.kind === 'model') models.set(key, await openModel(source, sizes))
      else if (source.kind === 'environment') skies.set(key, await openSky(source, sizes.skyPx))
      else {
        const { loaded } = await loadItem(source, 'preview', sizes.materialPx)
        if (loaded.kind === 'material') materials.set(key, { material: loaded.material, images: loaded.images })
        else if (loaded.kind === 'light') webs.set(key, loaded.light.web)
      }
    } catch (error) {
      if (!(error instanceof FileError)) throw error
      failures[key] = error.message
    }
  })
  return { resources: { models, materials, skies, webs }, failures }
}

async function openModel(source: ItemSource, { modelPx: maxTexture, isLight = false }: ResourceSizes): Promise<ResourcePart[]> {
  const model = await parseGlb(await readModelBytes(source, isLight ? lightestFile(source) : mainFile(source)))
  const images = await Promise.all(model.images.map(({ bytes }) => decodeByteImage(bytes, maxTexture)))
  const plain = createMaterial('no material', { baseColor: [0.6, 0.6, 0.6] })
  return model.parts.map(({ name, mesh, hasUvs, material, node }) => ({
    name,
    mesh,
    hasUvs,
    node,
    material: model.materials[material] ?? plain,
    images,
  }))
}

/** The smallest of its levels of detail; the model itself where it has none. */
const lightestFile = (source: ItemSource): SourceFile => lighterFiles(source).levels.at(-1) ?? mainFile(source)

async function openSky(source: ItemSource, width: number): Promise<FloatImage> {
  const file = mainFile(source)
  const panorama = await toPanorama(file)
  if (panorama) return parseExr(panorama.bytes)
  const type = resolveType(file.path, await readHead(file.diskPath)) === 'exr' ? 'exr' : 'hdr'
  return readEnvironmentRows(file.diskPath, type, rows => (rows.width > width ? reduceRows(rows, width) : collectRows(rows)))
}
