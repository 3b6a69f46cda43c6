import { and, asc, eq, isNull, sql } from 'drizzle-orm'
import type { BulkResult } from '#shared/contracts/items.contract'
import type { ChangeTree, SplitRule } from '#shared/contracts/standard.contract'
import { type Category, getCategory } from '../../house/categories'
import { holdsWords, toPrefixQuery } from '../../items/search-words'
import { requestChecks } from '../../library/request-checks'
import { type Actor, mayEdit, mayRead } from '../../platform/access'
import type { Context } from '../../platform/context'
import { type Connection, isOneOf } from '../../platform/database'
import { isUndone, recordEvents } from '../../platform/events'
import { notAllowed, notFound, ProblemError } from '../../platform/problem'
import type { JobQueue } from '../../platform/queue'
import { requestPreviews } from '../../previews/previews'
import { batchItems, sourceFolderMappings } from '../../tables/intake.table'
import { categories, events, items, versions } from '../../tables/library.table'
import { moveCategory, moveItems, type Relocation, relocate } from './move-category'

/** What a change of the tree did, as it was before: enough to put it back. */
interface Undo {
  title?: { path: string; title: string }
  /** Category of items before. */
  items: { id: number; category: string }[]
  batchItems: { id: number; category: string }[]
  retired?: string
  /** Category of the source folders that led to a merged one. */
  sourceFolders?: { id: number; category: string }[]
  /** Categories that went elsewhere with all that was in them. */
  moved?: Relocation['pairs']
  added?: string
}

/**
 * Renames, adds, splits or merges a category. Nothing is lost by it: codes and sheets of items stay, and the address of a merged
 * category leads to where its items went.
 * @returns by what it is undone, and how many items moved
 */
export async function changeTree(context: Context, actor: Actor, wish: ChangeTree): Promise<{ undo: number; moved: number }> {
  if (!mayEdit(actor)) throw notAllowed('Changing the house tree')
  return context.db.transaction(async tx => {
    await lockTree(tx)
    const category = await getCategory(tx, wish.path)
    const undo: Undo = { items: [], batchItems: [] }
    let moved: Relocation = { pairs: [], items: [] }
    switch (wish.action) {
      case 'rename':
        undo.title = { path: wish.path, title: category.title }
        await tx.update(categories).set({ title: wish.title }).where(eq(categories.path, wish.path))
        break
      case 'add':
        undo.added = (await addChild(tx, category, wish)).path
        break
      case 'split': {
        const child = await addChild(tx, category, wish)
        undo.added = child.path
        const matching = await findMatching(tx, wish.path, wish.rule)
        undo.items.push(...(await moveItems(tx, actor, matching, child.path)))
        break
      }
      case 'move':
        moved = await moveCategory(tx, actor, category, wish.into)
        break
      case 'merge':
        moved = await merge(tx, actor, category, wish.into, undo)
        break
      default:
        wish satisfies never
    }
    undo.moved = moved.pairs
    const [event] = await tx
      .insert(events)
      .values({
        personId: actor.id,
        subject: 'standard',
        subjectId: category.position,
        verb: 'treeChanged',
        before: undo,
        after: wish,
      })
      .returning({ id: events.id })
    const elsewhere = undo.items.map(i => i.id)
    await renew(tx, context.queue, elsewhere, moved.items)
    return { undo: event.id, moved: elsewhere.length + moved.items.length }
  })
}

/** One change of the tree at a time. */
const lockTree = (tx: Connection) => tx.execute(sql`lock table ${categories} in share row exclusive mode`)

/** Puts a change of the tree back. A category that was added stays when something lies in it by now. */
export async function undoTree(context: Context, actor: Actor, eventId: number): Promise<BulkResult> {
  if (!mayEdit(actor)) throw notAllowed('Changing the house tree')
  return context.db.transaction(async tx => {
    await lockTree(tx)
    const [event] = await tx
      .select()
      .from(events)
      .where(and(eq(events.id, eventId), eq(events.verb, 'treeChanged')))
    if (!event) throw notFound('What should be taken back')
    if (await isUndone(tx, event)) throw new ProblemError('conflict', 'This change has been taken back already.')
    const undo = event.before as Undo
    if (undo.title) {
      await tx.update(categories).set({ title: undo.title.title }).where(eq(categories.path, undo.title.path))
    }
    if (undo.retired) await tx.update(categories).set({ retiredInto: null }).where(eq(categories.path, undo.retired))
    const back = (undo.moved ?? []).map(({ from, to, position }) => ({ from: to, to: from, position }))
    const { items: relocated } = await relocate(tx, actor, back)
    for (const category of new Set(undo.items.map(i => i.category)))
      await moveItems(
        tx,
        actor,
        undo.items.filter(i => i.category === category).map(i => i.id),
        category,
      )
    for (const { id, category } of undo.batchItems) await tx.update(batchItems).set({ category }).where(eq(batchItems.id, id))
    for (const { id, category } of undo.sourceFolders ?? [])
      await tx.update(sourceFolderMappings).set({ category }).where(eq(sourceFolderMappings.id, id))
    if (undo.added) await dropWhenEmpty(tx, undo.added)
    await recordEvents(tx, [
      {
        personId: actor.id,
        subject: 'standard',
        subjectId: event.subjectId,
        verb: 'treeChangeUndone',
        after: { undoes: eventId },
      },
    ])
    const elsewhere = undo.items.map(i => i.id)
    await renew(tx, context.queue, elsewhere, relocated)
    return { changed: [...elsewhere, ...relocated], refused: [] }
  })
}

/** How many items a split would move, of those that the asker may see. */
export async function countMatching(db: Connection, actor: Actor, path: string, rule: SplitRule): Promise<number> {
  const ids = await findMatching(db, path, rule)
  const [{ count }] = await db
    .select({ count: sql<number>`count(*)::int` })
    .from(items)
    .where(and(isOneOf(items.id, ids), mayRead(actor, items.libraryId)))
  return count
}

async function addChild(
  tx: Connection,
  parent: Category,
  { title, prefix }: { title: string; prefix: string },
): Promise<Category> {
  const label = title
    .normalize('NFKD')
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '')
  if (label === '') throw new ProblemError('badRequest', 'The title needs a letter.', { title: 'Use letters.' })
  const path = `${parent.path}.${label}`
  const taken = await tx
    .select({ path: categories.path, prefix: categories.prefix })
    .from(categories)
    .where(sql`${categories.path} = ${path}::ltree or ${categories.prefix} = ${prefix}`)
  if (taken.some(t => t.prefix === prefix))
    throw new ProblemError('badRequest', `${prefix} is the prefix of another category already.`, { prefix: 'Choose another.' })
  if (taken.length > 0)
    throw new ProblemError('badRequest', `${parent.title} holds a category of that name already.`, { title: 'Choose another.' })
  const [{ last }] = await tx
    .select({ last: sql<number>`max(${categories.position})::int` })
    .from(categories)
    .where(sql`${categories.path} <@ ${parent.path}::ltree`)
  const [row] = await tx
    .insert(categories)
    .values({ path, title, kind: parent.kind, prefix, position: last + 1 })
    .returning()
  return row
}

/** Items of a category, not of those below it, that a rule means. */
async function findMatching(db: Connection, path: string, { words, fact, is, value }: SplitRule): Promise<number[]> {
  const query = toPrefixQuery(words)
  const number = Number(value.replace(',', '.'))
  if (fact !== '' && is !== 'equal' && !Number.isFinite(number))
    throw new ProblemError('badRequest', `${value} is no number that a fact could be ${is}.`, { value: 'Give a number.' })
  if (!query && (fact === '' || value === '')) return []
  const compared =
    is === 'below'
      ? sql`f.number < ${number}`
      : is === 'above'
        ? sql`f.number > ${number}`
        : sql`(lower(f.text) = lower(${value}) or f.number = ${Number.isFinite(number) ? number : null})`
  const rows = await db
    .select({ id: items.id })
    .from(items)
    .where(
      and(
        eq(items.category, path),
        sql`${items.state} <> 'withdrawn'`,
        query ? holdsWords(query) : undefined,
        fact !== '' && value !== ''
          ? sql`exists (select from told_facts f where f.version_id = ${items.currentVersionId} and f.name = ${fact} and ${compared} offset 0)`
          : undefined,
      ),
    )
  return rows.map(r => r.id)
}

async function merge(tx: Connection, actor: Actor, from: Category, intoPath: string, undo: Undo): Promise<Relocation> {
  const into = await getCategory(tx, intoPath)
  if (into.path === from.path || into.path.startsWith(`${from.path}.`))
    throw new ProblemError('badRequest', 'A category cannot be merged with itself, or with one in it.')
  if (into.kind !== from.kind)
    throw new ProblemError('badRequest', `${into.title} holds ${into.kind}s, ${from.title} ${from.kind}s.`)
  const children = await tx
    .select()
    .from(categories)
    .where(and(sql`${categories.path} ~ ${`${from.path}.*{1}`}::lquery`, isNull(categories.retiredInto)))
    .orderBy(asc(categories.position))
  const moved: Relocation = { pairs: [], items: [] }
  for (const child of children) {
    const { pairs, items: ids } = await moveCategory(tx, actor, child, into.path)
    moved.pairs.push(...pairs)
    moved.items.push(...ids)
  }
  const held = await tx.select({ id: items.id }).from(items).where(eq(items.category, from.path))
  undo.items.push(
    ...(await moveItems(
      tx,
      actor,
      held.map(h => h.id),
      into.path,
    )),
  )
  const waiting = await tx
    .select({ id: batchItems.id })
    .from(batchItems)
    .where(and(eq(batchItems.category, from.path), sql`${batchItems.state} <> 'accepted'`))
  undo.batchItems.push(...waiting.map(w => ({ id: w.id, category: from.path })))
  if (waiting.length > 0)
    await tx
      .update(batchItems)
      .set({ category: into.path })
      .where(
        isOneOf(
          batchItems.id,
          waiting.map(w => w.id),
        ),
      )
  const led = await tx
    .update(sourceFolderMappings)
    .set({ category: into.path })
    .where(eq(sourceFolderMappings.category, from.path))
    .returning({ id: sourceFolderMappings.id })
  undo.sourceFolders = led.map(({ id }) => ({ id, category: from.path }))
  await tx.update(categories).set({ retiredInto: into.path }).where(eq(categories.path, from.path))
  undo.retired = from.path
  return moved
}

/** Takes out a category that was added and that nothing refers to. */
async function dropWhenEmpty(tx: Connection, path: string): Promise<void> {
  const [{ used }] = await tx
    .select({
      used: sql<number>`(
        (select count(*) from ${items} i where i.category <@ ${path}::ltree) +
        (select count(*) from ${batchItems} b where b.category <@ ${path}::ltree) +
        (select count(*) from ${sourceFolderMappings} m where m.category <@ ${path}::ltree) +
        (select count(*) from category_rules r where r.category <@ ${path}::ltree) +
        (select count(*) from code_numbers n join categories c on c.prefix = n.prefix where c.path <@ ${path}::ltree))::int`,
    })
    .from(sql`(select 1) as one`)
  if (used === 0) await tx.delete(categories).where(eq(categories.path, path))
}

/**
 * Pictures and checks of items that are in another category now: it may have another rig. What was carried along with its category has
 * its rules with it.
 */
async function renew(tx: Connection, queue: JobQueue, elsewhere: readonly number[], carried: readonly number[]): Promise<void> {
  const rows = await tx
    .select({ inputKey: versions.inputKey, category: items.category })
    .from(items)
    .innerJoin(versions, eq(versions.id, items.currentVersionId))
    .where(isOneOf(items.id, [...elsewhere, ...carried]))
  await requestPreviews(
    tx,
    queue,
    rows.map(row => ({ ...row, quality: 'draft' })),
  )
  await requestChecks(tx, queue, isOneOf(items.id, elsewhere))
}
