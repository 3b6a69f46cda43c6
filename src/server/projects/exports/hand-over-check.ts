import { sql } from 'drizzle-orm'
import { type MaterialForm, TARGET_OF_FORM } from '#core/hand-over/profile'
import { HOUSE_FLIP_LIMIT } from '#shared/contracts/fidelity.contract'
import type { HandOverCheck } from '#shared/contracts/projects.contract'
import { loadRefusals } from '../../house/load-licences'
import type { Actor } from '../../platform/access'
import type { Context } from '../../platform/context'
import { toFidelityViews } from '../../previews/fidelity/fidelity'
import { findProject } from './exports'

interface Row extends Record<string, unknown> {
  itemId: number
  code: string
  name: string
  kind: string
  licence: string | null
  fidelity: Parameters<typeof toFidelityViews>[0][number] | null
}

/** What of a project's pins may not go along, and which looks a form of materials does not keep. */
export async function checkHandOver(
  { db }: Pick<Context, 'db'>,
  actor: Actor,
  projectId: number,
  materials: MaterialForm,
): Promise<HandOverCheck> {
  const project = await findProject(db, actor, projectId)
  const [refusalOf, { rows }] = await Promise.all([
    loadRefusals(db, project),
    db.execute<Row>(sql`
      select i.id as "itemId", i.code, i.name, i.kind, f.text as licence,
        case when t.id is null then null else json_build_object('id', t.id, 'target', t.target, 'lost', t.lost,
          'meanFlip', t.mean_flip, 'p95Flip', t.p95_flip, 'deltaE', t.delta_e) end as fidelity
      from pins p join items i on i.id = p.item_id join versions v on v.id = p.version_id
      left join facts f on f.version_id = v.id and f.name = 'licence'
      left join target_fidelity t on i.kind = 'material' and t.input_key = v.input_key and t.target = ${TARGET_OF_FORM[materials]}
      where p.project_id = ${projectId} order by i.code`),
  ])
  const named = ({ itemId, code, name }: Row) => ({ itemId, code, name })
  return {
    refused: rows.flatMap(row => {
      const reason = refusalOf(row.licence ?? '')
      return reason === null ? [] : [{ ...named(row), reason }]
    }),
    losing: rows
      .flatMap(row =>
        row.fidelity && row.fidelity.meanFlip > HOUSE_FLIP_LIMIT
          ? toFidelityViews([row.fidelity]).map(view => ({ ...named(row), ...view }))
          : [],
      )
      .sort((a, b) => b.meanFlip - a.meanFlip),
    unmeasured: rows.filter(row => row.kind === 'material' && !row.fidelity).length,
  }
}
