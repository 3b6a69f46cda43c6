/** A figure as people type it: with a comma or a point, and spaces between thousands. NaN where it is none. */
export function parseNumber(text: string): number {
  const plain = text.trim().replace(/[\s\u202f\u00a0]/g, '')
  if (!/^[+-]?(\d+([.,]\d*)?|[.,]\d+)$/.test(plain)) return Number.NaN
  return Number(plain.replace(',', '.'))
}
