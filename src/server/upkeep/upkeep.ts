import { sql } from 'drizzle-orm'
import type { Evidence, FindingCode, Severity } from '#core/findings/finding'
import type { Upkeep } from '#shared/contracts/upkeep.contract'
import { describeFinding } from '#shared/finding-words'
import { type Actor, mayRead, visibleLibraries } from '../platform/access'
import type { Connection } from '../platform/database'

/** The state of what the asker may see, in figures. Withdrawn items do not count. */
export async function getUpkeep(db: Connection, actor: Actor): Promise<Upkeep> {
  const seen = sql`(select i.* from items i where i.library_id in ${visibleLibraries(actor)} and i.state <> 'withdrawn')`
  const [totals, states, findingRows] = await Promise.all([
    db.execute<{ items: number; unused: number; without_preview: number; bytes: number; files: number; waiting: number }>(sql`
      select count(*)::int as items,
        count(*) filter (where not exists (
          select from pins p join projects j on j.id = p.project_id
          where p.item_id = i.id and ${mayRead(actor, sql`j.library_id`)}))::int as unused,
        count(*) filter (where not exists (
          select from previews p join versions v on v.input_key = p.input_key where v.id = i.current_version_id))::int as without_preview,
        (select coalesce(sum(f.size), 0)::bigint from files f where f.hash in (
          select vf.hash from version_files vf join versions v on v.id = vf.version_id join ${seen} s on s.id = v.item_id)) as bytes,
        (select count(distinct vf.hash)::int from version_files vf join versions v on v.id = vf.version_id join ${seen} s on s.id = v.item_id) as files,
        (select count(*)::int from pgboss.job j where j.name in ('render-draft', 'render-final') and j.state in ('created', 'retry', 'active')) as waiting
      from ${seen} i`),
    db.execute<{ state: string; count: number }>(sql`select i.state, count(*)::int as count from ${seen} i group by i.state`),
    db.execute<{ code: FindingCode; severity: Severity; items: number; evidence: Evidence }>(sql`
      select f.code, min(f.severity) as severity, count(distinct f.version_id)::int as items,
        (array_agg(f.evidence order by f.id))[1] as evidence
      from findings f join ${seen} i on i.current_version_id = f.version_id
      group by f.code
      order by min(case f.severity when 'mustFix' then 0 when 'shouldFix' then 1 else 2 end), count(*) desc, f.code`),
  ])
  const [t] = totals.rows
  return {
    items: t.items,
    byState: Object.fromEntries(states.rows.map(r => [r.state, r.count])),
    findings: findingRows.rows.map(({ code, severity, items, evidence }) => ({
      code,
      severity,
      items,
      example: describeFinding(code, evidence),
    })),
    unused: t.unused,
    withoutPreview: t.without_preview,
    bytes: t.bytes,
    files: t.files,
    waitingPreviews: t.waiting,
  }
}
