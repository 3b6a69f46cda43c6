import { and, desc, eq, ne, sql } from 'drizzle-orm'
import { RENDERER_REVISION } from '#core/render/pictures/preview'
import { HOUSE_RIGS } from '#core/render/rigs/house-rigs'
import { type Rig, STAGE_KIND } from '#core/render/rigs/rig'
import { findCategory } from '#core/standard/categories'
import type { Proposal, RigChange, RigList, Stake } from '#shared/contracts/rigs.contract'
import { loadRigBook, loadRigRevision, type RigBook } from '../../house/rig-book'
import { type Actor, mayEdit, visibleLibraries } from '../../platform/access'
import type { Context } from '../../platform/context'
import { type Connection, isOneOf } from '../../platform/database'
import { notAllowed, notFound, ProblemError } from '../../platform/problem'
import type { JobQueue, PreviewJob } from '../../platform/queue'
import { previews } from '../../tables/library.table'
import { people } from '../../tables/people.table'
import { categoryRigs, rigProposals, rigs } from '../../tables/rig.table'
import { PREVIEW_SEED, requestOnRigs } from '../previews'
import { listRerenders, startRerender } from '../rerenders'

const SAMPLES = 3
const SAMPLE_PRIORITY = 50

/** An item whose picture a change would touch. */
interface Touched extends Record<string, unknown> {
  id: number
  code: string
  name: string
  category: string
  inputKey: string
  views: number
}

/** Items of categories, what people look at most first; then what projects use; then by code. */
async function listTouched(db: Connection, categories: readonly string[], actor: Actor | null): Promise<Touched[]> {
  if (categories.length === 0) return []
  const visible = actor ? sql`and i.library_id in ${visibleLibraries(actor)}` : sql``
  const { rows } = await db.execute<Touched>(sql`
    select i.id, i.code, i.name, i.category::text as category, v.input_key as "inputKey", coalesce(l.views, 0) as views
    from items i
    join versions v on v.id = i.current_version_id
    left join item_views l on l.item_id = i.id
    where i.state <> 'withdrawn' ${visible}
      and i.category::text in (${sql.join(
        categories.map(c => sql`${c}`),
        sql`, `,
      )})
    order by coalesce(l.views, 0) desc, (select count(*) from pins p where p.item_id = i.id) desc, i.code`)
  return rows
}

export async function listRigs(db: Connection, actor: Actor): Promise<RigList> {
  const book = await loadRigBook(db)
  const open = await db
    .select({ proposal: rigProposals, by: people.name })
    .from(rigProposals)
    .innerJoin(people, eq(people.id, rigProposals.personId))
    .where(eq(rigProposals.state, 'open'))
    .orderBy(desc(rigProposals.id))
  const proposals = await Promise.all(open.map(o => toProposal(db, actor, book, o.proposal, o.by)))
  const list = await Promise.all(
    book.all.map(async rig => {
      const categories = book.categoriesOf(rig.name)
      const touched = await listTouched(db, categories, actor)
      const pictures = await picturesOf(
        db,
        touched.map(t => t.inputKey),
      )
      const isCurrent = (p: Picture) =>
        p.rig === rig.name && p.rigRevision === rig.revision && p.rendererRevision === RENDERER_REVISION
      const ofToday = new Set(pictures.filter(isCurrent).map(p => p.inputKey))
      const any = new Set(pictures.map(p => p.inputKey))
      const sample = touched.map(t => pictures.find(p => p.inputKey === t.inputKey && isCurrent(p))).find(Boolean)
      return {
        rig,
        isShipped: (HOUSE_RIGS as Record<string, Rig>)[rig.name]?.revision === rig.revision,
        categories: categories.map(path => ({ path, title: findCategory(path)?.title ?? path })),
        items: touched.length,
        older: touched.filter(t => any.has(t.inputKey) && !ofToday.has(t.inputKey)).length,
        sample: sample ? `/api/previews/${sample.id}` : null,
        proposal: proposals.find(p => p.category === null && p.rig.name === rig.name) ?? null,
      }
    }),
  )
  return {
    mayEdit: mayEdit(actor),
    rigs: list,
    proposals: proposals.filter(p => p.category !== null),
    rerenders: await listRerenders(db),
  }
}

type Picture = Pick<
  typeof previews.$inferSelect,
  'id' | 'inputKey' | 'rig' | 'rigRevision' | 'rendererRevision' | 'quality' | 'seconds'
>

async function picturesOf(db: Connection, inputKeys: readonly string[]): Promise<Picture[]> {
  if (inputKeys.length === 0) return []
  const { id, inputKey, rig, rigRevision, rendererRevision, quality, seconds } = previews
  return db
    .select({ id, inputKey, rig, rigRevision, rendererRevision, quality, seconds })
    .from(previews)
    .where(and(isOneOf(inputKey, [...new Set(inputKeys)]), eq(previews.seed, PREVIEW_SEED)))
    .orderBy(desc(quality), desc(rendererRevision), desc(rigRevision))
}

/** Pictures that a change of the items' rig makes old: a draft for each item, and a final where there is one. */
async function listWork(
  db: Connection,
  touched: readonly Touched[],
): Promise<{ inputKey: string; quality: 'draft' | 'final' }[]> {
  const pictures = await picturesOf(
    db,
    touched.map(t => t.inputKey),
  )
  const finals = new Set(pictures.filter(p => p.quality === 'final').map(p => p.inputKey))
  const keys = [...new Set(touched.map(t => t.inputKey))]
  // Every draft before the first final: the wall is whole again soonest.
  return [
    ...keys.map(inputKey => ({ inputKey, quality: 'draft' as const })),
    ...keys.filter(k => finals.has(k)).map(inputKey => ({ inputKey, quality: 'final' as const })),
  ]
}

const GUESSED_SECONDS = { draft: 4, final: 60 }

async function computeStake(db: Connection, touched: readonly Touched[]): Promise<Stake> {
  const work = await listWork(db, touched)
  const pictures = await picturesOf(
    db,
    touched.map(t => t.inputKey),
  )
  const seconds = work.reduce((sum, w) => {
    const last = pictures.find(
      p => p.inputKey === w.inputKey && p.quality === w.quality && p.rendererRevision === RENDERER_REVISION,
    )
    return sum + (last?.seconds ?? GUESSED_SECONDS[w.quality])
  }, 0)
  return { previews: work.length, minutes: seconds / 60 }
}

type ProposalRow = typeof rigProposals.$inferSelect

/** Categories that a proposal concerns. */
const concernedBy = (book: RigBook, { category, rig }: Pick<ProposalRow, 'category' | 'rig'>): string[] =>
  category !== null ? [category] : book.categoriesOf(rig)

/** Three items that people look at, each of another category where there are that many. */
function pickSamples(touched: readonly Touched[]): Touched[] {
  const picked: Touched[] = []
  for (const apart of [true, false])
    for (const item of touched)
      if (picked.length < SAMPLES && !picked.includes(item) && (!apart || !picked.some(p => p.category === item.category)))
        picked.push(item)
  return picked
}

async function toProposal(db: Connection, actor: Actor, book: RigBook, row: ProposalRow, by: string): Promise<Proposal> {
  const rig = await loadRigRevision(db, row.rig, row.revision)
  if (!rig) throw notFound('This proposal')
  const categories = concernedBy(book, row)
  const [all, visible] = await Promise.all([listTouched(db, categories, null), listTouched(db, categories, actor)])
  const samples = pickSamples(visible)
  const pictures = await picturesOf(
    db,
    samples.map(s => s.inputKey),
  )
  const find = (inputKey: string, wanted: Rig) =>
    pictures.find(p => p.inputKey === inputKey && p.rig === wanted.name && p.rigRevision === wanted.revision)
  return {
    id: row.id,
    rig,
    category: row.category,
    by,
    stake: await computeStake(db, all),
    samples: samples.map(s => {
      const before = find(s.inputKey, book.rigFor(s.category))
      const after = find(s.inputKey, rig)
      return {
        code: s.code,
        name: s.name,
        before: before ? `/api/previews/${before.id}` : null,
        after: after ? `/api/previews/${after.id}` : null,
      }
    }),
  }
}

/** Keeps a changed rig as a revision to be tried out, and asks for its three samples. */
export async function proposeRig(context: Context, actor: Actor, name: string, change: RigChange): Promise<Proposal> {
  if (!mayEdit(actor)) throw notAllowed('Changing a rig')
  const { db } = context
  const book = await loadRigBook(db)
  const current = book.current(name)
  if (!current) throw notFound('This rig')
  if (STAGE_KIND[change.stage] !== STAGE_KIND[current.stage])
    throw new ProblemError('badRequest', `A rig for a ${STAGE_KIND[current.stage]} cannot take the stage of another kind.`, {
      stage: 'Choose a stage of the same kind.',
    })
  const row = await db.transaction(async tx => {
    await tx.execute(sql`select pg_advisory_xact_lock(hashtext(${`rig/${name}`}))`)
    const [newest] = await tx
      .select({ revision: rigs.revision })
      .from(rigs)
      .where(eq(rigs.name, name))
      .orderBy(desc(rigs.revision))
      .limit(1)
    const revision = Math.max(newest?.revision ?? 0, current.revision) + 1
    await closeOpen(tx, and(eq(rigProposals.rig, name), sql`${rigProposals.category} is null`)!)
    await tx.insert(rigs).values({ name, revision, data: { ...change, name, revision }, state: 'proposed' })
    return addProposal(tx, actor, { rig: name, revision, category: null })
  })
  return askForSamples(context, actor, book, row)
}

/** Tries another rig for a category. */
export async function proposeCategoryRig(context: Context, actor: Actor, category: string, name: string): Promise<Proposal> {
  if (!mayEdit(actor)) throw notAllowed('Changing the rig of a category')
  const { db } = context
  const book = await loadRigBook(db)
  const rig = book.current(name)
  const place = findCategory(category)
  if (!rig) throw notFound('This rig')
  if (!place) throw notFound('This category')
  if (STAGE_KIND[rig.stage] !== place.kind)
    throw new ProblemError('badRequest', `${place.title} holds items of the kind ${place.kind}; ${rig.title} shows another kind.`)
  if (book.rigFor(category).name === name) throw new ProblemError('conflict', `${place.title} has the rig ${rig.title} already.`)
  const row = await db.transaction(async tx => {
    await closeOpen(tx, eq(rigProposals.category, category))
    return addProposal(tx, actor, { rig: name, revision: rig.revision, category })
  })
  return askForSamples(context, actor, book, row)
}

const closeOpen = (tx: Connection, which: ReturnType<typeof eq>) =>
  tx
    .update(rigProposals)
    .set({ state: 'discarded' })
    .where(and(eq(rigProposals.state, 'open'), which))

async function addProposal(
  tx: Connection,
  actor: Actor,
  given: { rig: string; revision: number; category: string | null },
): Promise<ProposalRow> {
  const [row] = await tx
    .insert(rigProposals)
    .values({ ...given, state: 'open', personId: actor.id })
    .returning()
  return row
}

async function askForSamples(context: Context, actor: Actor, book: RigBook, row: ProposalRow): Promise<Proposal> {
  const { db, queue } = context
  const samples = pickSamples(await listTouched(db, concernedBy(book, row), actor))
  const jobs = samples.flatMap(({ inputKey, category }): PreviewJob[] => {
    const before = book.rigFor(category)
    return [
      { inputKey, rig: before.name, revision: before.revision, quality: 'draft' },
      { inputKey, rig: row.rig, revision: row.revision, quality: 'draft' },
    ]
  })
  await db.transaction(tx => requestOnRigs(tx, queue, jobs, SAMPLE_PRIORITY))
  const [by] = await db.select({ name: people.name }).from(people).where(eq(people.id, row.personId))
  return toProposal(db, actor, book, row, by?.name ?? '')
}

async function findOpen(db: Connection, id: number): Promise<ProposalRow> {
  const [row] = await db.select().from(rigProposals).where(eq(rigProposals.id, id)).for('update')
  if (!row) throw notFound('This proposal')
  if (row.state !== 'open')
    throw new ProblemError('conflict', 'Somebody has decided on this proposal already. Nothing was changed.')
  return row
}

/** Puts a proposal in force and renders what it concerns anew in the background. Returns the run's id; null when there is nothing to do. */
export async function adoptProposal(context: Context, actor: Actor, id: number): Promise<number | null> {
  if (!mayEdit(actor)) throw notAllowed('Adopting a rig')
  return context.db.transaction(async tx => {
    const row = await findOpen(tx, id)
    await tx.update(rigProposals).set({ state: 'adopted' }).where(eq(rigProposals.id, id))
    if (row.category !== null)
      await tx
        .insert(categoryRigs)
        .values({ category: row.category, rig: row.rig })
        .onConflictDoUpdate({ target: categoryRigs.category, set: { rig: row.rig } })
    else
      await tx
        .update(rigs)
        .set({ state: 'adopted' })
        .where(and(eq(rigs.name, row.rig), eq(rigs.revision, row.revision), ne(rigs.state, 'adopted')))
    const book = await loadRigBook(tx)
    const rig = book.current(row.rig)!
    const place = row.category !== null ? `${findCategory(row.category)?.title ?? row.category}: ` : ''
    const touched = await listTouched(tx, concernedBy(book, row), null)
    return rerenderTouched(tx, context.queue, actor, `${place}${rig.title}, revision ${rig.revision}`, touched)
  })
}

export async function discardProposal({ db }: Pick<Context, 'db'>, actor: Actor, id: number): Promise<void> {
  if (!mayEdit(actor)) throw notAllowed('Discarding a proposal')
  await db.transaction(async tx => {
    const row = await findOpen(tx, id)
    await tx.update(rigProposals).set({ state: 'discarded' }).where(eq(rigProposals.id, id))
    if (row.category === null)
      await tx
        .update(rigs)
        .set({ state: 'discarded' })
        .where(and(eq(rigs.name, row.rig), eq(rigs.revision, row.revision), eq(rigs.state, 'proposed')))
  })
}

/** Renders every picture of a rig's items that is older than the rig and the renderer. */
export async function rerenderOlder(context: Context, actor: Actor, name: string): Promise<number | null> {
  if (!mayEdit(actor)) throw notAllowed('Rendering a library anew')
  const book = await loadRigBook(context.db)
  const rig = book.current(name)
  if (!rig) throw notFound('This rig')
  return context.db.transaction(async tx => {
    const touched = await listTouched(tx, book.categoriesOf(name), null)
    return rerenderTouched(tx, context.queue, actor, `${rig.title}, older pictures`, touched)
  })
}

async function rerenderTouched(
  tx: Connection,
  queue: JobQueue,
  actor: Actor,
  title: string,
  touched: readonly Touched[],
): Promise<number | null> {
  const book = await loadRigBook(tx)
  const categoryOf = new Map(touched.map(t => [t.inputKey, t.category]))
  const work = (await listWork(tx, touched)).map(w => {
    const rig = book.rigFor(categoryOf.get(w.inputKey)!)
    return { ...w, rig: rig.name, revision: rig.revision }
  })
  return startRerender(tx, queue, actor, title, work)
}
