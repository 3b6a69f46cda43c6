import type { ByteImage } from '#core/image/image'
import { buildMaterialFromMaps, type RoleImage } from '#core/material/build-material'
import { decideHandedness } from '#core/material/decide-handedness'
import type { OpenPbrMaterial, OpenPbrParameters } from '#core/material/open-pbr'
import { MAP_ROLES, type MapRole } from '#core/material/texture-set'
import type { Sheet } from '#shared/contracts/items.contract'
import { screenCopyOf } from '#shared/picture-widths'
import { readPixels } from '../../../workers/read-pixels'

const UNUSED: ReadonlySet<string> = new Set(['ambientOcclusion', 'specular'])

export interface TunableMaterial {
  images: ByteImage[]
  /** Beside a normal map, where they are none of the pictures. */
  heights: ByteImage | null
  /** The material with other constants; maps stay. */
  build: (constants: Partial<OpenPbrParameters>) => OpenPbrMaterial
}

const isMapRole = (role: string): role is MapRole => (MAP_ROLES as readonly string[]).includes(role)

/** The sheet's maps as the path tracer takes them, read by the same rules as on the server. */
export async function loadTunableMaterial(sheet: Sheet): Promise<TunableMaterial> {
  const images: ByteImage[] = []
  const roles: RoleImage[] = []
  const hasNormal = sheet.files.some(f => f.role === 'normal')
  const used = sheet.files.filter(f => isMapRole(f.role) && !UNUSED.has(f.role) && !(f.role === 'height' && hasNormal))
  const beside = hasNormal ? sheet.files.find(f => f.role === 'height') : undefined
  const [heights, ...loaded] = await Promise.all([beside ? loadImage(beside.url) : null, ...used.map(f => loadImage(f.url))])
  used.forEach((file, k) => {
    images.push(loaded[k])
    const role = file.role as MapRole
    roles.push({
      role,
      image: k,
      ...(role === 'normal' ? { handedness: decideHandedness(loaded[k], file.handednessHint) } : {}),
    })
  })
  const widthM = (sheet.widthMm ?? 1000) / 1000
  const first = images[0]
  const tile: [number, number] = [widthM, first ? (widthM * first.height) / first.width : widthM]
  return { images, heights, build: constants => buildMaterialFromMaps(sheet.name, roles, tile, constants, sheet.tiling) }
}

async function loadImage(url: string): Promise<ByteImage> {
  const response = await fetch(screenCopyOf(url, 1024))
  if (!response.ok) throw new Error(`map answered ${response.status}`)
  return readPixels(await response.blob())
}
