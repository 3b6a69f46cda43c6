import {
  ClampToEdgeWrapping,
  DoubleSide,
  LinearSRGBColorSpace,
  MeshPhysicalMaterial,
  RepeatWrapping,
  SRGBColorSpace,
  Texture,
  TextureLoader,
  Vector2,
  type Wrapping,
} from 'three'
import { diffuseColorOf, OPEN_PBR_DEFAULTS, type OpenPbrParameters } from '#core/material/open-pbr'
import type { Sheet, VersionFile } from '#shared/contracts/items.contract'
import { screenCopyOf } from '#shared/picture-widths'
import { anisotropy } from './on-processor'

const loadTexture = (url: string, isColor: boolean, wrapping: Wrapping): Promise<Texture> =>
  new TextureLoader().loadAsync(url).then(texture => {
    texture.colorSpace = isColor ? SRGBColorSpace : LinearSRGBColorSpace
    texture.wrapS = texture.wrapT = wrapping
    // Rows from the top, as the core's texture coordinates run.
    texture.flipY = false
    texture.anisotropy = anisotropy()
    texture.needsUpdate = true
    return texture
  })

/**
 * Glass as it is drawn while it moves: seen through, not refracted. True transmission draws the scene again for every glass, which takes a
 * computer without a graphics card seconds; it is traced as soon as it rests.
 */
export const GLASS = { transparent: true, opacity: 0.3, depthWrite: false }

/** A gloss map turned into roughness. */
function invert(texture: Texture): Texture {
  const image = texture.image as HTMLImageElement
  const canvas = document.createElement('canvas')
  canvas.width = image.naturalWidth
  canvas.height = image.naturalHeight
  const context = canvas.getContext('2d')!
  context.filter = 'invert(1)'
  context.drawImage(image, 0, 0)
  const inverted = new Texture(canvas)
  inverted.wrapS = inverted.wrapT = texture.wrapS
  inverted.flipY = false
  inverted.needsUpdate = true
  return inverted
}

/** The sheet's material as the live view draws it: the same parameters and maps as the preview, as far as a raster goes. */
export async function loadSheetMaterial(sheet: Sheet): Promise<MeshPhysicalMaterial> {
  const given = Object.fromEntries(Object.entries(sheet.constants).filter(([key]) => key in OPEN_PBR_DEFAULTS))
  const p: OpenPbrParameters = { ...OPEN_PBR_DEFAULTS, specularRoughness: 0.5, ...(given as Partial<OpenPbrParameters>) }
  const fileOf = (role: string): VersionFile | undefined => sheet.files.find(f => f.role === role)
  const load = async (role: string, isColor = false): Promise<Texture | null> => {
    const file = fileOf(role)
    return file
      ? loadTexture(screenCopyOf(file.url, 2048), isColor, sheet.tiling === 'once' ? ClampToEdgeWrapping : RepeatWrapping)
      : null
  }
  const [color, normal, roughness, gloss, metalness, orm, opacity] = await Promise.all([
    load('baseColor', true),
    load('normal'),
    load('roughness'),
    load('gloss'),
    load('metalness'),
    load('orm'),
    load('opacity'),
  ])
  const roughnessMap = roughness ?? (gloss ? invert(gloss) : null) ?? orm
  const metalnessMap = metalness ?? orm
  const material = new MeshPhysicalMaterial({
    map: color,
    normalMap: normal,
    roughnessMap,
    metalnessMap,
    alphaMap: opacity,
    alphaTest: opacity ? 0.5 : 0,
    roughness: roughnessMap ? 1 : p.specularRoughness,
    metalness: metalnessMap ? 1 : p.baseMetalness,
    ior: p.specularIor,
    side: DoubleSide,
    ...(p.transmissionWeight > 0.5 ? GLASS : {}),
  })
  if (!color) material.color.setRGB(...diffuseColorOf(p), LinearSRGBColorSpace)
  if (p.transmissionWeight > 0.5) {
    material.color.setRGB(...p.transmissionColor, LinearSRGBColorSpace)
  }
  // v runs down and green points up, unless the map is of the other convention.
  if (normal) material.normalScale = new Vector2(1, handednessOf(sheet) === 'directX' ? 1 : -1)
  return material
}

/** What was measured from the pixels first, then what the name says. */
function handednessOf(sheet: Sheet): 'openGl' | 'directX' {
  const measured = sheet.facts.find(f => f.name === 'normalMapHandedness')?.value
  if (measured === 'openGl' || measured === 'directX') return measured
  return sheet.files.find(f => f.role === 'normal')?.handednessHint ?? 'openGl'
}
