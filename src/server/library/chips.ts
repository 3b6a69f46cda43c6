import { type SQL, sql } from 'drizzle-orm'
import type pg from 'pg'
import { groupBy } from '#core/group-by'
import type { QualityName } from '#core/render/rigs/rig'
import type { ItemKind } from '#core/standard/categories'
import type { Facts } from '#files/items/inspect-item'
import type { Chip, ItemState } from '#shared/contracts/chip.contract'
import { keyFigure } from '#shared/key-figure'
import { type RigBook, readRigsInForce } from '../house/rig-book'
import { type Actor, maySeeVersion } from '../platform/access'
import { runPrepared } from '../platform/statement'
import { chooseBest, isOfToday, previewUrl } from '../previews/previews'
import { ownPictureUrl } from './pictures/own-pictures'

/** A chip with one of its pictures; one row for each picture there is, and one where there is none. */
export interface ChipRow {
  id: number
  code: string
  name: string
  kind: ItemKind
  category: string
  state: ItemState
  library: string
  facts: Facts | null
  ownPicture: number | null
  dots: number[] | null
  picture: number | null
  rig: string
  rigRevision: number
  rendererRevision: number
  quality: QualityName
}

/**
 * Everything that the chips of a page are made of. Flat rows: making JSON of them in the database took as long as all the rest.
 * @param page rows of an item's id, a version's id or null for the current one, and a place in the order
 */
export const selectChips = (actor: Actor, page: SQL): SQL => sql`
  select i.id, i.code, i.name, i.kind, i.category::text as category, i.state, l.title as library, v.key_facts as facts,
    (select max(o.id) from own_pictures o where o.version_id = v.id and o.dropped_at is null and o.state = 'ready') as "ownPicture",
    (select array_agg(d.color order by d.color) from dots d where d.person_id = ${actor.id} and d.item_id = i.id) as dots,
    p.id as picture, p.rig, p.rig_revision as "rigRevision", p.renderer_revision as "rendererRevision", p.quality
  from (${page}) w(id, version_id, n)
  join items i on i.id = w.id
  join libraries l on l.id = i.library_id
  left join versions v on v.id = coalesce(w.version_id, i.current_version_id)
  left join previews p on p.input_key = v.input_key
  where ${maySeeVersion(actor, sql`v.id`, sql`i.library_id`)}
  order by w.n, p.id desc`

/** A page of items that are known, in the order of their ids. */
const pageOf = (ids: readonly number[], versionIds?: ReadonlyMap<number, number>): SQL => sql`
  select * from unnest(${sql.param([...ids])}::int[], ${sql.param(ids.map(id => versionIds?.get(id) ?? null))}::int[]) with ordinality`

export function toChips(rows: readonly ChipRow[], book: RigBook): Chip[] {
  return [...groupBy(rows, row => row.id).values()].map(group => {
    const [{ id, code, name, kind, category, state, library, facts, ownPicture, dots }] = group
    const best = chooseBest(
      group.filter(row => row.picture !== null),
      book,
      category,
    )
    return {
      id,
      code,
      name,
      kind,
      category,
      state,
      library,
      figure: keyFigure(kind, facts ?? {}),
      preview: ownPicture !== null ? ownPictureUrl(ownPicture) : best ? previewUrl(best.picture!) : null,
      isOlderPreview: ownPicture === null && best !== null && !isOfToday(best, book.rigFor(category)),
      isOwnPicture: ownPicture !== null,
      dots: dots ?? [],
    }
  })
}

/** Chips of items in the order of the ids, at their current versions or at given ones; those the asker may not see are left out. */
export async function getChips(
  pool: pg.Pool,
  actor: Actor,
  ids: readonly number[],
  versionIds?: ReadonlyMap<number, number>,
): Promise<Chip[]> {
  if (ids.length === 0) return []
  const [rows, book] = await Promise.all([
    runPrepared<ChipRow>(pool, selectChips(actor, pageOf(ids, versionIds))),
    readRigsInForce(pool),
  ])
  return toChips(rows, book)
}
