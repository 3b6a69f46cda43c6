import { mkdir, rm } from 'node:fs/promises'
import { join } from 'node:path'
import { eq, sql } from 'drizzle-orm'
import { differenceOf } from '#core/mock-up/scene/change'
import { EMPTY_SCENE, type ItemRef } from '#core/mock-up/scene/scene'
import { decideSchema } from '#shared/contracts/decisions.contract'
import type { Person } from '#shared/contracts/session.contract'
import { makeFaultyDelivery } from '../demo/faulty-delivery'
import { DEMO_PIECES, type DemoPiece, statedWidthMm } from '../demo/make-file'
import { makePieces } from '../demo/make-pieces'
import { SUPPLIER } from '../feed/feed-app'
import { decide } from '../server/decisions/decide'
import { addFeed } from '../server/feeds/feeds'
import { LibraryFinder } from '../server/find/library-finder'
import { acceptRows } from '../server/intake/accept-rows'
import { addBatchFile, createBatch, sortBatch } from '../server/intake/batches'
import { editBatchItems } from '../server/intake/edit-rows'
import { editItem, setItemStates } from '../server/library/edit-items'
import { changeMockUp, createMockUp, keepVersion, listMockUps } from '../server/mock-ups/mock-ups'
import { orderPictures } from '../server/mock-ups/order-pictures'
import { findItems } from '../server/mock-ups/resolve-items'
import { DEMO_PEOPLE } from '../server/people/demo-people'
import { addPerson } from '../server/people/people'
import type { Context } from '../server/platform/context'
import { isOneOf, openDatabase } from '../server/platform/database'
import { createFetchOutside } from '../server/platform/fetch-outside'
import { openBoss, toJobQueue } from '../server/platform/queue'
import { readSettings } from '../server/platform/settings'
import { openStorage } from '../server/platform/storage/disk-storage'
import { changeGuests } from '../server/projects/guests'
import { createProject, getProjectRow, pinItems } from '../server/projects/projects'
import { feeds } from '../server/tables/feed.table'
import { batches, batchItems } from '../server/tables/intake.table'
import { items, versions } from '../server/tables/library.table'
import { libraries, people, studio } from '../server/tables/people.table'
import { projects } from '../server/tables/project.table'
import { DEMO_MOCK_UPS } from './demo-mock-ups'
import { seedStandard } from './demo-standard'

/**
 * Fills an empty installation with the made-up studio Pale Harbour: people, libraries, deliveries that go through Intake as a
 * person's would, approvals and projects. Broken off, it goes on where it stopped at the next start.
 */

const settings = readSettings()
const { db, pool, close } = openDatabase(settings.databaseUrl, 4)
const say = (text: string) => process.send?.(text)

interface DemoDelivery {
  title: string
  maker: string
  licence: string
  library: 'house' | 'kettles'
  pieces: readonly DemoPiece[]
}

const from = (start: string) => DEMO_PIECES.filter(p => p.folder.startsWith(start))
const DELIVERIES: readonly DemoDelivery[] = [
  {
    title: 'Zephyrine Skies, winter set',
    maker: 'Zephyrine Skies',
    licence: 'Studio licence, all projects',
    library: 'house',
    pieces: from('Zephyrine Skies'),
  },
  {
    title: 'Oddmere Surfaces, materials',
    maker: 'Oddmere Surfaces',
    licence: 'Studio licence, all projects',
    library: 'house',
    pieces: from('Oddmere Surfaces').filter(p => p.kind === 'texture' || p.kind === 'constant'),
  },
  {
    title: 'Oddmere Surfaces, furniture',
    maker: 'Oddmere Surfaces',
    licence: 'Studio licence, all projects',
    library: 'house',
    pieces: from('Oddmere Surfaces').filter(p => p.kind === 'model'),
  },
  {
    title: 'Hollowbrook Botanicals, eight species',
    maker: 'Hollowbrook Botanicals',
    licence: 'Studio licence, still pictures',
    library: 'house',
    pieces: from('Hollowbrook Botanicals'),
  },
  {
    title: 'Oddmere Lamps, light curves',
    maker: 'Oddmere Lamps',
    licence: 'Free to use for planning',
    library: 'house',
    pieces: from('Oddmere Lamps'),
  },
  {
    title: 'Gullholm Overlays, maps',
    maker: 'Gullholm Overlays',
    licence: 'Studio licence, all projects',
    library: 'house',
    pieces: from('Gullholm Overlays'),
  },
  {
    title: 'Kettle range, first shapes',
    maker: 'Pale Harbour',
    licence: 'Confidential',
    library: 'kettles',
    pieces: from('Kettle range'),
  },
]

const FAULTY_TITLE = 'Oddmere Surfaces, spring delivery'

async function seed(): Promise<void> {
  const lead = await seedPeople()
  if (settings.demo === 'people') return
  const boss = await openBoss(settings.databaseUrl, () => {})
  const context: Context = {
    db,
    pool,
    storage: openStorage(settings.storageUrl),
    queue: toJobQueue(boss),
    fetchOutside: createFetchOutside(settings.feedHosts),
    finder: new LibraryFinder(db),
  }
  const root = join(settings.dataFolder, 'temporary', 'demo')
  await mkdir(root, { recursive: true })
  const pending = []
  for (const delivery of DELIVERIES) if (!(await isAccepted(delivery.title))) pending.push(delivery)
  const total = pending.reduce((sum, d) => sum + d.pieces.length, 0)
  let made = 0
  const accepting: Promise<void>[] = []
  for (const delivery of pending) {
    const batchId = await openBatch(context, lead, delivery)
    await makePieces(delivery.pieces, root, settings.threads, async (_piece, paths) => {
      for (const path of paths) await addBatchFile(context, lead, batchId, path, join(root, path))
      made++
      if (made % 5 === 0 || made === total) say(`Making the demo world: ${made} of ${total} things`)
    })
    await sortBatch(context, lead, batchId)
    accepting.push(acceptDelivery(context, lead, batchId, delivery))
  }
  await Promise.all(accepting)
  await seedProjects(context, lead)
  await seedStandard(context, lead)
  await seedMockUps(context, lead)
  await seedRevisions(context, lead)
  await seedFeed(context, lead)
  if (!(await batchNamed(FAULTY_TITLE))) {
    const paths = await makeFaultyDelivery(root)
    const batchId = await createBatch(context, lead, {
      library: 'house',
      title: FAULTY_TITLE,
      maker: 'Oddmere Surfaces',
      licence: '',
    })
    for (const path of paths) await addBatchFile(context, lead, batchId, path, join(root, path))
    await sortBatch(context, lead, batchId)
  }
  await rm(root, { recursive: true, force: true })
  await boss.stop({ graceful: false, wait: false, close: true })
}

async function seedPeople(): Promise<Person> {
  await db.insert(studio).values({ name: 'Pale Harbour' }).onConflictDoNothing()
  await db
    .insert(libraries)
    .values([
      { key: 'house', title: 'House library', kind: 'house' },
      { key: 'kettles', title: 'Kettle client', kind: 'client', mark: 'KET' },
    ])
    .onConflictDoNothing()
  const [client] = await db.select().from(libraries).where(eq(libraries.key, 'kettles'))
  let lead: Person | null = null
  for (const { clients, ...person } of DEMO_PEOPLE) {
    const added = await addPerson(db, { ...person, libraryIds: clients.includes('kettles') ? [client.id] : [] })
    lead ??= added
  }
  return lead!
}

const batchNamed = async (title: string) => (await db.select().from(batches).where(eq(batches.title, title)))[0]

async function isAccepted(title: string): Promise<boolean> {
  const batch = await batchNamed(title)
  if (batch?.state !== 'open') return false
  const [{ left }] = await db
    .select({ left: sql<number>`count(*) filter (where ${batchItems.state} <> 'accepted')::int` })
    .from(batchItems)
    .where(eq(batchItems.batchId, batch.id))
  return left === 0
}

async function openBatch(context: Context, lead: Person, { title, maker, licence, library }: DemoDelivery): Promise<number> {
  const known = await batchNamed(title)
  return known?.id ?? createBatch(context, lead, { library, title, maker, licence })
}

/** What the lead would do with the worklist: give the sizes that the supplier states, file, and approve what has nothing to fix. */
async function acceptDelivery(context: Context, lead: Person, batchId: number, delivery: DemoDelivery): Promise<void> {
  const rows = await waitForMeasures(batchId)
  for (const row of rows) {
    const piece = delivery.pieces.find(p => row.files.some(f => f.path.includes(p.stem)))
    const widthMm = piece ? statedWidthMm(piece) : null
    const name = piece?.kind === 'plant' ? piece.stem.replace('_', ' ') : undefined
    if (row.state !== 'accepted' && (widthMm !== null || name))
      await editBatchItems(context, lead, batchId, {
        ids: [row.id],
        ...(widthMm === null ? {} : { widthMm }),
        ...(name ? { name } : {}),
      })
  }
  const { refused } = await acceptRows(
    context,
    lead,
    batchId,
    rows.filter(r => r.state !== 'accepted').map(r => r.id),
  )
  for (const { code, reason } of refused) say(`Demo world: ${code} was not accepted. ${reason}`)
  const accepted = await db
    .select({ id: items.id })
    .from(batchItems)
    .innerJoin(items, eq(items.id, batchItems.itemId))
    .where(eq(batchItems.batchId, batchId))
    .orderBy(items.code)
  // A lead's day is never quite done: the last of each delivery stay in review.
  const approved = accepted.slice(0, Math.max(1, accepted.length - 2))
  await setItemStates(
    context,
    lead,
    approved.map(f => f.id),
    'approved',
  )
  const rest = accepted.slice(approved.length).map(f => f.id)
  if (rest.length > 0) await setItemStates(context, lead, rest, 'inReview')
}

async function waitForMeasures(batchId: number) {
  for (;;) {
    const [batch] = await db.select().from(batches).where(eq(batches.id, batchId))
    const rows = await db.select().from(batchItems).where(eq(batchItems.batchId, batchId))
    if (batch.state === 'open' && rows.every(r => r.state !== 'measuring')) return rows
    await new Promise(resolve => setTimeout(resolve, 300))
  }
}

/** The simulated supplier's feed; its address may be another one at each start. */
async function seedFeed(context: Context, lead: Person): Promise<void> {
  if (!settings.feedUrl) return
  const [known] = await db.select().from(feeds).where(eq(feeds.title, SUPPLIER))
  if (known) {
    await db.update(feeds).set({ url: settings.feedUrl }).where(eq(feeds.id, known.id))
    return
  }
  for (let attempt = 0; attempt < 60; attempt++) {
    const isAdded = await addFeed(context, lead, { url: settings.feedUrl, library: 'house' }).then(
      () => true,
      () => false,
    )
    if (isAdded) return
    await new Promise(resolve => setTimeout(resolve, 2000))
  }
  say('Demo world: the simulated supplier did not answer; its feed can be added in Intake.')
}

interface DemoProject {
  code: string
  title: string
  library: string
  /** Of its items. */
  names: string[]
  /** E-mail addresses of guests. */
  shownTo?: string[]
}

const PROJECTS: readonly DemoProject[] = [
  {
    code: 'FERRY',
    title: 'Lakeside ferry hall',
    library: 'house',
    shownTo: ['wren@harbour-trust.example'],
    names: [
      'Larch cladding weathered',
      'Terrazzo harbour grey',
      'Waiting bench three',
      'Quay railing wire',
      'Clear noon lake',
      'Betula pendula',
      'Glass clear low iron',
      'Water lake still',
      'Oak plank natural',
    ],
  },
  {
    code: 'READING',
    title: 'School reading room refit',
    library: 'house',
    names: [
      'Oak plank natural',
      'Reading table long',
      'Slat back chair',
      'Bookcase birch shelving',
      'Wool twill deep teal',
      'Monstera deliciosa',
      'Overcast soft sky',
    ],
  },
  {
    code: 'KETTLES',
    title: 'Enamel kettle range',
    library: 'kettles',
    names: ['Kettle round red', 'Enamel kettle red', 'Brass satin aged'],
  },
]

async function seedProjects(context: Context, lead: Person): Promise<void> {
  const known = await db.execute<{ code: string }>(sql`select code from projects`)
  for (const { code, title, library, names, shownTo = [] } of PROJECTS) {
    if (known.rows.some(r => r.code === code)) continue
    const id = await createProject(context, lead, { code, title, library })
    const found = await db.select({ id: items.id }).from(items).where(isOneOf(items.name, names))
    if (found.length > 0)
      await pinItems(
        context,
        lead,
        id,
        found.map(f => f.id),
      )
    const guests = await db.select({ id: people.id }).from(people).where(isOneOf(people.email, shownTo))
    if (guests.length > 0)
      await changeGuests(
        context,
        lead,
        await getProjectRow(db, lead, id),
        guests.map(g => g.id),
      )
  }
}

/** Two materials that were measured again after projects had pinned them; one of the projects stays for now. */
const REVISIONS = [
  { name: 'Oak plank natural', growth: 1.2, note: 'Boards measured again on the sample: a fifth wider', stays: 'READING' },
  { name: 'Larch cladding weathered', growth: 0.9, note: 'Scale put right by the site sample', stays: null },
]

async function seedRevisions(context: Context, lead: Person): Promise<void> {
  for (const { name, growth, note, stays } of REVISIONS) {
    const [item] = await db.select().from(items).where(eq(items.name, name)).orderBy(items.id).limit(1)
    const history = item ? await db.select().from(versions).where(eq(versions.itemId, item.id)) : []
    const [first] = history
    if (history.length !== 1 || first.widthMm === null) continue
    await editItem(context, lead, item.id, { widthMm: Math.round(first.widthMm * growth), note })
    await setItemStates(context, lead, [item.id], 'approved')
    const [project] = stays ? await db.select().from(projects).where(eq(projects.code, stays)) : []
    const why = 'The pictures are with the school until it has chosen.'
    if (project) await decide(context, lead, project.id, decideSchema.parse({ ids: [item.id], kind: 'stay', why }))
  }
}

async function seedMockUps(context: Context, lead: Person): Promise<void> {
  const known = new Set((await listMockUps(context, lead)).map(m => m.title))
  const everything = await db.select({ id: items.id, name: items.name }).from(items).orderBy(items.id).limit(400)
  const found = await findItems(
    context,
    lead,
    everything.map(i => i.id),
  )
  const refs = new Map(found.map(i => [i.name, i.ref]).reverse() as [string, ItemRef][])
  const refOf = (name: string): ItemRef => {
    const ref = refs.get(name)
    if (!ref) throw new Error(`the demo world has no item called ${name}`)
    return ref
  }
  for (const { title, project, scene } of DEMO_MOCK_UPS) {
    if (known.has(title)) continue
    const [row] = await db.select().from(projects).where(eq(projects.code, project))
    if (!row) continue
    const staged = scene(refOf)
    const id = await createMockUp(context, lead, { title, projectId: row.id, stage: staged.stage })
    await changeMockUp(context, lead, id, {
      page: 'demo',
      base: 0,
      change: differenceOf({ ...EMPTY_SCENE, stage: staged.stage }, staged),
    })
    await keepVersion(context, lead, id, 'First agreed')
    // Nobody waits for them: the pictures of the wall come first.
    await orderPictures(
      context,
      lead,
      id,
      { shots: Object.keys(staged.shots), skies: [], choice: null, quality: 'draft', longerPx: null, newer: [] },
      0,
    )
  }
}

const [{ count }] = (await db.select({ count: sql<number>`count(*)::int` }).from(people)) as [{ count: number }]
const strangers = count > 0 && !(await db.select().from(people).where(eq(people.email, DEMO_PEOPLE[0].email)))[0]
// An installation with people of its own is not a demo.
if (!strangers) await seed()
process.send?.('ready')
await close()
process.disconnect?.()
