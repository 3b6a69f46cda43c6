import { parseGlb } from '#core/geometry/read-gltf'
import type { FloatImage } from '#core/image/image'
import { buildMaterialFromMaps } from '#core/material/build-material'
import { createMaterial } from '#core/material/open-pbr'
import { MAP_ROLES, type MapRole } from '#core/material/texture-set'
import type { Look, ResourcePart } from '#core/mock-up/things/resources'
import { readPhotometry } from '#core/photometry/analyse-photometry'
import type { CandelaWeb } from '#core/photometry/candela-web'
import type { MockUpItem } from '#shared/contracts/mock-ups.contract'
import { type ScreenCopySide, screenCopyOf } from '#shared/picture-widths'
import { readSky } from './read-sky'

/** What an item of a mock-up is, opened, with pictures in the form that is asked for. */
export type OpenedItem<I> =
  | { kind: 'model'; parts: ResourcePart<I>[] }
  | { kind: 'material'; look: Look<I> }
  | { kind: 'sky'; map: FloatImage }
  | { kind: 'light'; web: CandelaWeb }

/** How large pictures are opened, in pixels of their longer sides. */
export interface OpenedSizes {
  mapPx: ScreenCopySide
  skyPx: ScreenCopySide
}

/** Textures without a stated width are shown as if one repeat were as wide. */
const ASSUMED_WIDTH_MM = 1000

/**
 * @param toImage decodes a picture; its proportions say how high a repeat is
 * @throws Error where a file does not come or does not read
 */
export async function openMockUpItem<I extends { width: number; height: number }>(
  item: MockUpItem,
  toImage: (blob: Blob) => Promise<I>,
  { mapPx, skyPx }: OpenedSizes,
): Promise<OpenedItem<I> | null> {
  switch (item.kind) {
    case 'model':
      return openModel(item, toImage, mapPx)
    case 'material':
      return openMaterial(item, toImage, mapPx)
    case 'environment': {
      const file = item.files.find(f => f.role === 'environment')
      if (!file) return null
      return { kind: 'sky', map: await readSky(await fetchFile(screenCopyOf(file.url, skyPx))) }
    }
    case 'light': {
      const file = item.files.find(f => f.role === 'photometry')
      if (!file) return null
      const bytes = await bytesOf(await fetchFile(file.url))
      return { kind: 'light', web: readPhotometry(file.path, new TextDecoder('latin1').decode(bytes)) }
    }
    default:
      return null
  }
}

/**
 * One file after the other: a copy that is still to be made takes its time, a browser has six lines to a server, and the page itself needs
 * some of them meanwhile.
 */
let last: Promise<unknown> = Promise.resolve()

function fetchFile(url: string): Promise<Blob> {
  const fetched = last.then(async () => {
    const response = await fetch(url)
    if (!response.ok) throw new Error(`${url} answered ${response.status}`)
    return response.blob()
  })
  last = fetched.catch(() => {})
  return fetched
}

const bytesOf = async (blob: Blob): Promise<Uint8Array> => new Uint8Array(await blob.arrayBuffer())

async function openModel<I>(
  item: MockUpItem,
  toImage: (blob: Blob) => Promise<I>,
  mapPx: ScreenCopySide,
): Promise<OpenedItem<I> | null> {
  const file = item.files.find(f => f.role === 'model')
  if (!file) return null
  const model = await parseGlb(await bytesOf(await fetchFile(screenCopyOf(file.url, mapPx))))
  const images = await Promise.all(model.images.map(({ bytes }) => toImage(new Blob([bytes as BlobPart]))))
  const plain = createMaterial('no material', { baseColor: [0.6, 0.6, 0.6] })
  return {
    kind: 'model',
    parts: model.parts.map(({ name, mesh, hasUvs, material, node }) => ({
      name,
      mesh,
      hasUvs,
      node,
      material: model.materials[material] ?? plain,
      images,
    })),
  }
}

const isMapRole = (role: string): role is MapRole => (MAP_ROLES as readonly string[]).includes(role)

async function openMaterial<I extends { width: number; height: number }>(
  item: MockUpItem,
  toImage: (blob: Blob) => Promise<I>,
  mapPx: ScreenCopySide,
): Promise<OpenedItem<I>> {
  const hasNormal = item.files.some(f => f.role === 'normal')
  const drawn = item.files.filter(
    f => isMapRole(f.role) && !['ambientOcclusion', 'specular'].includes(f.role) && (f.role !== 'height' || !hasNormal),
  )
  const images = await Promise.all(drawn.map(async f => toImage(await fetchFile(screenCopyOf(f.url, mapPx)))))
  const widthM = (item.widthMm ?? ASSUMED_WIDTH_MM) / 1000
  const [first] = images
  const maps = drawn.map((f, image) => ({
    role: f.role as MapRole,
    image,
    ...(f.role === 'normal' ? { handedness: item.handedness ?? f.handednessHint ?? ('openGl' as const) } : {}),
  }))
  const tile: [number, number] = [widthM, first ? (widthM * first.height) / first.width : widthM]
  return {
    kind: 'material',
    look: { material: buildMaterialFromMaps(item.name, maps, tile, item.constants, item.tiling), images },
  }
}
