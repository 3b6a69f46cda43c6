import { sql } from 'drizzle-orm'
import { loadBarred } from '../house/load-licences'
import { type Actor, mayRead, visibleLibraries } from '../platform/access'
import type { KnownAsker } from '../platform/context'
import type { Connection } from '../platform/database'

/** How far back "last looked at" goes. */
const LAST_LOOKED_AT = 60

/** What somebody may see, with the sets that they have of it. */
export async function loadAsker(db: Connection, actor: Actor): Promise<KnownAsker> {
  const [{ rows: seen }, { rows: pins }, { rows: own }] = await Promise.all([
    db.execute<{ id: number; key: string; title: string; kind: string }>(
      sql`select id, key, title, kind from libraries where id in ${visibleLibraries(actor)} order by id`,
    ),
    db.execute<{ id: number; code: string; title: string; libraryId: number; ids: number[] | null }>(sql`
      select p.id, p.code, p.title, p.library_id as "libraryId", array_agg(n.item_id) filter (where n.item_id is not null) as ids
      from projects p left join pins n on n.project_id = p.id where ${mayRead(actor, sql`p.library_id`)} group by p.id order by p.code`),
    db.execute<{ facet: 'dot' | 'mine' | 'desk'; value: string; ids: number[] }>(sql`
      select 'dot' as facet, d.color::text as value, array_agg(d.item_id order by d.item_id) as ids
      from dots d where d.person_id = ${actor.id} group by d.color
      union all
      select 'mine', 'lookedAt', array_agg(l.item_id order by l.item_id) from (
        select item_id from looked_at where person_id = ${actor.id} order by at desc limit ${LAST_LOOKED_AT}) l having count(*) > 0
      union all
      select 'mine', 'used', array_agg(distinct n.item_id) from pins n where n.person_id = ${actor.id} having count(*) > 0
      union all
      select 'desk', lies, array_agg(item_id order by item_id) from (
        select d.item_id, case when not bool_or(d.is_whole) then 'damaged'
          when max(d.version) filter (where d.is_whole) >= coalesce(max(a.number), 0) then 'here' else 'older' end as lies
        from desks k join desk_items d on d.desk_id = k.id join items i on i.id = d.item_id
        left join versions a on a.id = i.approved_version_id
        where k.person_id = ${actor.id} group by d.item_id) s group by lies`),
  ])
  const setsOf = (facet: string) => new Map(own.filter(o => o.facet === facet).map(o => [o.value, o.ids]))
  return {
    key: [actor.id, seen.map(l => l.id), pins.map(p => p.code), own.map(o => [o.value, o.ids])].join(' '),
    libraries: new Set(seen.map(l => String(l.id))),
    sets: {
      project: new Map(pins.map(p => [p.code, p.ids ?? []])),
      dot: setsOf('dot'),
      mine: setsOf('mine'),
      desk: setsOf('desk'),
    },
    libraryNames: new Map(seen.map(l => [String(l.id), l])),
    projects: new Map(pins.map(p => [p.code, p])),
  }
}

/**
 * The same asker, who wants only what may be used in a project: what the house has, and what its own client has, as far as licences let it
 * out for it today.
 */
export async function onlyUsableIn(db: Connection, asker: KnownAsker, code: string): Promise<KnownAsker> {
  if (code === '') return asker
  const project = asker.projects.get(code)
  const barredLicences = await loadBarred(db, project ? { id: project.id, code } : null)
  const usable = [...asker.libraryNames.values()].filter(l => project && (l.kind === 'house' || l.id === project.libraryId))
  return {
    ...asker,
    key: `${asker.key} in ${code} without ${JSON.stringify(barredLicences)}`,
    libraries: new Set(usable.map(l => String(l.id))),
    barredLicences: new Set(barredLicences),
  }
}
