import { sql } from 'drizzle-orm'
import papaparse from 'papaparse'
import { FIGURE_FACETS, TERM_FACETS } from '#core/find/query/facets'
import type { FactValue } from '#files/items/inspect-item'
import type { TableQuery, TableRow, TableView } from '#shared/contracts/table.contract'
import { findView } from '../find/find-view'
import type { Actor } from '../platform/access'
import type { Context, KnownAsker } from '../platform/context'
import { inChunks } from '../platform/database'
import { getFoundChips } from './found-chips'

type Finding = Pick<Context, 'db' | 'pool' | 'finder'>

const EXPORTED_AT_ONCE = 2000
/** Facts that are no reading for people. */
const UNREAD = ['appearance']

/** A page of a view as rows; figures and terms are those that the view is narrowed by, facts are read for it. */
export async function getTable(context: Finding, actor: Actor, given: TableQuery): Promise<TableView> {
  const { asker, view } = await findView(context, actor, given)
  const { rows, known } = await readRows(context, actor, asker, view.page(given.offset, given.limit), given.facts)
  return { total: view.total, rows, known }
}

async function readRows(
  context: Finding,
  actor: Actor,
  asker: KnownAsker,
  ids: readonly number[],
  wanted: readonly string[],
): Promise<Pick<TableView, 'rows' | 'known'>> {
  const [chips, { facts, known }, { columns }] = await Promise.all([
    getFoundChips(context, actor, asker, ids),
    readFactsOf(context, ids, wanted),
    context.finder.current(),
  ])
  const rows = chips.map((chip): TableRow => {
    const slot = columns.slotOf(chip.id)
    return {
      chip,
      facts: facts.get(chip.id) ?? {},
      figures: slot === undefined ? {} : knownOnes(FIGURE_FACETS, f => orNothing(columns.figures[f].valueOf(slot))),
      terms: slot === undefined ? {} : knownOnes(TERM_FACETS, f => termsOf(columns.terms[f].valuesOf(slot), f, asker)),
    }
  })
  return { rows, known }
}

const orNothing = (value: number): number | undefined => (Number.isFinite(value) ? value : undefined)

const termsOf = (values: string[], facet: string, { libraryNames }: KnownAsker): string[] | undefined =>
  values.length === 0 ? undefined : facet === 'library' ? values.map(v => libraryNames.get(v)?.title ?? v) : values

function knownOnes<K extends string, V>(keys: readonly K[], read: (key: K) => V | undefined): Partial<Record<K, V>> {
  const all: Partial<Record<K, V>> = {}
  for (const key of keys) {
    const value = read(key)
    if (value !== undefined) all[key] = value
  }
  return all
}

async function readFactsOf(
  { db }: Pick<Context, 'db'>,
  ids: readonly number[],
  wanted: readonly string[],
): Promise<{ facts: Map<number, Record<string, FactValue>>; known: string[] }> {
  const { rows } = await db.execute<{ id: number; name: string; value: FactValue | null }>(sql`
    select i.id, f.name, case when f.name = any(${sql.param([...wanted])}) then coalesce(to_jsonb(f.number), to_jsonb(f.text), to_jsonb(f.truth)) end as value
    from items i cross join lateral (select * from told_facts t where t.version_id = i.current_version_id offset 0) f
    where i.id = any(${sql.param([...ids])}) and f.name <> all(${sql.param(UNREAD)})`)
  const facts = new Map<number, Record<string, FactValue>>()
  const known = new Set<string>()
  for (const { id, name, value } of rows) {
    known.add(name)
    if (value === null) continue
    const own = facts.get(id) ?? {}
    own[name] = value
    facts.set(id, own)
  }
  return { facts, known: [...known].sort() }
}

/** All of a view as comma-separated values, in portions; what a spreadsheet would take for a formula is marked as text. */
export async function* exportTable(
  context: Finding,
  actor: Actor,
  given: Omit<TableQuery, 'offset' | 'limit'>,
): AsyncGenerator<string> {
  const { asker, view } = await findView(context, actor, given)
  const terms = TERM_FACETS.filter(f => f !== 'kind' && f !== 'state' && f !== 'category')
  const header = ['code', 'name', 'kind', 'category', 'state', ...terms, ...FIGURE_FACETS.map(exportedName), ...given.facts]
  yield `${papaparse.unparse([header], { escapeFormulae: true })}\r\n`
  for (const ids of inChunks(view.ids(), EXPORTED_AT_ONCE)) {
    const { rows } = await readRows(context, actor, asker, ids, given.facts)
    const lines = rows.map(({ chip, figures, terms: values, facts }) => [
      chip.code,
      chip.name,
      chip.kind,
      context.finder.categoryTitles.get(chip.category) ?? chip.category,
      chip.state,
      ...terms.map(f => (values[f] ?? []).join(', ')),
      ...FIGURE_FACETS.map(f => exportedFigure(f, figures[f])),
      ...given.facts.map(name => facts[name] ?? ''),
    ])
    if (lines.length > 0) yield `${papaparse.unparse(lines, { escapeFormulae: true })}\r\n`
  }
}

const DAY_MS = 86_400_000
const isDay = (facet: string) => facet.endsWith('Day')
const exportedName = (facet: string): string => (isDay(facet) ? facet.replace(/Day$/, '') : facet)
const exportedFigure = (facet: string, value: number | undefined): string | number =>
  value === undefined ? '' : isDay(facet) ? new Date(value * DAY_MS).toISOString().slice(0, 10) : Number(value.toPrecision(6))
