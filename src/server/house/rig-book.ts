import { asc, eq } from 'drizzle-orm'
import { HOUSE_RIGS } from '#core/render/rigs/house-rigs'
import { type Rig, rigSchema, STAGE_KIND } from '#core/render/rigs/rig'
import { findCategory, HOUSE_CATEGORIES, type ItemKind } from '#core/standard/categories'
import type { Connection } from '../platform/database'
import { categories } from '../tables/library.table'
import { categoryRigs, rigs } from '../tables/rig.table'

/** The rigs in force and which category has which: the shipped ones, and over them what the studio adopted. */
export class RigBook {
  constructor(
    private readonly byName: ReadonlyMap<string, Rig>,
    private readonly assigned: ReadonlyMap<string, string>,
    private readonly categoryPaths: readonly string[],
  ) {}

  get all(): Rig[] {
    return [...this.byName.values()]
  }

  current(name: string): Rig | undefined {
    return this.byName.get(name)
  }

  rigFor(category: string): Rig {
    const name = this.assignedTo(category) ?? findCategory(category)?.rig ?? 'material-stage'
    return this.byName.get(name) ?? HOUSE_RIGS['material-stage']
  }

  /** The rig that a category would have if nobody had chosen one for it. */
  shippedFor(category: string): string {
    return this.inheritedBy(category) ?? findCategory(category)?.rig ?? 'material-stage'
  }

  private assignedTo(category: string): string | undefined {
    return this.assigned.get(category) ?? this.inheritedBy(category)
  }

  /** A category that a studio made itself takes the rig adopted for the one it lies in. */
  private inheritedBy(category: string): string | undefined {
    const isShipped = HOUSE_CATEGORIES.some(c => c.path === category)
    const parent = category.split('.').slice(0, -1).join('.')
    return isShipped || parent === '' ? undefined : this.assignedTo(parent)
  }

  /** Categories that show their items on a rig. */
  categoriesOf(name: string): string[] {
    return this.categoryPaths.filter(path => this.rigFor(path).name === name)
  }

  /** Whether a picture on another rig may stand in until one on the category's own is there: those of its kind, but no detail views. */
  wasOnceFor(category: string, name: string): boolean {
    const rig = this.byName.get(name)
    return rig !== undefined && !DETAIL_STAGES.has(rig.stage) && STAGE_KIND[rig.stage] === kindOf(category)
  }
}

const DETAIL_STAGES: ReadonlySet<string> = new Set(['closeUp', 'leaf'])
const kindOf = (category: string): ItemKind => findCategory(category)?.kind ?? 'material'

export async function loadRigBook(db: Connection): Promise<RigBook> {
  const [adopted, assigned, places] = await Promise.all([
    db.select().from(rigs).where(eq(rigs.state, 'adopted')).orderBy(asc(rigs.revision)),
    db.select().from(categoryRigs),
    db.select({ path: categories.path }).from(categories).orderBy(asc(categories.position)),
  ])
  const current = new Map<string, Rig>(Object.values(HOUSE_RIGS).map(r => [r.name, r]))
  // By ascending revision, so that the newest stays. What an older program wrote and this one cannot read is left aside.
  for (const { name, revision, data } of adopted) {
    const parsed = rigSchema.safeParse({ ...data, name, revision })
    if (parsed.success) current.set(name, parsed.data)
  }
  return new RigBook(
    current,
    new Map(assigned.map(a => [a.category, a.rig])),
    places.map(p => p.path),
  )
}

/** One revision of a rig, in force or only tried out. */
export async function loadRigRevision(db: Connection, name: string, revision: number): Promise<Rig | null> {
  const rows = await db.select().from(rigs).where(eq(rigs.name, name))
  const row = rows.find(r => r.revision === revision)
  if (row) return rigSchema.parse({ ...row.data, name, revision })
  const shipped = (HOUSE_RIGS as Record<string, Rig>)[name]
  return shipped?.revision === revision ? shipped : null
}
