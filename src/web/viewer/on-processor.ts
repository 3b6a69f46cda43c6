let onProcessor: boolean | null = null

/** Whether this machine has no graphics card that a page may use. */
export function drawsOnProcessor(): boolean {
  if (onProcessor !== null) return onProcessor
  const gl = document.createElement('canvas').getContext('webgl2')
  const info = gl?.getExtension('WEBGL_debug_renderer_info')
  const name = gl && info ? String(gl.getParameter(info.UNMASKED_RENDERER_WEBGL)) : ''
  gl?.getExtension('WEBGL_lose_context')?.loseContext()
  onProcessor = /swiftshader|llvmpipe|software/i.test(name)
  return onProcessor
}

/** Of textures; for a processor each further sample costs as much as the first. */
export const anisotropy = (): number => (drawsOnProcessor() ? 1 : 8)
