import { and, eq } from 'drizzle-orm'
import type { Facts } from '#files/items/inspect-item'
import type { Chip } from '#shared/contracts/items.contract'
import { KEY_FACTS, keyFigure } from '#shared/key-figure'
import { type Actor, mayRead } from '../platform/access'
import { type Connection, isOneOf } from '../platform/database'
import { findPreviews, previewOf } from '../previews/previews'
import { facts, items, versions } from '../tables/library.table'
import { libraries } from '../tables/people.table'
import { findOwnPictures } from './own-pictures'

/** Chips of items in the order of the ids; those the asker may not see are left out. */
export async function getChips(
  db: Connection,
  actor: Actor,
  ids: readonly number[],
  versionIds?: ReadonlyMap<number, number>,
): Promise<Chip[]> {
  if (ids.length === 0) return []
  const rows = await db
    .select({
      id: items.id,
      code: items.code,
      name: items.name,
      kind: items.kind,
      category: items.category,
      state: items.state,
      library: libraries.title,
      currentVersionId: items.currentVersionId,
    })
    .from(items)
    .innerJoin(libraries, eq(libraries.id, items.libraryId))
    .where(and(isOneOf(items.id, [...ids]), mayRead(actor, items.libraryId)))
  const versionOf = (row: (typeof rows)[number]) => versionIds?.get(row.id) ?? row.currentVersionId ?? 0
  const shown = rows.map(versionOf)
  const [known, inputs] = await Promise.all([
    db
      .select()
      .from(facts)
      .where(and(isOneOf(facts.versionId, shown), isOneOf(facts.name, KEY_FACTS))),
    db.select({ id: versions.id, inputKey: versions.inputKey }).from(versions).where(isOneOf(versions.id, shown)),
  ])
  const inputOf = new Map(inputs.map(v => [v.id, v.inputKey]))
  const [found, own] = await Promise.all([
    findPreviews(
      db,
      rows.map(r => ({ inputKey: inputOf.get(versionOf(r)) ?? '', category: r.category })),
    ),
    findOwnPictures(db, shown),
  ])
  const factsOf = new Map<number, Facts>()
  for (const { versionId, name, number, text, truth } of known)
    factsOf.set(versionId, { ...factsOf.get(versionId), [name]: number ?? text ?? truth ?? '' })
  const byId = new Map(
    rows.map(row => {
      const { currentVersionId: _, ...chip } = row
      const version = versionOf(row)
      const picture = previewOf(found, inputOf.get(version) ?? '', row.category)
      const figure = keyFigure(row.kind, factsOf.get(version) ?? {})
      const ownUrl = own.get(version)?.url ?? null
      return [
        row.id,
        {
          ...chip,
          figure,
          preview: ownUrl ?? picture?.url ?? null,
          isOlderPreview: ownUrl === null && (picture?.isOlder ?? false),
          isOwnPicture: ownUrl !== null,
        },
      ]
    }),
  )
  return ids.flatMap(id => byId.get(id) ?? [])
}
