import { sql } from 'drizzle-orm'
import type { Revision } from '#shared/contracts/decisions.contract'
import { type Actor, mayRead } from '../platform/access'
import type { Connection } from '../platform/database'
import { STAYS } from '../projects/awaiting'

/**
 * Items that a project pins at another version than the approved one, or that were withdrawn, and what each project that pins them does
 * about it; those about which somebody still has to decide come first.
 * @param itemId only of this item, and then whether or not anything of it is newer
 */
export async function listRevisions(db: Connection, actor: Actor, itemId?: number): Promise<Revision[]> {
  const of = itemId === undefined ? sql`true` : sql`i.id = ${itemId}`
  const isAsked = sql.raw("(i.state = 'withdrawn' or i.approved_version_id <> p.version_id)")
  const { rows } = await db.execute<Revision & Record<string, unknown>>(sql`
    with used as (
      select i.id as item_id, j.id, j.code, j.title, j.phase, v.number as version_number,
        case when not ${isAsked} then 'upToDate' when j.phase <> 'open' then 'frozen' when ${STAYS} then 'stays' else 'open' end as state,
        case when ${STAYS} then d.until end as until, case when ${STAYS} then d.why else '' end as why,
        (select coalesce(jsonb_agg(q.name order by q.name), '[]') from project_people pp join people q on q.id = pp.person_id
          where pp.project_id = j.id) as people
      from pins p join items i on i.id = p.item_id join projects j on j.id = p.project_id join versions v on v.id = p.version_id
      left join pin_decisions d on d.project_id = p.project_id and d.item_id = p.item_id
      where i.approved_version_id is not null and ${of} and ${mayRead(actor, sql`i.library_id`)} and ${mayRead(actor, sql`j.library_id`)}
    )
    select i.id as "itemId", i.code, i.name, i.state = 'withdrawn' as "isWithdrawn", a.number as "approvedNumber",
      jsonb_agg(jsonb_build_object('id', u.id, 'code', u.code, 'title', u.title, 'phase', u.phase, 'versionNumber', u.version_number,
        'state', u.state, 'until', u.until, 'why', u.why, 'people', u.people)
        order by array_position(array['open', 'stays', 'frozen', 'upToDate'], u.state), u.code) as projects
    from used u join items i on i.id = u.item_id join versions a on a.id = i.approved_version_id
    group by i.id, a.number
    having ${itemId !== undefined} or bool_or(u.state <> 'upToDate')
    order by bool_or(u.state = 'open') desc, i.code`)
  return rows
}
