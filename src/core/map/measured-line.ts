/** A place in a picture, in shares of its width from the left and of its height from the top. */
export interface Place {
  u: number
  v: number
}

export interface Line {
  from: Place
  to: Place
}

/** How long a line is, in pixels of a picture. */
export const lengthPx = ({ from, to }: Line, { width, height }: { width: number; height: number }): number =>
  Math.hypot((to.u - from.u) * width, (to.v - from.v) * height)

/** Shorter ones measure the hand that drew them. */
const LEAST_PX = 4

/**
 * The real width of a whole picture, in millimetres, by a line in it whose real length is known; null for a line that is too short, or no
 * length. The picture must have been taken straight on: nothing is foreshortened.
 */
export function widthByLine(line: Line, size: { width: number; height: number }, lengthMm: number): number | null {
  const px = lengthPx(line, size)
  return px >= LEAST_PX && lengthMm > 0 && Number.isFinite(lengthMm) ? (size.width / px) * lengthMm : null
}

/** By how much of it the width is uncertain where each end is placed to about half a pixel. */
export const uncertaintyOf = (line: Line, size: { width: number; height: number }): number => Math.SQRT1_2 / lengthPx(line, size)
