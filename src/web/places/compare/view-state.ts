/** What part of the pictures is seen, the same for all: the middle in shares of the picture, and how many times it is enlarged. */
export interface View {
  x: number
  y: number
  scale: number
}

export const WHOLE: View = { x: 0.5, y: 0.5, scale: 1 }
export const LARGEST_SCALE = 32

/** Keeps the frame filled: at scale s the middle may be at most 1/2s from an edge. */
export function clampView({ x, y, scale }: View): View {
  const s = Math.min(Math.max(scale, 1), LARGEST_SCALE)
  const half = 0.5 / s
  const hold = (v: number) => Math.min(Math.max(v, half), 1 - half)
  return { x: hold(x), y: hold(y), scale: s }
}

/** The point of the picture under a point of the frame, both in shares. */
export const toPicture = (view: View, fx: number, fy: number): { u: number; v: number } => ({
  u: view.x + (fx - 0.5) / view.scale,
  v: view.y + (fy - 0.5) / view.scale,
})

/** Enlarges about a point of the frame, which keeps its place in the picture. */
export function zoomAt(view: View, factor: number, fx: number, fy: number): View {
  const { u, v } = toPicture(view, fx, fy)
  const scale = Math.min(Math.max(view.scale * factor, 1), LARGEST_SCALE)
  return clampView({ x: u - (fx - 0.5) / scale, y: v - (fy - 0.5) / scale, scale })
}

/** Moves the picture with the pointer, by shares of the frame. */
export const panBy = (view: View, dx: number, dy: number): View =>
  clampView({ ...view, x: view.x - dx / view.scale, y: view.y - dy / view.scale })

const KEY_PAN = 0.08
const KEY_ZOOM = 1.5

/** What a key makes of the view: arrows move, plus and minus enlarge, 0 shows the whole; null for any other key. */
export function viewAfterKey(key: string, view: View): View | null {
  switch (key) {
    case 'ArrowLeft':
      return panBy(view, KEY_PAN, 0)
    case 'ArrowRight':
      return panBy(view, -KEY_PAN, 0)
    case 'ArrowUp':
      return panBy(view, 0, KEY_PAN)
    case 'ArrowDown':
      return panBy(view, 0, -KEY_PAN)
    case '+':
      return zoomAt(view, KEY_ZOOM, 0.5, 0.5)
    case '-':
      return zoomAt(view, 1 / KEY_ZOOM, 0.5, 0.5)
    case '0':
      return WHOLE
    default:
      return null
  }
}
