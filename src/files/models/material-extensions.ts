import type { Document, Material } from '@gltf-transform/core'
import { KHRMaterialsClearcoat, KHRMaterialsEmissiveStrength } from '@gltf-transform/extensions'

/** Emission over 1, which a factor of glTF may not be, goes into its strength. @param rgb linear, 1 the white of a screen */
export function setEmission(document: Document, material: Material, rgb: readonly [number, number, number]): void {
  const strength = Math.max(1, ...rgb)
  material.setEmissiveFactor([rgb[0] / strength, rgb[1] / strength, rgb[2] / strength])
  if (strength === 1) return
  const extension = document.createExtension(KHRMaterialsEmissiveStrength).createEmissiveStrength()
  material.setExtension('KHR_materials_emissive_strength', extension.setEmissiveStrength(strength))
}

/** A clear coat, where there is any. @param weight 0 to 1; @param roughness 0 to 1 */
export function setCoat(document: Document, material: Material, weight: number, roughness: number): void {
  if (!(weight > 0)) return
  const coat = document.createExtension(KHRMaterialsClearcoat).createClearcoat()
  material.setExtension(
    'KHR_materials_clearcoat',
    coat.setClearcoatFactor(Math.min(1, weight)).setClearcoatRoughnessFactor(Math.min(1, Math.max(0, roughness))),
  )
}
