import {
  ClampToEdgeWrapping,
  DoubleSide,
  FrontSide,
  LinearSRGBColorSpace,
  MeshPhysicalMaterial,
  RepeatWrapping,
  SRGBColorSpace,
  Texture,
  Vector2,
} from 'three'
import { diffuseColorOf, type OpenPbrMaterial, type TextureBinding } from '#core/material/open-pbr'
import type { MaterialShift } from '#core/material/shift'
import type { Look } from '#core/mock-up/things/resources'
import { GLASS } from '../material-from-sheet'
import { anisotropy } from '../on-processor'

const made = new WeakMap<OpenPbrMaterial, Map<boolean, MeshPhysicalMaterial>>()

/** Light goes through it: it throws no shadow to speak of. */
export const isGlass = ({ parameters }: OpenPbrMaterial): boolean => parameters.transmissionWeight > 0.5

/** A material of the core as a raster draws it; the same one is made once. @param isOneSided walls are looked through from behind */
export function toThreeMaterial({ material, images, shift }: Look<ImageBitmap>, isOneSided: boolean): MeshPhysicalMaterial {
  const known = made.get(material) ?? new Map<boolean, MeshPhysicalMaterial>()
  made.set(material, known)
  let three = known.get(isOneSided)
  if (!three) {
    three = make(material, images)
    if (shift) shiftMaps(three, shift)
    three.side = isOneSided ? FrontSide : DoubleSide
    known.set(isOneSided, three)
  }
  return three
}

/** What maps say, times the factors; constants have them already. */
function shiftMaps(three: MeshPhysicalMaterial, { tint, roughness, relief }: MaterialShift): void {
  if (three.map) three.color.setRGB(...tint, LinearSRGBColorSpace)
  if (three.roughnessMap) three.roughness = roughness
  if (three.normalMap) three.normalScale.multiplyScalar(relief)
}

function make(source: OpenPbrMaterial, images: readonly ImageBitmap[]): MeshPhysicalMaterial {
  const { parameters: p, textures, tiling } = source
  const load = (binding: TextureBinding | undefined, isColor: boolean): Texture | null => {
    const image = binding && images[binding.image]
    if (!image) return null
    const texture = new Texture(binding.inverted ? invert(image) : image)
    texture.colorSpace = isColor ? SRGBColorSpace : LinearSRGBColorSpace
    texture.wrapS = texture.wrapT = tiling === 'once' ? ClampToEdgeWrapping : RepeatWrapping
    // Rows from the top, as the core's texture coordinates run.
    texture.flipY = false
    texture.anisotropy = anisotropy()
    texture.needsUpdate = true
    return texture
  }
  const color = load(textures.baseColor, true)
  const normal = load(textures.geometryNormal, false)
  const roughness = load(textures.specularRoughness, false)
  const metalness = load(textures.baseMetalness, false)
  const isCutOut = textures.geometryOpacity !== undefined
  // Of its own picture, or the fourth channel of the colour.
  const opacity = isCutOut && textures.geometryOpacity?.channel !== 3 ? load(textures.geometryOpacity, false) : null
  const three = new MeshPhysicalMaterial({
    map: color,
    normalMap: normal,
    roughnessMap: roughness,
    metalnessMap: metalness,
    alphaMap: opacity,
    alphaTest: isCutOut ? 0.5 : 0,
    roughness: roughness ? 1 : p.specularRoughness,
    metalness: metalness ? 1 : p.baseMetalness,
    ior: p.specularIor,
    specularIntensity: Math.min(1, p.specularWeight),
    clearcoat: p.coatWeight,
    clearcoatRoughness: p.coatRoughness,
    ...(isGlass(source) ? GLASS : {}),
  })
  if (!color) three.color.setRGB(...diffuseColorOf(p), LinearSRGBColorSpace)
  if (isGlass(source)) three.color.setRGB(...p.transmissionColor, LinearSRGBColorSpace)
  if (p.emissionLuminance > 0) {
    three.emissive.setRGB(...p.emissionColor, LinearSRGBColorSpace)
    three.emissiveIntensity = Math.min(4, p.emissionLuminance)
  }
  // v runs down and green points up, unless the map is of the other convention.
  if (normal) three.normalScale = new Vector2(1, textures.geometryNormal?.handedness === 'directX' ? 1 : -1)
  return three
}

/** A gloss map turned into roughness. */
function invert(image: ImageBitmap): OffscreenCanvas {
  const canvas = new OffscreenCanvas(image.width, image.height)
  const context = canvas.getContext('2d')!
  context.filter = 'invert(1)'
  context.drawImage(image, 0, 0)
  return canvas
}
