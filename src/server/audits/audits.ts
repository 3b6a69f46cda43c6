import { and, desc, eq, sql } from 'drizzle-orm'
import type { AuditSummary, CorrectScene, SceneAuditView } from '#shared/contracts/audits.contract'
import { closeSceneBatch } from '../intake/scene-files'
import { getChips } from '../library/chips'
import { type Actor, isGuest, mayRead } from '../platform/access'
import type { Context } from '../platform/context'
import { type Connection, type Database, isOneOf } from '../platform/database'
import { publish } from '../platform/notify'
import { notAllowed, notFound, ProblemError } from '../platform/problem'
import { getProjectRow } from '../projects/projects'
import { type KeptAudit, sceneAudits } from '../tables/audit.table'
import { batches, batchFiles } from '../tables/intake.table'
import { items } from '../tables/library.table'
import { people } from '../tables/people.table'
import { projects } from '../tables/project.table'

export type AuditRow = typeof sceneAudits.$inferSelect

/** Whoever sees a project may have its scenes looked at; the scene has come as a batch of its own. */
export async function beginAudit(
  { db, queue }: Pick<Context, 'db' | 'queue'>,
  actor: Actor,
  { batchId, projectId }: { batchId: number; projectId: number | null },
): Promise<number> {
  if (isGuest(actor)) throw notAllowed('Auditing')
  return db.transaction(async tx => {
    const batch = await closeSceneBatch(tx, actor, batchId)
    const libraryId = projectId === null ? batch.libraryId : (await getProjectRow(tx, actor, projectId)).libraryId
    const [row] = await tx
      .insert(sceneAudits)
      .values({ libraryId, projectId, batchId, personId: actor.id, title: batch.title })
      .returning()
    await queue.send(tx, 'audit-scene', [{ auditId: row.id }])
    await tellAudit(tx, row)
    return row.id
  })
}

export async function tellAudit(db: Connection, { libraryId, projectId, id }: AuditRow): Promise<void> {
  await publish(db, { topic: 'audit', libraryId, projectId, auditId: id })
}

export async function getAuditRow(db: Connection, actor: Actor, id: number): Promise<AuditRow> {
  const [row] = isGuest(actor)
    ? []
    : await db
        .select()
        .from(sceneAudits)
        .where(and(eq(sceneAudits.id, id), mayRead(actor, sceneAudits.libraryId)))
  if (!row) throw notFound('This audit')
  return row
}

export async function listAudits(db: Connection, actor: Actor, projectId: number): Promise<AuditSummary[]> {
  await getProjectRow(db, actor, projectId)
  const { id, title, state, step, share, message, createdAt, result } = sceneAudits
  const lengthOf = (list: string) => sql`coalesce(jsonb_array_length(${result} -> ${sql.raw(`'${list}'`)}), 0)`
  const rows = await db
    .select({
      ...{ id, title, projectId: sceneAudits.projectId, state, step, share, message, createdAt, person: people.name },
      // A result tells of every thing of a scene: of a list of audits the database gives what is shown.
      shares: sql<AuditSummary['shares']>`${result} -> 'shares'`,
      things: sql<number>`(${lengthOf('materials')} + ${lengthOf('models')} + ${lengthOf('lights')})::int`,
    })
    .from(sceneAudits)
    .innerJoin(people, eq(people.id, sceneAudits.personId))
    .where(and(eq(sceneAudits.projectId, projectId), mayRead(actor, sceneAudits.libraryId)))
    .orderBy(desc(sceneAudits.id))
  return rows.map(row => ({ ...row, createdAt: row.createdAt.toISOString() }))
}

const toSummary = (
  { id, title, projectId, state, step, share, message, result, createdAt }: AuditRow,
  person: string,
): AuditSummary => ({
  ...{ id, title, projectId, state, step, share, message, person },
  shares: result?.shares ?? null,
  things: result ? result.materials.length + result.models.length + result.lights.length : 0,
  createdAt: createdAt.toISOString(),
})

export async function getAudit(context: Pick<Context, 'db' | 'pool'>, actor: Actor, id: number): Promise<SceneAuditView> {
  const { db } = context
  const row = await getAuditRow(db, actor, id)
  const [{ person }] = await db.select({ person: people.name }).from(people).where(eq(people.id, row.personId))
  const [project] = row.projectId === null ? [] : await db.select().from(projects).where(eq(projects.id, row.projectId))
  const { result, pictures } = row
  const known = await describeItems(context, actor, result)
  const named = (code: string | null) => ({
    itemName: known.get(code ?? '')?.name ?? '',
    preview: known.get(code ?? '')?.preview ?? null,
  })
  const withNames = (list: readonly { code: string; distance: number }[]) =>
    list.flatMap(n => (known.has(n.code) ? [{ ...n, name: known.get(n.code)!.name, preview: known.get(n.code)!.preview }] : []))
  return {
    ...toSummary(row, person),
    project: project?.code ?? '',
    form: result?.form ?? '',
    triangles: result?.triangles ?? 0,
    materials: (result?.materials ?? []).map(m => {
      const picture = pictures[m.index]
      return {
        ...m,
        ...named(m.code),
        nearest: withNames(result?.nearest[m.index] ?? []),
        isCorrectable: isCorrectable(result!, m),
        flipMean: picture?.flipMean ?? null,
        deltaE00: picture?.deltaE00 ?? null,
        pictures: picture ? [`/api/audits/${id}/pictures/${m.index}/own`, `/api/audits/${id}/pictures/${m.index}/library`] : null,
      }
    }),
    models: (result?.models ?? []).map(m => ({
      ...m,
      ...named(m.code),
      nearest: withNames(m.nearest),
      isCorrectable: isCorrectable(result!, m) && m.standsInFrame,
    })),
    lights: (result?.lights ?? []).map(l => ({
      ...NOT_LOOKED_AT,
      ...l,
      ...named(l.code),
      nearest: withNames(l.nearest ?? []),
      isCorrectable: isCorrectable(result!, l),
    })),
    failures: result?.failures ?? [],
    comparedWith: result?.comparedWith ?? 0,
    notCompared: result?.notCompared ?? 0,
    correction: row.correctionState && {
      state: row.correctionState,
      message: row.correctionMessage,
      done: row.corrected?.done ?? 0,
      refused: row.corrected?.refused ?? [],
      url: row.correctedHash ? `/api/audits/${id}/corrected` : null,
      bytes: row.correctedSize,
      auditId: row.corrected?.auditId ?? null,
    },
  }
}

/** Names and pictures of the items that an audit speaks of, by their codes, as far as the asker may see them. */
function describeItems(context: Pick<Context, 'db' | 'pool'>, actor: Actor, result: KeptAudit | null) {
  if (!result) return new Map<string, Described>()
  const nearest = [...Object.values(result.nearest), ...[...result.models, ...result.lights].map(m => m.nearest ?? [])].flat()
  const codes = [...result.materials, ...result.models, ...result.lights, ...nearest].flatMap(t =>
    t.code === null ? [] : [t.code],
  )
  return describeCodes(context, actor, [...new Set(codes)])
}

/** Of lights in audits that were kept before lights were compared. */
const NOT_LOOKED_AT = { changes: [], remarks: [] }

interface Described {
  name: string
  preview: string | null
}

export async function describeCodes(
  { db, pool }: Pick<Context, 'db' | 'pool'>,
  actor: Actor,
  codes: readonly string[],
): Promise<Map<string, Described>> {
  const found = await db
    .select({ id: items.id })
    .from(items)
    .where(and(isOneOf(items.code, codes), mayRead(actor, items.libraryId)))
  const chips = await getChips(
    pool,
    actor,
    found.map(f => f.id),
  )
  return new Map(chips.map(({ code, name, preview }) => [code, { name, preview }]))
}

/** Whether something that is not as it should be can be put back. */
export const isCorrectable = ({ replacements }: KeptAudit, thing: { class: string; code: string | null }): boolean =>
  thing.code !== null &&
  (thing.class === 'older' || thing.class === 'altered' || thing.class === 'missing') &&
  thing.code in replacements

/** @throws ProblemError where nothing of it can be put back, or it is being written already */
export async function orderCorrection(
  { db, queue }: Pick<Context, 'db' | 'queue'>,
  actor: Actor,
  id: number,
  wish: CorrectScene,
): Promise<void> {
  await db.transaction(async tx => {
    const row = await getAuditRow(tx, actor, id)
    if (row.state !== 'ready') throw new ProblemError('conflict', 'The scene is not read yet; wait until it is.')
    if (wish.materials.length + wish.models.length + wish.lights.length === 0)
      throw new ProblemError('badRequest', 'Choose what is to be put back.')
    const set = { wish, correctionState: 'waiting', correctionMessage: null, corrected: null } as const
    await tx.update(sceneAudits).set(set).where(eq(sceneAudits.id, id))
    await queue.send(tx, 'correct-scene', [{ auditId: id }])
    await tellAudit(tx, row)
  })
}

/** With its scene: a batch that was only looked at goes with the audit. */
export async function removeAudit(db: Database, actor: Actor, id: number): Promise<void> {
  await db.transaction(async tx => {
    const row = await getAuditRow(tx, actor, id)
    if (row.personId !== actor.id && actor.role !== 'lead') throw notAllowed('Forgetting an audit of somebody else')
    await tx.delete(sceneAudits).where(eq(sceneAudits.id, id))
    await tx.delete(batchFiles).where(eq(batchFiles.batchId, row.batchId))
    await tx.delete(batches).where(and(eq(batches.id, row.batchId), eq(batches.purpose, 'scene')))
    await tellAudit(tx, row)
  })
}
