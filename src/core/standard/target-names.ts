/** Delivery forms whose fidelity is measured. Apart from their writers, which a page that only names them does not load. */
export const TARGETS = ['gltf', 'materialX', 'usdPreviewSurface', 'objMtl'] as const
export type Target = (typeof TARGETS)[number]
