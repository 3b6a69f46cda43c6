import { isDeepStrictEqual } from 'node:util'
import { and, asc, eq, isNull, sql } from 'drizzle-orm'
import { type CategoryRules, shippedRules } from '#core/standard/category-rules'
import { type Category, getCategory } from '../../house/categories'
import { loadRules } from '../../house/load-rules'
import { loadRigBook, type RigBook } from '../../house/rig-book'
import type { Actor } from '../../platform/access'
import { type Connection, isOneOf } from '../../platform/database'
import { recordEvents } from '../../platform/events'
import { publish } from '../../platform/notify'
import { ProblemError } from '../../platform/problem'
import { batchItems, sourceFolderMappings } from '../../tables/intake.table'
import { categories, items } from '../../tables/library.table'
import { categoryRigs } from '../../tables/rig.table'
import { categoryRules } from '../../tables/standard.table'

/** Items into another category, with the words by which they are found. Returns where each was. */
export async function moveItems(
  tx: Connection,
  actor: Actor,
  ids: readonly number[],
  category: string,
): Promise<{ id: number; category: string }[]> {
  if (ids.length === 0) return []
  const rows = await tx
    .select()
    .from(items)
    .where(isOneOf(items.id, [...ids]))
    .for('update')
  await tx
    .update(items)
    .set({ category, updatedAt: new Date() })
    .where(isOneOf(items.id, [...ids]))
  await recordEvents(
    tx,
    rows.map(row => ({
      personId: actor.id,
      subject: 'item' as const,
      subjectId: row.id,
      verb: 'edited',
      before: { category: row.category },
      after: { category },
    })),
  )
  for (const row of rows) await publish(tx, { topic: 'item', libraryId: row.libraryId, itemId: row.id })
  return rows.map(({ id, category: was }) => ({ id, category: was }))
}

/** A category with all that is in it goes into another one of its kind. Its rules and its rig come along, so that nothing looks otherwise. */
export async function moveCategory(tx: Connection, actor: Actor, category: Category, intoPath: string): Promise<Relocation> {
  const into = await getCategory(tx, intoPath)
  if (into.kind !== category.kind)
    throw new ProblemError('badRequest', `${into.title} holds ${into.kind}s, ${category.title} ${category.kind}s.`)
  if (into.path === category.path || into.path.startsWith(`${category.path}.`))
    throw new ProblemError('badRequest', 'A category cannot lie in itself.')
  const label = category.path.split('.').at(-1)!
  const target = `${into.path}.${label}`
  if (target === category.path) throw new ProblemError('badRequest', `It lies in ${into.title} already.`)
  const [taken] = await tx
    .select()
    .from(categories)
    .where(and(eq(categories.path, target), isNull(categories.retiredInto)))
  if (taken) throw new ProblemError('badRequest', `${into.title} holds a category of that name already.`)
  const within = await tx
    .select()
    .from(categories)
    .where(and(sql`${categories.path} <@ ${category.path}::ltree`, isNull(categories.retiredInto)))
    .orderBy(asc(categories.position))
  const pairs = within.map(({ path }) => ({ from: path, position: null, to: target + path.slice(category.path.length) }))
  return relocate(tx, actor, pairs)
}

/** Where categories were and are, and where among the others they stood. */
export interface Relocation {
  pairs: { from: string; to: string; position: number }[]
  items: number[]
}

/**
 * Everything under some paths goes to others, and the old addresses lead there. What had been there before and left is used again.
 * @param pairs a position of null puts a category last in its new place
 */
export async function relocate(
  tx: Connection,
  actor: Actor,
  pairs: readonly { from: string; to: string; position: number | null }[],
): Promise<Relocation> {
  const done: Relocation = { pairs: [], items: [] }
  const rigBook = await loadRigBook(tx)
  const own = await loadRules(tx)
  for (const { from, to, position } of pairs) {
    const category = await getCategory(tx, from)
    // A prefix is one category's only; that of the place that was left is no longer given out.
    await tx
      .update(categories)
      .set({ prefix: `${category.prefix} left ${from}`, retiredInto: null })
      .where(eq(categories.path, from))
    const [{ last }] = await tx
      .select({ last: sql<number>`coalesce(max(${categories.position}), 0)::int` })
      .from(categories)
      .where(sql`${categories.path} <@ ${to.split('.').slice(0, -1).join('.')}::ltree`)
    const row = { ...category, path: to, position: position ?? last + 1, retiredInto: null }
    done.pairs.push({ from, to, position: category.position })
    await tx.insert(categories).values(row).onConflictDoUpdate({ target: categories.path, set: row })
    const held = await tx.select({ id: items.id }).from(items).where(eq(items.category, from))
    const ids = held.map(h => h.id)
    await moveItems(tx, actor, ids, to)
    done.items.push(...ids)
    await tx.update(batchItems).set({ category: to }).where(eq(batchItems.category, from))
    await tx.update(sourceFolderMappings).set({ category: to }).where(eq(sourceFolderMappings.category, from))
    await carryRules(tx, actor, from, to, own.get(from) ?? shippedRules(from))
    await carryRig(tx, from, to, rigBook)
    await tx.update(categories).set({ retiredInto: to }).where(eq(categories.path, from))
  }
  return done
}

/** Rules come along as the category's own; where they are what ships there anyway, nobody has said anything. */
async function carryRules(tx: Connection, actor: Actor, from: string, to: string, rules: CategoryRules): Promise<void> {
  await tx.delete(categoryRules).where(isOneOf(categoryRules.category, [from, to]))
  if (!isDeepStrictEqual(rules, shippedRules(to)))
    await tx.insert(categoryRules).values({ category: to, rules, personId: actor.id })
}

async function carryRig(tx: Connection, from: string, to: string, book: RigBook): Promise<void> {
  const rig = book.rigFor(from).name
  await tx.delete(categoryRigs).where(isOneOf(categoryRigs.category, [from, to]))
  if (rig !== book.shippedFor(to)) await tx.insert(categoryRigs).values({ category: to, rig })
}
