import { eq, sql } from 'drizzle-orm'
import type pg from 'pg'
import { HOUSE_RIGS } from '#core/render/rigs/house-rigs'
import { type Rig, rigSchema, STAGE_KIND } from '#core/render/rigs/rig'
import { findCategory, type ItemKind, isShippedCategory } from '#core/standard/categories'
import type { Connection } from '../platform/database'
import { prepare } from '../platform/statement'
import { rigs } from '../tables/rig.table'

/** The rigs in force and which category has which: the shipped ones, and over them what the studio adopted. */
export class RigBook {
  private readonly chosen = new Map<string, Rig>()

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
    const known = this.chosen.get(category)
    if (known) return known
    const name = this.assignedTo(category) ?? findCategory(category)?.rig ?? 'material-stage'
    const rig = this.byName.get(name) ?? HOUSE_RIGS['material-stage']
    this.chosen.set(category, rig)
    return rig
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
    const parent = category.split('.').slice(0, -1).join('.')
    return isShippedCategory(category) || parent === '' ? undefined : this.assignedTo(parent)
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

export interface RigBookRow {
  adopted: RigRow[]
  assigned: [string, string][]
  paths: string[]
}

/** What a rig book takes to know which rig a category has, as columns. */
export const RIGS_IN_FORCE = `
  (select coalesce(jsonb_agg(jsonb_build_object('name', r.name, 'revision', r.revision, 'data', r.data) order by r.revision), '[]')
   from rigs r where r.state = 'adopted') as adopted,
  (select coalesce(jsonb_agg(jsonb_build_array(c.category, c.rig)), '[]') from category_rigs c) as assigned`

/** With the categories there are, to tell which have a rig. */
export const RIG_BOOK_COLUMNS = `${RIGS_IN_FORCE},
  (select coalesce(jsonb_agg(c.path order by c.position), '[]') from categories c) as paths`

const selectRigsInForce = prepare<RigBookRow, []>('rigs-in-force', `select ${RIGS_IN_FORCE}`)

/** Which rig each category has; not which categories have a rig. */
export const readRigsInForce = async (pool: pg.Pool): Promise<RigBook> => toRigBook((await selectRigsInForce(pool))[0])

/** In one statement: every page with a picture on it asks. */
export const loadRigBook = async (db: Connection): Promise<RigBook> =>
  toRigBook((await db.execute<RigBookRow & Record<string, unknown>>(sql.raw(`select ${RIG_BOOK_COLUMNS}`))).rows[0])

type RigRow = Pick<typeof rigs.$inferSelect, 'name' | 'revision' | 'data'>

export function toRigBook({ adopted, assigned, paths = [] }: Omit<RigBookRow, 'paths'> & { paths?: string[] }): RigBook {
  const current = new Map<string, Rig>(Object.values(HOUSE_RIGS).map(r => [r.name, r]))
  // By ascending revision, so that the newest stays. What an older program wrote and this one cannot read is left aside.
  for (const { name, revision, data } of adopted) {
    const parsed = rigSchema.safeParse({ ...data, name, revision })
    if (parsed.success) current.set(name, parsed.data)
  }
  return new RigBook(current, new Map(assigned), paths)
}

/** One revision of a rig, in force or only tried out. */
export async function loadRigRevision(db: Connection, name: string, revision: number): Promise<Rig | null> {
  const rows = await db.select().from(rigs).where(eq(rigs.name, name))
  const row = rows.find(r => r.revision === revision)
  if (row) return rigSchema.parse({ ...row.data, name, revision })
  const shipped = (HOUSE_RIGS as Record<string, Rig>)[name]
  return shipped?.revision === revision ? shipped : null
}
