import { createHash } from 'node:crypto'
import { and, eq, inArray } from 'drizzle-orm'
import { LRUCache } from 'lru-cache'
import { refKey } from '#core/mock-up/materials/list-refs'
import type { ItemRef, Scene } from '#core/mock-up/scene/scene'
import { type AmountFacts, amountOf, readFigure } from '#core/takeoff/amounts'
import type { JoinedTakeoff } from '#core/takeoff/join-takeoffs'
import type { Takeoff } from '#core/takeoff/measure-scene'
import type { Schedule, ScheduleRow } from '#shared/contracts/schedules.contract'
import { sinceKept, toKeptLine } from '#shared/schedule-changes'
import { readFactsOfMany } from '../items/version-store'
import type { Actor } from '../platform/access'
import type { ComputePool } from '../platform/compute/compute-pool'
import type { Context } from '../platform/context'
import { notFound } from '../platform/problem'
import { categories, versions } from '../tables/library.table'
import { mockUpVersions } from '../tables/mock-up.table'
import { projects } from '../tables/project.table'
import { getMockUpRow, type MockUpRow } from './mock-ups'
import { openSources } from './open-sources'
import { resolveRefs } from './resolve-items'

type Facts = Readonly<Record<string, string | number | boolean>>
type Working = Context & { compute: ComputePool }

/**
 * The finish schedule of a mock-up as it is now: what is in it, how much of it, where.
 * @param against a kept version; each row says what it was then
 */
export async function getSchedule(
  context: Working,
  actor: Actor,
  id: number,
  { waste, against }: { waste: number; against?: number },
): Promise<Schedule> {
  const { db } = context
  const mockUp = await getMockUpRow(db, actor, id)
  const [project] = mockUp.projectId ? await db.select().from(projects).where(eq(projects.id, mockUp.projectId)) : []
  const [rows, earlier] = await Promise.all([
    listRows(context, actor, mockUp.scene, waste),
    against === undefined ? null : readKept(context, id, against).then(scene => listRows(context, actor, scene, waste)),
  ])
  return {
    title: mockUp.title,
    project: project ? `${project.code} ${project.title}` : null,
    missing: rows.missing,
    ...(earlier ? sinceKept(rows.rows, earlier.rows.map(toKeptLine)) : { rows: rows.rows, gone: [] }),
  }
}

async function readKept({ db }: Context, id: number, against: number): Promise<Scene> {
  const [kept] = await db
    .select({ scene: mockUpVersions.scene })
    .from(mockUpVersions)
    .where(and(eq(mockUpVersions.id, against), eq(mockUpVersions.mockUpId, id)))
  if (!kept) throw notFound('This version of the mock-up')
  return kept.scene
}

async function listRows(
  context: Working,
  actor: Actor,
  scene: Scene,
  waste: number,
): Promise<Pick<Schedule, 'rows' | 'missing'>> {
  return describeTakeoff(context, actor, await measureMockUp(context, actor, { scene }), waste)
}

/** How much of what is in a mock-up, as far as one may see it. What was measured a moment ago is not measured again. */
export async function measureMockUp(context: Working, actor: Actor, { scene }: Pick<MockUpRow, 'scene'>): Promise<Takeoff> {
  const sources = await openSources(context, actor, scene)
  const models = Object.keys(sources).filter(one => sources[one].kind === 'model')
  const key = measureKey(scene, models)
  const known = measured.get(key)
  if (known) return known
  const takeoff = await context.compute.run('measureTakeoff', { scene, sources })
  // What does not read now may read the next time.
  if (takeoff.missing.length === 0) measured.set(key, takeoff)
  return takeoff
}

const measured = new LRUCache<string, Takeoff>({ max: 100 })

/** Everything that a takeoff follows from: not where it is looked at from, nor under what sky. */
function measureKey({ stage, pieces, plantings, groups, lights, types }: Scene, models: readonly string[]): string {
  const measures = JSON.stringify([stage, pieces, plantings, groups, lights, types, [...models].sort()])
  return createHash('sha256').update(measures).digest('hex')
}

/** Lines of a schedule: what was measured, with what the library says of it. */
export async function describeTakeoff(
  context: Context,
  actor: Actor,
  takeoff: JoinedTakeoff,
  waste: number,
): Promise<Pick<Schedule, 'rows' | 'missing'>> {
  const refs = [...takeoff.materials.flatMap(m => m.ref ?? []), ...takeoff.counted.map(c => c.ref)]
  const known = await describeItems(context, actor, refs)
  const of = (ref: ItemRef | null) => (ref ? known.get(refKey(ref)) : undefined)
  const materials = takeoff.materials.map((m): ScheduleRow => {
    const item = of(m.ref)
    return {
      ...common(m.ref, m.name, item, m.ref ? 'material' : 'own'),
      key: m.ref ? `material ${m.ref.code}` : `own ${m.name}`,
      ...amountOf(m.areaM2, 'm2', figuresOf(item?.facts ?? {}), waste / 100),
      edgeM: m.edgeM,
      where: m.places.map(({ of: thing, areaM2, edgeM: _, ...place }) => ({ ...place, of: thing, amount: areaM2 })),
      scaled: 0,
      before: null,
    }
  })
  const counted = takeoff.counted.map((c): ScheduleRow => {
    const item = of(c.ref)
    return {
      ...common(c.ref, c.name, item, KIND_OF_COUNTED[c.kind]),
      key: `${c.kind} ${c.ref.code}`,
      ...amountOf(c.count, 'pieces', figuresOf(item?.facts ?? {}), c.kind === 'plant' ? waste / 100 : 0),
      edgeM: null,
      where: c.groups.map(group => ({ of: group, part: '', group, type: null, count: c.count, amount: c.count })),
      scaled: c.scaled,
      before: null,
    }
  })
  return { rows: [...materials, ...counted], missing: takeoff.missing }
}

const KIND_OF_COUNTED = { piece: 'model', plant: 'model', light: 'light', environment: 'environment', map: 'map' } as const

const figuresOf = (facts: Facts): AmountFacts => ({
  coverageM2L: readFigure(facts.coverageM2L),
  coats: readFigure(facts.coats),
  weightKgM2: readFigure(facts.weightKgM2),
  weightKg: readFigure(facts.weightKg),
  price: readFigure(facts.price),
})

interface Described {
  name: string
  category: string
  preview: string | null
  facts: Facts
}

/** What the library says of what is in a scene, by {@link refKey}: two items may have the same files. Of what one may not see nothing. */
async function describeItems(context: Context, actor: Actor, refs: readonly ItemRef[]): Promise<Map<string, Described>> {
  const seen = (await resolveRefs(context, actor, refs)).filter(i => i.id !== null)
  if (seen.length === 0) return new Map()
  const [rows, titles] = await Promise.all([
    context.db
      .select({ id: versions.id, itemId: versions.itemId, inputKey: versions.inputKey })
      .from(versions)
      .where(
        inArray(
          versions.itemId,
          seen.map(i => i.id!),
        ),
      ),
    context.db.select({ path: categories.path, title: categories.title }).from(categories),
  ])
  const facts = await readFactsOfMany(
    context.db,
    rows.map(r => r.id),
  )
  const titleOf = new Map(titles.map(t => [t.path, t.title]))
  return new Map(
    seen.map(item => {
      const row = rows.find(r => r.itemId === item.id && r.inputKey === item.ref.inputKey)
      const { name, category, preview } = item
      return [
        refKey(item.ref),
        { name, category: titleOf.get(category) ?? category, preview, facts: (row && facts.get(row.id)) ?? {} },
      ]
    }),
  )
}

/** Columns that do not depend on how much of it there is. */
function common(ref: ItemRef | null, name: string, item: Described | undefined, kind: ScheduleRow['kind']) {
  const facts = item?.facts ?? {}
  const text = (fact: string) => String(facts[fact] ?? '')
  return {
    code: ref?.code ?? null,
    version: ref?.version ?? null,
    name: item?.name ?? (ref ? ref.code : name),
    kind,
    category: item?.category ?? (kind === 'own' ? 'Came with a model, or not chosen yet' : ''),
    preview: item?.preview ?? null,
    maker: text('maker'),
    productNumber: text('productNumber') || [text('series'), text('number')].filter(Boolean).join(' '),
    sheen: text('sheen'),
    licence: text('licence'),
    size: sayPlainSize(facts),
  }
}

function sayPlainSize(facts: Facts): string {
  if (typeof facts.boundsM === 'string') return `${facts.boundsM.replaceAll(' x ', ' × ')} m`
  const { widthMm, heightMm } = facts
  return typeof widthMm === 'number'
    ? `${Math.round(widthMm)}${typeof heightMm === 'number' ? ` × ${Math.round(heightMm)}` : ''} mm`
    : ''
}
