import { and } from 'drizzle-orm'
import { toHex } from '#core/color/srgb'
import { FAMILY_LIMIT, type Family, type FamilyQuery } from '#shared/contracts/family.contract'
import { narrowingSchema } from '#shared/contracts/find.contract'
import { findView } from '../find/find-view'
import type { Actor } from '../platform/access'
import type { Context } from '../platform/context'
import { isOneOf } from '../platform/database'
import { facts, items, versions } from '../tables/library.table'
import { getChips } from './chips'

/** Materials of a category together, with what they are sorted by. */
export async function getFamily(
  context: Pick<Context, 'db' | 'pool' | 'finder'>,
  actor: Actor,
  { words, category }: FamilyQuery,
): Promise<Family> {
  const { db, pool } = context
  const { view } = await findView(context, actor, narrowingSchema.parse({ words, category, kind: 'material' }))
  const chips = await getChips(pool, actor, view.page(0, FAMILY_LIMIT))
  if (chips.length === 0) return { members: [], total: 0 }
  const current = await db
    .select({ itemId: items.id, versionId: items.currentVersionId })
    .from(items)
    .where(
      isOneOf(
        items.id,
        chips.map(c => c.id),
      ),
    )
  const versionOf = new Map(current.map(c => [c.itemId, c.versionId ?? 0]))
  const shown = [...versionOf.values()]
  const [known, inputs] = await Promise.all([
    db
      .select()
      .from(facts)
      .where(and(isOneOf(facts.versionId, shown), isOneOf(facts.name, ['meanColor', 'meanRoughness']))),
    db.select({ id: versions.id, constants: versions.constants }).from(versions).where(isOneOf(versions.id, shown)),
  ])
  const constantsOf = new Map(inputs.map(v => [v.id, v.constants]))
  return {
    members: chips.map(({ id, code, name, preview }) => {
      const version = versionOf.get(id) ?? 0
      const fact = (wanted: string) => known.find(f => f.versionId === version && f.name === wanted)
      const constants = constantsOf.get(version) ?? {}
      return {
        id,
        code,
        name,
        preview,
        color: fact('meanColor')?.text ?? (constants.baseColor ? toHex(constants.baseColor) : null),
        roughness: fact('meanRoughness')?.number ?? constants.specularRoughness ?? null,
      }
    }),
    total: view.total,
  }
}
