/**
 * Stretched highlights in glTF and in OpenPBR. OpenPBR keeps the mean: αx = α √(2 / (1 + (1 − a)²)), αy = (1 − a) αx. The glTF
 * extension KHR_materials_anisotropy keeps the smaller and widens the other: αx = αy + s² (1 − αy), roughness² = αy.
 */

export function toGltfAnisotropy(roughness: number, anisotropy: number): { roughness: number; strength: number } {
  const alpha = roughness * roughness
  const alphaX = Math.min(1, alpha * Math.sqrt(2 / (1 + (1 - anisotropy) ** 2)))
  const alphaY = alphaX * (1 - anisotropy)
  return { roughness: Math.sqrt(alphaY), strength: alphaY < 1 ? Math.sqrt((alphaX - alphaY) / (1 - alphaY)) : 0 }
}

export function fromGltfAnisotropy(roughness: number, strength: number): { roughness: number; anisotropy: number } {
  const alphaY = roughness * roughness
  const alphaX = alphaY + strength * strength * (1 - alphaY)
  const anisotropy = alphaX > 0 ? 1 - alphaY / alphaX : 0
  return { roughness: Math.sqrt(alphaX / Math.sqrt(2 / (1 + (1 - anisotropy) ** 2))), anisotropy }
}
