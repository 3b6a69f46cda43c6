/** A figure as people type it: with a comma or a point, and spaces between thousands. NaN where it is none. */
export function parseNumber(text: string): number {
  const plain = text.trim().replace(/[\s\u202f\u00a0]/g, '')
  if (!/^[+-]?(\d+([.,]\d*)?|[.,]\d+)$/.test(plain)) return Number.NaN
  return Number(plain.replace(',', '.'))
}

const MM_OF: Readonly<Record<string, number>> = { mm: 1, cm: 10, m: 1000, in: 25.4, '"': 25.4, ft: 304.8 }

/** A length in millimetres, typed with its unit or, without one, in millimetres. NaN where it is none. */
export function readLengthMm(text: string): number {
  const said = /^(.*?)\s*(mm|cm|m|in|"|ft)?$/i.exec(text.trim())
  return said ? parseNumber(said[1]) * MM_OF[(said[2] ?? 'mm').toLowerCase()] : Number.NaN
}
