import { and, asc, eq, type SQL, sql } from 'drizzle-orm'
import { RENDERER_REVISION } from '#core/render/pictures/preview'
import { resolveRules } from '#core/standard/category-rules'
import { TARGETS } from '#core/standard/target-names'
import {
  type FidelityList,
  type FidelityQuery,
  HOUSE_FLIP_LIMIT,
  type TargetFidelityView,
} from '#shared/contracts/fidelity.contract'
import { loadRules } from '../../house/load-rules'
import { type Actor, mayEdit, visibleLibraries } from '../../platform/access'
import type { Context } from '../../platform/context'
import type { Connection } from '../../platform/database'
import { notAllowed, notFound, ProblemError } from '../../platform/problem'
import { findings, items, versions } from '../../tables/library.table'
import { targetFidelity } from '../../tables/rig.table'
import { getCurrentInput, isInputShownTo } from '../previews'

type Row = typeof targetFidelity.$inferSelect

type Measured = Pick<Row, 'id' | 'target' | 'lost' | 'meanFlip' | 'p95Flip' | 'deltaE'>

const toView = (row: Measured): TargetFidelityView => ({
  target: row.target,
  lost: row.lost,
  meanFlip: row.meanFlip,
  p95Flip: row.p95Flip,
  deltaE: row.deltaE,
  original: `/api/fidelity/${row.id}/original`,
  picture: `/api/fidelity/${row.id}/picture`,
})

/** What was measured of one version's inputs, in the order of the targets. */
export const toFidelityViews = (rows: readonly Measured[]): TargetFidelityView[] =>
  TARGETS.flatMap(target => rows.find(r => r.target === target) ?? []).map(toView)

/** Asks for the measurement of an item's current version. */
export async function requestFidelity({ db, queue }: Context, actor: Actor, itemId: number): Promise<void> {
  const { kind, inputKey } = await getCurrentInput(db, actor, itemId)
  if (kind !== 'material') throw new ProblemError('badRequest', 'Only materials are written into material targets.')
  await db.transaction(tx => queue.send(tx, 'measure-fidelity', [{ inputKey }], 10))
}

const inView = (actor: Actor, query: FidelityQuery) => sql`
  from items i join versions v on v.id = i.current_version_id
  where i.kind = 'material' and i.library_id in ${visibleLibraries(actor)}
    ${query.state ? sql`and i.state = ${query.state}` : sql`and i.state <> 'withdrawn'`}
    ${query.category ? sql`and i.category <@ ${query.category}::ltree` : sql``}`

const isMeasured = sql`exists (select from target_fidelity t where t.input_key = v.input_key and t.renderer_revision = ${RENDERER_REVISION})`

/** Materials that lose more than a limit in a target, the most first; and how many of the view were measured at all. */
export async function listFidelity(db: Connection, actor: Actor, query: FidelityQuery): Promise<FidelityList> {
  const [rows, counts] = await Promise.all([
    db.execute<{ id: number; code: string; name: string; category: string; fidelity: number }>(sql`
      select i.id, i.code, i.name, i.category::text as category, t.id as fidelity
      from (select i.*, v.input_key ${inView(actor, query)}) i
      join target_fidelity t on t.input_key = i.input_key
      where t.mean_flip > ${query.over} ${query.target ? sql`and t.target = ${query.target}` : sql``}
      order by t.mean_flip desc, i.code
      limit 500`),
    db.execute<{ measured: number; unmeasured: number }>(sql`
      select (count(*) filter (where ${isMeasured}))::int as measured, (count(*) filter (where not ${isMeasured}))::int as unmeasured
      ${inView(actor, query)}`),
  ])
  const ids = rows.rows.map(r => r.fidelity)
  const known = ids.length
    ? await db
        .select()
        .from(targetFidelity)
        .where(
          sql`${targetFidelity.id} in (${sql.join(
            ids.map(id => sql`${id}`),
            sql`, `,
          )})`,
        )
    : []
  const byId = new Map(known.map(k => [k.id, k]))
  return {
    rows: rows.rows.map(({ id, code, name, category, fidelity }) => ({
      ...toView(byId.get(fidelity)!),
      itemId: id,
      code,
      name,
      category,
    })),
    ...counts.rows[0],
  }
}

/** Asks for the measurement of every material of a view that has none; returns how many. */
export async function requestMissingFidelity({ db, queue }: Context, actor: Actor, query: FidelityQuery): Promise<number> {
  if (!mayEdit(actor)) throw notAllowed('Measuring a library')
  const { rows } = await db.execute<{ key: string }>(sql`
    select distinct v.input_key as key ${inView(actor, query)} and not ${isMeasured}`)
  await db.transaction(tx =>
    queue.send(
      tx,
      'measure-fidelity',
      rows.map(({ key }) => ({ inputKey: key })),
      -10,
    ),
  )
  return rows.length
}

export interface MeasuredTarget
  extends Pick<Row, 'target' | 'lost' | 'meanFlip' | 'p95Flip' | 'deltaE' | 'hash' | 'originalHash'> {}

/** Keeps a measurement, and puts a finding on every version whose look a target loses. */
export async function storeFidelity(db: Connection, inputKey: string, measured: readonly MeasuredTarget[]): Promise<void> {
  for (const row of measured) {
    const values = { ...row, inputKey, rendererRevision: RENDERER_REVISION }
    await db
      .insert(targetFidelity)
      .values(values)
      .onConflictDoUpdate({ target: [targetFidelity.inputKey, targetFidelity.target], set: values })
  }
  await replaceLossFindings(db, eq(versions.inputKey, inputKey))
}

/** Puts a finding on each of some versions for every target that loses its look, of those that its category is delivered in. */
export async function replaceLossFindings(db: Connection, which: SQL): Promise<void> {
  const rows = await db
    .select({ id: versions.id, category: items.category, lost: targetFidelity })
    .from(versions)
    .innerJoin(items, eq(items.id, versions.itemId))
    .innerJoin(targetFidelity, eq(targetFidelity.inputKey, versions.inputKey))
    .where(which)
    .orderBy(asc(versions.id), asc(targetFidelity.id))
  const rules = await loadRules(db)
  for (const id of new Set(rows.map(r => r.id)))
    await db.delete(findings).where(and(eq(findings.versionId, id), eq(findings.code, 'targetLosesLook')))
  for (const { id, category, lost } of rows) {
    const { targets } = resolveRules(category, rules)
    if (lost.meanFlip <= HOUSE_FLIP_LIMIT || (targets !== null && !targets.includes(lost.target))) continue
    await db.insert(findings).values({
      versionId: id,
      code: 'targetLosesLook',
      severity: 'note',
      subject: null,
      evidence: { target: lost.target, flip: lost.meanFlip, limit: HOUSE_FLIP_LIMIT, lost: lost.lost.join(', ') },
    })
  }
}

/** Hash of a measurement's picture, if the asker may see an item of those inputs. */
export async function getFidelityPicture(
  db: Connection,
  actor: Actor,
  id: number,
  which: 'original' | 'picture',
): Promise<string> {
  const [row] = await db
    .select()
    .from(targetFidelity)
    .where(and(eq(targetFidelity.id, id), isInputShownTo(actor, targetFidelity.inputKey)))
  if (!row) throw notFound('This picture')
  return which === 'original' ? row.originalHash : row.hash
}
