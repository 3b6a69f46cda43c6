import { type SQL, sql } from 'drizzle-orm'
import papaparse from 'papaparse'
import type { z } from 'zod'
import type { RecordEntry, RecordQuery, RecordSubject, recordSchema } from '#shared/contracts/record.contract'
import { type Actor, mayEdit, visibleLibraries } from '../platform/access'
import type { Connection } from '../platform/database'
import { notAllowed } from '../platform/problem'

const PAGE = 100
/** More than a studio does in years; who wants all of it asks by months. */
const MOST_EXPORTED = 50_000
const LONGEST_TEXT = 200

interface Row extends Record<string, unknown> {
  id: number
  at: Date
  person: string | null
  subject: RecordSubject
  code: string | null
  name: string | null
  verb: string
  before: unknown
  after: unknown
}

/** Who did what to what. What concerns a client's library is told to its team alone. */
async function selectEntries(db: Connection, actor: Actor, query: RecordQuery, limit: number): Promise<Row[]> {
  if (!mayEdit(actor)) throw notAllowed('The record')
  const visible = visibleLibraries(actor)
  const conditions: SQL[] = [
    sql`(coalesce(i.library_id, b.library_id, pr.library_id, f.library_id) in ${visible}
      or e.subject in ('standard', 'person')
      or (e.subject = 'library' and (l.kind = 'house' or exists (
        select from library_members m where m.library_id = l.id and m.person_id = ${actor.id}))))`,
  ]
  if (query.person) conditions.push(sql`e.person_id = ${query.person}`)
  if (query.subject) conditions.push(sql`e.subject = ${query.subject}`)
  if (query.from) conditions.push(sql`e.at >= ${query.from}::date`)
  if (query.to) conditions.push(sql`e.at < ${query.to}::date + 1`)
  if (query.before) conditions.push(sql`e.id < ${query.before}`)
  for (const word of query.words.split(/\s+/).filter(Boolean)) {
    const pattern = `%${word.replace(/[\\%_]/g, '\\$&')}%`
    conditions.push(
      sql`concat_ws(' ', i.code, i.name, b.title, pr.code, pr.title, f.title, about.name, l.title, e.verb) ilike ${pattern}`,
    )
  }
  const { rows } = await db.execute<Row>(sql`
    select e.id, e.at, p.name as person, e.subject, coalesce(i.code, pr.code) as code,
      coalesce(i.name, b.title, pr.title, f.title, about.name, l.title) as name, e.verb, e.before, e.after
    from events e
    left join people p on p.id = e.person_id
    left join items i on e.subject = 'item' and i.id = e.subject_id
    left join batches b on e.subject = 'batch' and b.id = e.subject_id
    left join projects pr on e.subject = 'project' and pr.id = e.subject_id
    left join feeds f on e.subject = 'feed' and f.id = e.subject_id
    left join people about on e.subject = 'person' and about.id = e.subject_id
    left join libraries l on e.subject = 'library' and l.id = e.subject_id
    where ${sql.join(conditions, sql` and `)}
    order by e.id desc limit ${limit}`)
  return rows
}

/** One page of the record, the newest first. @throws ProblemError for somebody who is no lead */
export async function listRecord(db: Connection, actor: Actor, query: RecordQuery): Promise<z.output<typeof recordSchema>> {
  const rows = await selectEntries(db, actor, query, PAGE + 1)
  return { entries: rows.slice(0, PAGE).map(toEntry), hasMore: rows.length > PAGE }
}

/** The same as CSV (RFC 4180), for a spreadsheet; a value that one would take for a formula is quoted. */
export async function exportRecord(db: Connection, actor: Actor, query: RecordQuery): Promise<string> {
  const entries = (await selectEntries(db, actor, query, MOST_EXPORTED)).map(toEntry)
  return papaparse.unparse(
    {
      fields: ['at', 'person', 'subject', 'code', 'name', 'verb', 'changes'],
      data: entries.map(e => [
        e.at,
        e.person ?? '',
        e.subject,
        e.code ?? '',
        e.name,
        e.verb,
        e.changes.map(c => `${c.what}: ${c.from} → ${c.to}`).join('; '),
      ]),
    },
    { escapeFormulae: true },
  )
}

const toEntry = ({ id, at, person, subject, code, name, verb, before, after }: Row): RecordEntry => ({
  id,
  at: new Date(at).toISOString(),
  person,
  subject,
  code,
  name: name ?? (subject === 'standard' ? 'the house standard' : ''),
  verb,
  changes: compareStates(before, after),
})

/** Field by field, what one state has otherwise than the other. */
export function compareStates(before: unknown, after: unknown): RecordEntry['changes'] {
  const [old, now] = [fieldsOf(before), fieldsOf(after)]
  return [...new Set([...Object.keys(old), ...Object.keys(now)])]
    .map(what => ({ what, from: toText(old[what]), to: toText(now[what]) }))
    .filter(({ from, to }) => from !== to)
}

const fieldsOf = (state: unknown): Record<string, unknown> =>
  typeof state === 'object' && state !== null && !Array.isArray(state) ? (state as Record<string, unknown>) : {}

function toText(value: unknown): string {
  if (value === undefined || value === null) return ''
  const text = typeof value === 'string' ? value : JSON.stringify(value)
  return text.length > LONGEST_TEXT ? `${text.slice(0, LONGEST_TEXT)}…` : text
}
