/**
 * Luminance in cd/m² that reads as display white when an emitter is seen: what a preview shows as 1, and what an emissive colour of 1
 * stands for in formats that give it no unit (glTF, UsdPreviewSurface, MTL), so that a material comes back from each as it went.
 */
export const EMISSION_WHITE_NITS = 500
