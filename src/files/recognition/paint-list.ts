import { converter } from 'culori'
import Papa from 'papaparse'
import { decodeSrgb } from '#core/color/srgb'
import { findSheen, type SheenName } from '#core/material/sheens'
import type { Vec3 } from '#core/math/vec3'

/** One paint of a maker's list in one sheen. */
export interface Paint {
  series: string
  number: string
  name: string
  sheen: SheenName
  /** As specified, linear Rec.709. */
  color: Vec3
}

const KEYS = {
  series: ['series', 'range', 'collection', 'line'],
  number: ['number', 'no', 'code', 'colour code', 'color code', 'ref', 'id'],
  name: ['name', 'colour', 'color', 'colour name', 'color name', 'title'],
  sheen: ['sheen', 'sheens', 'finish', 'finishes', 'gloss level'],
  hex: ['hex', 'srgb', 'html', 'rgb hex'],
  rgb: ['rgb'],
  r: ['r', 'red'],
  g: ['g', 'green'],
  b: ['b', 'blue'],
  l: ['l', 'l*', 'lab l', 'cie l'],
  labA: ['a', 'a*', 'lab a', 'cie a'],
  labB: ['b*', 'lab b', 'cie b'],
} as const
type Field = keyof typeof KEYS

const MOST_PAINTS = 20_000
/** What a list that names no sheen is taken to be; wall paint mostly is. */
const USUAL_SHEEN: SheenName = 'matt'

/**
 * Reads a paint maker's list, a table with a heading or JSON: a colour as #rrggbb, as red, green and blue of 0..255, or as CIE L*a*b*
 * (D50), with name and, where they are given, series, number and sheens (several parted by commas make one paint each). Null when the
 * text is no such list: most of its lines must give a colour.
 */
export function parsePaintList(path: string, text: string): Paint[] | null {
  const rows = readRows(path, text.replace(/^\uFEFF/, ''))
  if (!rows || rows.length === 0) return null
  const paints: Paint[] = []
  let colored = 0
  for (const row of rows.slice(0, MOST_PAINTS)) {
    const fields = nameFields(row)
    const color = readColor(fields)
    const name = textOf(fields.name)
    const number = textOf(fields.number)
    if (!color || (name === '' && number === '')) continue
    colored++
    const words = (Array.isArray(fields.sheen) ? fields.sheen.map(String) : textOf(fields.sheen).split(/[,;/|]+/)).filter(
      w => w.trim() !== '',
    )
    const sheens = words.map(findSheen).filter(s => s !== null)
    for (const sheen of sheens.length > 0 ? sheens.map(s => s.name) : [USUAL_SHEEN])
      paints.push({ series: textOf(fields.series), number, name: name || number, sheen, color })
  }
  return colored >= rows.length * 0.6 ? paints : null
}

function readRows(path: string, text: string): Record<string, unknown>[] | null {
  if (/\.json$/i.test(path)) {
    try {
      const json: unknown = JSON.parse(text)
      const list = Array.isArray(json) ? json : Object.values(json as object).find(Array.isArray)
      return Array.isArray(list) ? list.filter((r): r is Record<string, unknown> => typeof r === 'object' && r !== null) : null
    } catch {
      return null
    }
  }
  if (!/\.(csv|tsv)$/i.test(path)) return null
  const { data, meta } = Papa.parse<Record<string, string>>(text, { header: true, skipEmptyLines: 'greedy' })
  return (meta.fields?.length ?? 0) > 1 ? data : null
}

function nameFields(row: Record<string, unknown>): Partial<Record<Field, unknown>> {
  const fields: Partial<Record<Field, unknown>> = {}
  for (const [key, value] of Object.entries(row)) {
    const plain = key
      .toLowerCase()
      .replace(/[\s_-]+/g, ' ')
      .trim()
    for (const field of Object.keys(KEYS) as Field[])
      if (fields[field] === undefined && (KEYS[field] as readonly string[]).includes(plain)) fields[field] = value
  }
  // One letter means two things: beside an L it is the b of L*a*b*, else blue.
  if (fields.l !== undefined && fields.labB === undefined) fields.labB = fields.b
  return fields
}

const textOf = (value: unknown): string => (typeof value === 'string' || typeof value === 'number' ? String(value).trim() : '')

const toRgb = converter('rgb')

function readColor(fields: Partial<Record<Field, unknown>>): Vec3 | null {
  const hex = /^#?([0-9a-f]{6})$/i.exec(textOf(fields.hex))
  if (hex) return [0, 2, 4].map(i => decodeSrgb(Number.parseInt(hex[1].slice(i, i + 2), 16) / 255)) as Vec3
  const numbers = (list: unknown[]): number[] | null => {
    const values = list.map(v => Number(textOf(v).replace(',', '.')))
    return list.every(v => textOf(v) !== '') && values.every(Number.isFinite) ? values : null
  }
  const lab = numbers([fields.l, fields.labA, fields.labB])
  if (lab && lab[0] >= 0 && lab[0] <= 100) {
    const { r, g, b } = toRgb({ mode: 'lab', l: lab[0], a: lab[1], b: lab[2] })
    return [r, g, b].map(v => decodeSrgb(Math.min(1, Math.max(0, v)))) as Vec3
  }
  const rgb = Array.isArray(fields.rgb)
    ? numbers(fields.rgb)
    : textOf(fields.rgb)
      ? numbers(textOf(fields.rgb).split(/[\s,;]+/))
      : numbers([fields.r, fields.g, fields.b])
  return rgb?.length === 3 && rgb.every(v => v >= 0 && v <= 255) ? (rgb.map(v => decodeSrgb(v / 255)) as Vec3) : null
}
