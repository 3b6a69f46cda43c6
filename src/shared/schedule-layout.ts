import type {
  KeptLine,
  Schedule,
  ScheduleColumn,
  ScheduleGroup,
  ScheduleLayout,
  ScheduleRow,
} from './contracts/schedules.contract'
import { hasChanged, saidAmount } from './schedule-changes'

/** Columns as they are shown: beside those that are chosen, what it was in what the schedule is held against. */
export type ShownColumn = ScheduleColumn | 'was'
/** A line as it is shown; of one that is not in the schedule any more there is only what it was. */
export type ShownRow = ScheduleRow & { isGone?: boolean }

export const COLUMN_WORDS: Record<ShownColumn, string> = {
  picture: 'Picture',
  code: 'Code',
  name: 'Name',
  maker: 'Maker',
  productNumber: 'Product number',
  sheen: 'Sheen',
  size: 'Size',
  quantity: 'Quantity',
  gross: 'With waste',
  was: 'Was',
  edge: 'Open edges',
  litres: 'Litres',
  weight: 'Weight',
  cost: 'Cost',
  where: 'Where used',
  licence: 'Licence',
}

export const GROUP_WORDS: Record<ScheduleGroup, string> = {
  kind: 'by kind',
  category: 'by category',
  maker: 'by maker',
  place: 'by where it is used',
  type: 'by type of part',
  none: 'not grouped',
}

const KIND_TITLES: Record<ScheduleRow['kind'], string> = {
  material: 'Materials',
  model: 'Furniture and plants',
  light: 'Luminaires',
  environment: 'Environments',
  map: 'Maps',
  own: 'Came with a model, or not chosen yet',
}

/** What was chosen comes before what was not. */
const KIND_ORDER = Object.values(KIND_TITLES)

/** A cell as it is read, and as a figure to go on with where it is one. */
export interface ScheduleCell {
  text: string
  figure: number | null
  unit: string
}

export function cellOf(row: ShownRow, column: ShownColumn): ScheduleCell {
  const words = (text: string): ScheduleCell => ({ text, figure: null, unit: '' })
  const figure = (value: number | null, unit: string, digits: number): ScheduleCell =>
    value === null ? words('') : { text: `${value.toFixed(digits)}${unit && ` ${unit}`}`, figure: value, unit }
  const amount = (value: number | null) => (row.unit === 'm2' ? figure(value, 'm²', 2) : figure(value, '', 0))
  const isOpen = row.isGone || saidAmount(row) === null
  switch (column) {
    case 'picture':
      return words('')
    case 'code':
      return words(row.code ?? '')
    case 'where':
      return words(sayWhere(row))
    case 'quantity':
      return amount(isOpen ? null : row.net)
    case 'gross':
      return amount(isOpen ? null : row.gross)
    case 'was': {
      if (row.before === null) return words('')
      if (row.before === 'new') return words('new')
      const was = amount(row.before.net)
      return hasChanged(row) || row.isGone ? was : { ...was, text: 'the same' }
    }
    case 'edge':
      return figure(row.edgeM, 'm', 1)
    case 'litres':
      return figure(row.litres, 'l', 1)
    case 'weight':
      return figure(row.weightKg, 'kg', 1)
    case 'cost':
      return figure(row.cost, '', 2)
    default:
      return words(row[column])
  }
}

/** "W3: wall north, wall east; Slat back chair: seat ×4, floor": each type and each thing once, with its parts. */
export function sayWhere({ where }: Pick<ScheduleRow, 'where'>): string {
  const types = [...new Set(where.flatMap(p => p.type ?? []))].map(
    type => `${type}: ${sayParts(where.filter(p => p.type === type)).replaceAll('; ', ', ')}`,
  )
  return [...types, sayParts(where.filter(p => p.type === null))].filter(Boolean).join('; ')
}

function sayParts(where: ScheduleRow['where']): string {
  const parts = new Map<string, string[]>()
  for (const { of, part, count } of where) {
    const said = part === '' ? '' : `${part}${count > 1 ? ` ×${count}` : ''}`
    parts.set(of, [...(parts.get(of) ?? []), ...(said ? [said] : [])])
  }
  return [...parts]
    .map(([of, list]) => (of === 'Stage' ? list.join(', ') : list.length > 0 ? `${of}: ${list.join(', ')}` : of))
    .join('; ')
}

export interface ScheduleSection {
  title: string
  rows: ShownRow[]
}

/** A schedule as it is shown: its columns, and its lines in groups, with what went since what it is held against at the end. */
export function showSchedule(
  { rows, gone }: Pick<Schedule, 'rows' | 'gone'>,
  layout: Pick<ScheduleLayout, 'columns' | 'group' | 'sort'>,
): { columns: ShownColumn[]; sections: ScheduleSection[] } {
  const sections = layOutSchedule(rows, layout)
  const columns: ShownColumn[] = [...layout.columns]
  if (gone.length === 0 && rows.every(r => r.before === null)) return { columns, sections }
  const amountAt = Math.max(columns.indexOf('quantity'), columns.indexOf('gross'))
  columns.splice(amountAt < 0 ? columns.length : amountAt + 1, 0, 'was')
  if (gone.length > 0) sections.push({ title: 'Not in it any more', rows: gone.map(toGoneRow) })
  return { columns, sections }
}

const toGoneRow = ({ net, ...line }: KeptLine): ShownRow => ({
  ...line,
  ...{ version: null, kind: 'own', category: '', preview: null, maker: '', productNumber: '', sheen: '', licence: '', size: '' },
  ...{ net: 0, gross: 0, edgeM: null, litres: null, weightKg: null, cost: null, where: [], scaled: 0 },
  before: { net },
  isGone: true,
})

/** Rows in groups and in order. By where it is used and by type, a row stands in each group with what is used there. */
export function layOutSchedule(
  rows: readonly ScheduleRow[],
  { group, sort }: Pick<ScheduleLayout, 'group' | 'sort'>,
): ScheduleSection[] {
  const placed = isSplit(group)
    ? rows.flatMap(row => splitBy(row, TITLE_OF_PLACE[group]))
    : rows.map(row => ({ title: titleOf(row, group), row }))
  const sections = new Map<string, ScheduleRow[]>()
  for (const { title, row } of placed) sections.set(title, [...(sections.get(title) ?? []), row])
  const inPlace = ([a]: [string, unknown], [b]: [string, unknown]) =>
    group === 'kind'
      ? KIND_ORDER.indexOf(a) - KIND_ORDER.indexOf(b)
      : Number(a === REST) - Number(b === REST) || a.localeCompare(b)
  return [...sections].sort(inPlace).map(([title, list]) => ({ title, rows: list.sort(inOrder(sort)) }))
}

const titleOf = (row: ScheduleRow, group: Exclude<ScheduleGroup, keyof typeof TITLE_OF_PLACE>): string => {
  switch (group) {
    case 'kind':
      return KIND_TITLES[row.kind]
    case 'category':
      return row.category || 'Without a category'
    case 'maker':
      return row.maker || 'Maker not known'
    case 'none':
      return ''
    default:
      return group satisfies never
  }
}

/** Whether a row may stand in several groups, each time with a share of it. */
export const isSplit = (group: ScheduleGroup): group is keyof typeof TITLE_OF_PLACE => group in TITLE_OF_PLACE

type Where = ScheduleRow['where']
/** What is of no type, after the types. */
const REST = 'By surface'

const TITLE_OF_PLACE = {
  place: {
    of: ({ group, of }: Where[number]) => group ?? (of === 'Stage' ? 'Floor, walls and ceiling' : of),
    none: 'In no group',
  },
  type: { of: ({ type }: Where[number]) => (type === null ? REST : `Type ${type}`), none: REST },
} as const

function splitBy(
  row: ScheduleRow,
  { of, none }: { of: (place: Where[number]) => string; none: string },
): { title: string; row: ScheduleRow }[] {
  const shares = new Map<string, Where>()
  for (const place of row.where) {
    const title = of(place)
    shares.set(title, [...(shares.get(title) ?? []), place])
  }
  if (shares.size === 0) return [{ title: none, row }]
  return [...shares].map(([title, where]) => {
    const net = where.reduce((sum, p) => sum + p.amount, 0)
    const share = row.net > 0 ? net / row.net : 1
    const scaled = (value: number | null) => (value === null ? null : value * share)
    return {
      title,
      row: {
        ...row,
        key: `${row.key} ${title}`,
        where,
        net,
        gross: row.gross * share,
        edgeM: scaled(row.edgeM),
        litres: scaled(row.litres),
        weightKg: scaled(row.weightKg),
        cost: scaled(row.cost),
        before: null,
      },
    }
  })
}

const inOrder =
  (sort: ScheduleLayout['sort']) =>
  (a: ScheduleRow, b: ScheduleRow): number => {
    if (sort === 'quantity') return b.net - a.net
    const [x, y] = sort === 'code' ? [a.code ?? '~', b.code ?? '~'] : [a.name, b.name]
    return x.localeCompare(y)
  }

/** What all of it costs and weighs, as far as that is known. */
export const totalOf = (rows: readonly ScheduleRow[], what: 'cost' | 'weightKg'): number | null => {
  const known = rows.flatMap(r => r[what] ?? [])
  return known.length > 0 ? known.reduce((sum, v) => sum + v, 0) : null
}
