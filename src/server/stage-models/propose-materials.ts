import { and, eq, sql } from 'drizzle-orm'
import { createNameMatcher, type NamedItem } from '#core/mock-up/stage-model/match-names'
import { proposeMaterials } from '#core/mock-up/stage-model/propose-materials'
import type { ProposedMaterials } from '#shared/contracts/stage-models.contract'
import { loadTagWords } from '../house/load-word-lines'
import { findLikeLook } from '../library/wall'
import { type Actor, isGuest, mayRead } from '../platform/access'
import type { Context } from '../platform/context'
import { type Connection, isOneOf } from '../platform/database'
import { notAllowed, ProblemError } from '../platform/problem'
import { items } from '../tables/library.table'
import { materialChoices } from '../tables/stage-model.table'
import { getStageModelRow } from './stage-models'

/** Looks are searched for so often at most: the largest surfaces first. */
const MOST_SEARCHED = 60
const NEAREST = 24

/** What could be which of the house's approved materials, the largest surface first; and the ids of all that is proposed. */
export async function listProposals(
  context: Pick<Context, 'db' | 'pool' | 'finder'>,
  actor: Actor,
  id: number,
): Promise<{ materials: ProposedMaterials['materials']; itemIds: number[] }> {
  const { db } = context
  const { projectId, libraryId, facts } = await getStageModelRow(db, actor, id)
  if (!facts) throw new ProblemError('notReady', 'The model is not read yet; its materials are there when it is.')
  const own = [...facts.materials].sort((a, b) => b.areaM2 - a.areaM2)
  const [named, before] = [
    await listNamed(db, actor, projectId === null ? null : libraryId),
    await loadChoices(db, actor, projectId),
  ]
  const match = createNameMatcher(named, await loadTagWords(db))
  const known = new Map(named.map(n => [n.code, n.id]))
  const materials: ProposedMaterials['materials'] = []
  for (const [k, { name, parts, areaM2, look }] of own.entries()) {
    const alike = k < MOST_SEARCHED ? await findLikeLook(context, actor, look, NEAREST) : []
    const byLook = alike.filter(n => known.has(n.code))
    const proposals = proposeMaterials({ before: before.get(name) ?? null, byName: match(name), byLook, isPlain: look.isPlain })
    materials.push({ name, parts, areaM2, color: look.color, hasPicture: !look.isPlain, proposals })
  }
  const codes = new Set(materials.flatMap(m => m.proposals.map(p => p.code)))
  return { materials, itemIds: [...codes].flatMap(code => known.get(code) ?? []) }
}

/** Materials that may be put on: of a project's model those of the house and of its own library. */
async function listNamed(db: Connection, actor: Actor, libraryId: number | null): Promise<(NamedItem & { id: number })[]> {
  const { rows } = await db.execute<NamedItem & { id: number } & Record<string, unknown>>(sql`
    select i.id, i.code, i.name, i.category::text as category, coalesce((select string_agg(w.word, ', ' order by w.position)
      from version_words w where w.version_id = i.approved_version_id and w.list = 'tags'), '') as tags
    from items i join libraries l on l.id = i.library_id
    where i.kind = 'material' and i.state = 'approved' and ${mayRead(actor, sql`i.library_id`)}
      and (${libraryId}::int is null or l.kind = 'house' or l.id = ${libraryId})`)
  return rows
}

async function loadChoices(db: Connection, actor: Actor, projectId: number | null): Promise<Map<string, string>> {
  if (projectId === null) return new Map()
  const rows = await db
    .select({ material: materialChoices.material, code: items.code })
    .from(materialChoices)
    .innerJoin(items, eq(items.id, materialChoices.itemId))
    .where(and(eq(materialChoices.projectId, projectId), eq(items.state, 'approved'), mayRead(actor, items.libraryId)))
  return new Map(rows.map(r => [r.material, r.code]))
}

/** Keeps what materials of a project's models are in the house. Of a model that is in no project nothing is kept. */
export async function rememberMaterials(
  { db }: Pick<Context, 'db'>,
  actor: Actor,
  id: number,
  choices: Readonly<Record<string, string | null>>,
): Promise<void> {
  if (isGuest(actor)) throw notAllowed('Deciding materials')
  const { projectId } = await getStageModelRow(db, actor, id)
  if (projectId === null) return
  await db.transaction(async tx => {
    const codes = Object.values(choices).filter(code => code !== null)
    const known = new Map(
      (
        await tx
          .select({ id: items.id, code: items.code })
          .from(items)
          .where(and(isOneOf(items.code, codes), eq(items.kind, 'material'), mayRead(actor, items.libraryId)))
      ).map(r => [r.code, r.id]),
    )
    const unknown = codes.filter(code => !known.has(code))
    if (unknown.length > 0)
      throw new ProblemError('badRequest', `Not there, or no material: ${[...new Set(unknown)].join(', ')}.`)
    for (const [material, code] of Object.entries(choices)) {
      const isThis = and(eq(materialChoices.projectId, projectId), eq(materialChoices.material, material))
      if (code === null) await tx.delete(materialChoices).where(isThis)
      else {
        const set = { itemId: known.get(code)!, personId: actor.id, at: new Date() }
        await tx
          .insert(materialChoices)
          .values({ projectId, material, ...set })
          .onConflictDoUpdate({ target: [materialChoices.projectId, materialChoices.material], set })
      }
    }
  })
}
