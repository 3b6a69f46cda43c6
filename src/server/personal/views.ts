import { and, eq, sql } from 'drizzle-orm'
import type { FindIndex } from '#core/find/find-index'
import { TERM_FACETS } from '#core/find/query/facets'
import { type Narrowing, narrowingSchema } from '#shared/contracts/find.contract'
import type { SavedView } from '#shared/contracts/personal.contract'
import { findView } from '../find/find-view'
import { type Actor, listVisibleLibraryIds } from '../platform/access'
import type { Context } from '../platform/context'
import { notFound, ProblemError } from '../platform/problem'
import { savedViews, viewsSeen } from '../tables/personal.table'

type Finding = Pick<Context, 'db' | 'finder'>

const DAY_MS = 86_400_000

/** What an address asks for; null where it is none of the wall. */
function readAddress(address: string): Narrowing | null {
  const parsed = narrowingSchema.safeParse(Object.fromEntries(new URLSearchParams(address)))
  return parsed.success ? parsed.data : null
}

interface ViewRow extends Record<string, unknown> {
  id: number
  title: string
  address: string
  isShared: boolean
  personId: number
  owner: string
  libraryIds: number[]
  seenMs: number
}

/** One's own views, and of those that others share what the asker may know of. */
async function selectViews({ db }: Pick<Context, 'db'>, actor: Actor): Promise<ViewRow[]> {
  const visible = await listVisibleLibraryIds(db, actor)
  const { rows } = await db.execute<ViewRow>(sql`
    select w.id, w.title, w.address, w.is_shared as "isShared", w.person_id as "personId", p.name as owner, w.library_ids as "libraryIds",
      extract(epoch from coalesce(s.at, w.created_at))::float8 * 1000 as "seenMs"
    from saved_views w join people p on p.id = w.person_id
    left join views_seen s on s.view_id = w.id and s.person_id = ${actor.id}
    where w.person_id = ${actor.id} or w.is_shared order by w.person_id <> ${actor.id}, w.title, w.id`)
  return rows.filter(row => row.personId === actor.id || row.libraryIds.every(id => visible.has(id)))
}

/** The same with how many items are in each, and how many came in since the asker last stood there. */
export async function listViews(context: Finding, actor: Actor): Promise<SavedView[]> {
  const views: SavedView[] = []
  for (const { id, title, address, isShared, personId, owner, seenMs } of await selectViews(context, actor)) {
    const given = readAddress(address)
    if (!given) continue
    const count = async (narrowing: Narrowing): Promise<number> => {
      try {
        return (await findView(context, actor, narrowing)).view.total
      } catch (error) {
        // What it is to be like is gone, say: the view stays, and is empty.
        if (error instanceof ProblemError) return 0
        throw error
      }
    }
    views.push({
      id,
      title,
      address,
      isShared,
      owner: personId === actor.id ? '' : owner,
      count: await count(given),
      fresh: await count({ ...given, addedDay: { low: seenMs / DAY_MS, high: given.addedDay.high } }),
    })
  }
  return views
}

export async function saveView(
  context: Finding,
  actor: Actor,
  { title, address, isShared }: { title: string; address: string; isShared: boolean },
): Promise<number> {
  const libraryIds = await namedLibraries(context, actor, address)
  const [made] = await context.db
    .insert(savedViews)
    .values({ personId: actor.id, title, address, isShared, libraryIds })
    .returning({ id: savedViews.id })
  return made.id
}

export async function changeView(
  context: Finding,
  actor: Actor,
  id: number,
  change: { title?: string; address?: string; isShared?: boolean },
): Promise<void> {
  const libraryIds = change.address === undefined ? {} : { libraryIds: await namedLibraries(context, actor, change.address) }
  const changed = await context.db
    .update(savedViews)
    .set({ ...change, ...libraryIds })
    .where(and(eq(savedViews.id, id), eq(savedViews.personId, actor.id)))
    .returning({ id: savedViews.id })
  if (changed.length === 0) throw notFound('This view')
}

export async function removeView({ db }: Pick<Context, 'db'>, actor: Actor, id: number): Promise<void> {
  const gone = await db
    .delete(savedViews)
    .where(and(eq(savedViews.id, id), eq(savedViews.personId, actor.id)))
    .returning({ id: savedViews.id })
  if (gone.length === 0) throw notFound('This view')
}

export async function standInView(context: Finding, actor: Actor, id: number): Promise<void> {
  if (!(await selectViews(context, actor)).some(v => v.id === id)) throw notFound('This view')
  await context.db
    .insert(viewsSeen)
    .values({ viewId: id, personId: actor.id })
    .onConflictDoUpdate({ target: [viewsSeen.viewId, viewsSeen.personId], set: { at: new Date() } })
}

/**
 * Libraries of clients that an address names something of: by themselves, by a project, by an item to be like, or by a value that is
 * found nowhere else. Whoever does not see them does not see the view.
 */
async function namedLibraries(context: Finding, actor: Actor, address: string): Promise<number[]> {
  const given = readAddress(address)
  if (!given) throw new ProblemError('badRequest', 'This is no address of the wall.')
  const [asker, index] = await Promise.all([context.finder.asker(actor), context.finder.current()])
  const clients = [...asker.libraryNames].filter(([, l]) => l.kind === 'client')
  const named = new Set<string>()
  for (const [id, { key }] of clients) if (given.library.includes(key)) named.add(id)
  for (const code of [...given.project, given.usableIn]) {
    const project = asker.projects.get(code)
    if (project) named.add(String(project.libraryId))
  }
  for (const code of given.like) {
    const slot = index.columns.slotOfCode(code)
    if (slot !== undefined) named.add(index.columns.terms.library.valuesOf(slot)[0])
  }
  for (const facet of TERM_FACETS)
    if (facet !== 'library')
      for (const value of given[facet]) for (const id of onlyIn(index, facet, value, asker.libraries)) named.add(id)
  const ofClients = new Set(clients.map(([id]) => id))
  return [...named].filter(id => ofClients.has(id)).map(Number)
}

/** Libraries that alone hold a value of a facet; none where a house library has it too, and of those that the asker sees. */
function onlyIn(index: FindIndex, facet: (typeof TERM_FACETS)[number], value: string, visible: ReadonlySet<string>): string[] {
  const { terms, size } = index.columns
  const has = new Uint8Array(size)
  terms[facet].pass(v => v === value, has)
  const libraries = new Set<string>()
  for (let slot = 0; slot < size; slot++) if (has[slot] === 1) for (const id of terms.library.valuesOf(slot)) libraries.add(id)
  const seen = [...libraries].filter(id => visible.has(id))
  return seen.length === 1 ? seen : []
}
