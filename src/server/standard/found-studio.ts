import { eq, sql } from 'drizzle-orm'
import { HOUSE_CATEGORIES } from '#core/standard/categories'
import type { FoundStudio, TreeFile } from '#shared/contracts/people.contract'
import type { Person } from '#shared/contracts/session.contract'
import { POSITION_STEP } from '../house/prepare-categories'
import { createLink, takeLink } from '../people/access-links'
import { hashPassword } from '../people/people'
import { toPerson } from '../platform/access'
import type { Connection, Database } from '../platform/database'
import { recordEvents } from '../platform/events'
import { ProblemError } from '../platform/problem'
import { categories } from '../tables/library.table'
import { libraries, people, studio } from '../tables/people.table'

/** The path at which an installation without people is founded; null where there are some. */
export async function offerFoundation(db: Database): Promise<string | null> {
  return db.transaction(async tx => {
    const [somebody] = await tx.select({ id: people.id }).from(people).limit(1)
    return somebody ? null : createLink(tx, { purpose: 'found', personId: null, createdBy: null })
  })
}

/** The first lead, the studio's name, the house library and its tree: once, by whoever has the link from the console. */
export async function foundStudio(db: Database, token: string, given: FoundStudio): Promise<Person> {
  // Before anything is held: it takes a moment.
  const passwordHash = await hashPassword(given.password)
  return db.transaction(async tx => {
    const { purpose } = await takeLink(tx, token)
    await tx.execute(sql`lock table people in share row exclusive mode`)
    const [somebody] = await tx.select({ id: people.id }).from(people).limit(1)
    if (purpose !== 'found' || somebody)
      throw new ProblemError('conflict', 'This studio is founded already; sign in, or have yourself invited.')
    const { name, tree } = given
    const [lead] = await tx
      .insert(people)
      .values({ email: given.email.trim().toLowerCase(), name, role: 'lead', passwordHash })
      .returning()
    await tx.insert(studio).values({ name: given.studio })
    await tx.insert(libraries).values({ key: 'house', title: 'House library', kind: 'house' }).onConflictDoNothing()
    if (tree !== 'shipped') await plantTree(tx, tree === 'empty' ? [] : tree)
    await recordEvents(tx, [
      {
        personId: lead.id,
        subject: 'standard',
        subjectId: 0,
        verb: 'founded',
        after: { studio: given.studio, tree: typeof tree === 'string' ? tree : 'file' },
      },
    ])
    return toPerson(lead)
  })
}

/**
 * Another house tree in the place of the shipped one. What Intake would file in a shipped category that is not in it goes to the nearest
 * one above that is, or to the first of its kind: the shipped categories are kept as addresses that lead there.
 */
async function plantTree(tx: Connection, given: TreeFile): Promise<void> {
  const tree = [...given]
  // A tree has a place for everything that Intake knows: where the file has none of a kind, the shipped first level stays.
  for (const shipped of HOUSE_CATEGORIES)
    if (!shipped.path.includes('.') && !given.some(c => c.kind === shipped.kind)) tree.push(shipped)
  checkTree(tree)
  const paths = new Set(tree.map(c => c.path))
  const prefixes = new Set(tree.map(c => c.prefix))
  const home = (path: string, kind: TreeFile[number]['kind']): string => {
    const labels = path.split('.')
    for (let depth = labels.length - 1; depth > 0; depth--) {
      const above = labels.slice(0, depth).join('.')
      if (tree.some(c => c.path === above && c.kind === kind)) return above
    }
    return tree.find(c => c.kind === kind)!.path
  }
  for (const { path, kind, prefix } of HOUSE_CATEGORIES)
    if (!paths.has(path))
      await tx
        .update(categories)
        // Its codes are free for the studio's own.
        .set({ retiredInto: home(path, kind), ...(prefixes.has(prefix) ? { prefix: `retired ${path}` } : {}) })
        .where(eq(categories.path, path))
  // Codes may change hands among those that stay: all are given up before any is taken.
  for (const { path } of tree)
    await tx
      .update(categories)
      .set({ prefix: `moving ${path}` })
      .where(eq(categories.path, path))
  for (const [at, { path, title, kind, prefix }] of tree.entries()) {
    const values = { title, kind, prefix, position: at * POSITION_STEP, retiredInto: null }
    await tx
      .insert(categories)
      .values({ path, ...values })
      .onConflictDoUpdate({ target: categories.path, set: values })
  }
}

/** @throws ProblemError that says which line is at fault */
function checkTree(tree: TreeFile): void {
  const seen = new Map<string, TreeFile[number]>()
  const prefixes = new Set<string>()
  for (const category of tree) {
    const { path, prefix, kind } = category
    const parent = path.split('.').slice(0, -1).join('.')
    const fault = seen.has(path)
      ? 'is there twice'
      : prefixes.has(prefix)
        ? `has the codes ${prefix}, as another has`
        : parent !== '' && !seen.has(parent)
          ? `lies in ${parent}, which does not stand before it`
          : parent !== '' && seen.get(parent)!.kind !== kind
            ? `is of another kind than ${parent}`
            : null
    if (fault) throw new ProblemError('badRequest', `The tree does not hold together: ${path} ${fault}.`)
    seen.set(path, category)
    prefixes.add(prefix)
  }
}
