import { and, eq } from 'drizzle-orm'
import { groupBy } from '#core/group-by'
import type { ItemKind } from '#core/standard/categories'
import { proposePlace } from '#core/standard/place-mapping'
import type { PlaceView } from '#shared/contracts/intake.contract'
import { followRetired } from '../house/categories'
import type { Connection } from '../platform/database'
import { placeMappings } from '../tables/intake.table'
import type { BatchRow } from './batches'
import type { BatchItemRow } from './rows'

const keyOf = (kind: ItemKind, place: string): string => `${kind}\n${place.toLowerCase()}`

/** What was decided before for the places of this supplier, by kind and place. */
export async function rememberedPlaces(
  db: Connection,
  { libraryId, maker }: Pick<BatchRow, 'libraryId' | 'maker'>,
): Promise<Map<string, string>> {
  if (maker === '') return new Map()
  const rows = await db
    .select()
    .from(placeMappings)
    .where(and(eq(placeMappings.libraryId, libraryId), eq(placeMappings.maker, maker.toLowerCase())))
  return new Map(rows.map(r => [keyOf(r.kind, r.place), r.category]))
}

export const findRemembered = (remembered: ReadonlyMap<string, string>, kind: ItemKind, place: string): string | null =>
  remembered.get(keyOf(kind, place)) ?? null

/** The delivery's own places beside the house's, each with the rows in it that are not filed yet. */
export function describePlaces(
  rows: readonly BatchItemRow[],
  remembered: ReadonlyMap<string, string>,
  retired: ReadonlyMap<string, string>,
): PlaceView[] {
  const placed = rows.filter(row => row.place !== '' && row.state !== 'filed')
  const groups = groupBy(placed, row => keyOf(row.kind, row.place))
  return [...groups.values()]
    .map((group): PlaceView => {
      const [{ kind, place }] = group
      const votes = group.map(r => ({ category: r.category, confidence: r.categoryConfidence }))
      const proposed = proposePlace(kind, place, votes, findRemembered(remembered, kind, place))
      const proposal = { ...proposed, category: followRetired(proposed.category, retired) }
      const astray = group.filter(r => r.category !== proposal.category).length
      return { place, kind, rows: group.length, ...proposal, astray }
    })
    .sort((a, b) => a.place.localeCompare(b.place) || a.kind.localeCompare(b.kind))
}
