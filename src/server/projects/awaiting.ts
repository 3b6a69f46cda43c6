import { type SQL, sql } from 'drizzle-orm'

/**
 * Whether a pin (p) of an item (i) in a project (j) is one to decide about: another version is approved, or the item withdrawn, and the
 * project is open.
 */
export const IS_ASKED: SQL = sql.raw(`(j.phase = 'open' and i.approved_version_id is not null
  and (i.state = 'withdrawn' or i.approved_version_id <> p.version_id))`)

/** Whether the last decision (d) about it holds: it stays, about this very version, and its time is not over. */
export const STAYS: SQL = sql.raw(`(d.kind = 'stays' and d.asked_version_id = i.approved_version_id
  and d.was_withdrawn = (i.state = 'withdrawn') and (d.until is null or d.until >= current_date))`)

/** How many pins of a project somebody still has to decide about. */
export const countAwaiting = (projectId: SQL): SQL<number> => sql<number>`(select count(*)::int
  from pins p join items i on i.id = p.item_id join projects j on j.id = p.project_id
  left join pin_decisions d on d.project_id = p.project_id and d.item_id = p.item_id
  where p.project_id = ${projectId} and ${IS_ASKED} and not coalesce(${STAYS}, false))`
