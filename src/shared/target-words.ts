import type { Target } from '#core/standard/target-names'

export const TARGET_WORDS: Record<Target, string> = {
  gltf: 'glTF 2.0',
  materialX: 'MaterialX',
  usdPreviewSurface: 'UsdPreviewSurface',
  objMtl: 'OBJ / MTL',
}
