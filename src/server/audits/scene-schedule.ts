import { and, eq, sql } from 'drizzle-orm'
import type { ItemRef } from '#core/mock-up/scene/scene'
import type { JoinedTakeoff } from '#core/takeoff/join-takeoffs'
import type { CountedAmount } from '#core/takeoff/measure-scene'
import type { Schedule, ScheduleRow } from '#shared/contracts/schedules.contract'
import { describeTakeoff } from '../mock-ups/schedule'
import { type Actor, mayRead } from '../platform/access'
import type { Context } from '../platform/context'
import { ProblemError } from '../platform/problem'
import type { KeptAudit } from '../tables/audit.table'
import { items, versions } from '../tables/library.table'
import { projects } from '../tables/project.table'
import { getAuditRow } from './audits'

type Known = ReadonlyMap<string, ItemRef>
const keyOf = (code: string, version: number): string => `${code} ${version}`
/** So many places are named; of a scene with a hundred walls the others are counted. */
const MOST_PLACES = 6
const ROUNDING = 1e-6

/**
 * What is in an audited scene: the surface that every material lies on, and how many of every model and light stand there. Surfaces are those
 * of all triangles, whichever side of them is seen.
 */
export async function getSceneSchedule(context: Context, actor: Actor, id: number, waste: number): Promise<Schedule> {
  const { db } = context
  const { title, projectId, result } = await getAuditRow(db, actor, id)
  if (!result) throw new ProblemError('notReady', 'The scene is not read yet; its schedule is there when it is.')
  const [project] = projectId === null ? [] : await db.select().from(projects).where(eq(projects.id, projectId))
  const known = await listRefs(context, actor, result)
  const { rows, missing } = await describeTakeoff(context, actor, measureAudit(result, known), waste)
  return {
    title,
    project: project ? `${project.code} ${project.title}` : null,
    rows: [...rows, ...otherModels(result, known)],
    missing,
    gone: [],
  }
}

/** The versions that an audit names, as far as the asker sees them. */
async function listRefs({ db }: Pick<Context, 'db'>, actor: Actor, audit: KeptAudit): Promise<Known> {
  const named = [...audit.materials, ...audit.models, ...audit.lights].flatMap(({ code, version }) =>
    code !== null && version !== null ? [{ code, version }] : [],
  )
  const wanted = sql`(${items.code}, ${versions.number}) in (
    select w.code, w.version from jsonb_to_recordset(${JSON.stringify(named)}::jsonb) as w(code text, version int))`
  const rows = await db
    .select({ code: items.code, version: versions.number, inputKey: versions.inputKey })
    .from(versions)
    .innerJoin(items, eq(items.id, versions.itemId))
    .where(and(wanted, mayRead(actor, items.libraryId)))
  return new Map(rows.map(ref => [keyOf(ref.code, ref.version), ref]))
}

function measureAudit(audit: KeptAudit, known: Known): JoinedTakeoff {
  const materials = new Map<string, JoinedTakeoff['materials'][number]>()
  for (const m of audit.materials) {
    // What a model came with is its own affair, whatever model of the library it is.
    const ref = m.ofModel === null ? refOf(m, known) : null
    const key = ref ? ref.code : `own ${m.name}`
    const amount = materials.get(key) ?? { ref, name: m.name, areaM2: 0, edgeM: null, places: [] }
    materials.set(key, amount)
    amount.areaM2 += m.areaM2
    const place = { of: sayPlaces(m.places), part: '', group: null, edgeM: 0 }
    // Audits that were kept before types were read have none.
    const types = m.types ?? []
    for (const { name, areaM2, parts } of types) amount.places.push({ ...place, type: name, count: parts, areaM2 })
    const rest = m.areaM2 - types.reduce((sum, type) => sum + type.areaM2, 0)
    if (types.length === 0 || rest > m.areaM2 * ROUNDING) amount.places.push({ ...place, type: null, count: 1, areaM2: rest })
  }
  return { materials: [...materials.values()], counted: count(audit, known), missing: [] }
}

function sayPlaces(places: readonly string[]): string {
  const shown = places.slice(0, MOST_PLACES).join(', ')
  return places.length > MOST_PLACES ? `${shown} and ${places.length - MOST_PLACES} more` : shown
}

const refOf = ({ code, version }: { code: string | null; version: number | null }, known: Known): ItemRef | null =>
  code !== null && version !== null ? (known.get(keyOf(code, version)) ?? null) : null

function count(audit: KeptAudit, known: Known): CountedAmount[] {
  const counted = new Map<string, CountedAmount>()
  const add = (kind: 'piece' | 'light', ref: ItemRef | null, name: string, uses: number) => {
    if (!ref) return
    const amount = counted.get(`${kind} ${ref.code}`) ?? { kind, ref, name, count: 0, scaled: 0, groups: [] }
    counted.set(`${kind} ${ref.code}`, amount)
    amount.count += uses
  }
  for (const model of audit.models) add('piece', refOf(model, known), model.name, model.uses)
  for (const light of audit.lights) add('light', refOf(light, known), light.name, 1)
  return [...counted.values()]
}

/** Models that the library does not have, or that are not the asker's to see, by their names. */
function otherModels({ models }: KeptAudit, known: Known): ScheduleRow[] {
  const rows = new Map<string, ScheduleRow>()
  for (const model of models) {
    if (refOf(model, known)) continue
    const { name, uses } = model
    const row = rows.get(name) ?? {
      ...{ key: `own model ${name}`, code: null, version: null, name, kind: 'own' as const, category: 'Not of the library' },
      ...{ preview: null, maker: '', productNumber: '', sheen: '', licence: '', size: '', unit: 'pieces' as const },
      ...{ net: 0, gross: 0, edgeM: null, litres: null, weightKg: null, cost: null, where: [], scaled: 0, before: null },
    }
    rows.set(name, { ...row, net: row.net + uses, gross: row.gross + uses })
  }
  return [...rows.values()]
}
