import { and, eq, isNull, sql } from 'drizzle-orm'
import {
  type CategoryRules,
  checkStandard,
  resolveRules,
  type StandardVerdict,
  shippedRules,
} from '#core/standard/category-rules'
import { parseNamePattern } from '#core/standard/name-pattern'
import type { OffStandard, SetRules, StandardRules } from '#shared/contracts/standard.contract'
import { loadRules } from '../../house/load-rules'
import { loadTagWords } from '../../house/load-word-lines'
import { requestChecks } from '../../library/request-checks'
import { type Actor, mayEdit, mayRead } from '../../platform/access'
import type { Context } from '../../platform/context'
import type { Connection } from '../../platform/database'
import { recordEvents } from '../../platform/events'
import { notAllowed, notFound, ProblemError } from '../../platform/problem'
import { replaceLossFindings } from '../../previews/fidelity/fidelity'
import { categories, items, toldFacts } from '../../tables/library.table'
import { categoryRules } from '../../tables/standard.table'

/** Of each category its own rules, and what holds there with what comes from above. */
export async function listRules(db: Connection): Promise<StandardRules[]> {
  const own = await loadRules(db)
  const rows = await db.select().from(categories).where(isNull(categories.retiredInto)).orderBy(categories.position)
  return rows.map(({ path }) => ({
    path,
    own: own.get(path) ?? shippedRules(path),
    resolved: resolveRules(path, own),
    isShipped: !own.has(path),
  }))
}

/**
 * Sets a category's own rules. Deliveries are measured against them from now on; what is accepted is listed as off standard and, where a
 * budget or a usual size changed, checked anew, but not changed.
 */
export async function setRules(context: Context, actor: Actor, { path, rules }: SetRules): Promise<void> {
  if (!mayEdit(actor)) throw notAllowed('Changing the standard')
  const [category] = await context.db.select().from(categories).where(eq(categories.path, path))
  if (!category) throw notFound('This category')
  if (rules.namePattern !== null) {
    const parsed = parseNamePattern(rules.namePattern)
    if ('problem' in parsed) throw new ProblemError('badRequest', parsed.problem)
  }
  if (rules.expectedSizeM && !(rules.expectedSizeM[0] < rules.expectedSizeM[1]))
    throw new ProblemError('badRequest', 'The smallest size has to be below the largest.')
  for (const { fact, low, high } of rules.factRanges ?? [])
    if (low !== null && high !== null && !(low < high))
      throw new ProblemError('badRequest', `The lowest ${fact} has to be below the highest.`)
  await context.db.transaction(async tx => {
    const before = (await loadRules(tx)).get(path) ?? shippedRules(path)
    await tx
      .insert(categoryRules)
      .values({ category: path, rules, personId: actor.id })
      .onConflictDoUpdate({ target: categoryRules.category, set: { rules, personId: actor.id, at: new Date() } })
    await recordEvents(tx, [
      {
        personId: actor.id,
        subject: 'standard',
        subjectId: category.position,
        verb: 'ruled',
        before: { path, ...before },
        after: { path, ...rules },
      },
    ])
    if (JSON.stringify(before.targets) !== JSON.stringify(rules.targets))
      await replaceLossFindings(tx, sql`${items.category} <@ ${path}::ltree`)
    if (CHECKED_RULES.some(key => JSON.stringify(before[key]) !== JSON.stringify(rules[key])))
      await requestChecks(tx, context.queue, sql`${items.category} <@ ${path}::ltree`)
  })
}

/** Rules that findings follow from, not only the list of what is off standard. */
const CHECKED_RULES = ['expectedSizeM', 'triangleBudget', 'mapBudgetPx', 'mapPacking'] as const satisfies (keyof CategoryRules)[]

export const isOnStandard = (verdict: StandardVerdict): boolean =>
  verdict.proposedName === null &&
  verdict.proposedTags === null &&
  [verdict.missingFacts, verdict.outOfRange, verdict.strangeTags].every(list => list.length === 0)

/** What in a category, and below it, is off its standard by its words: facts that are missing, names that the pattern would change. */
export async function listOffStandard(db: Connection, actor: Actor, path: string): Promise<OffStandard[]> {
  const [own, words] = [await loadRules(db), await loadTagWords(db)]
  const rows = await db
    .select({
      item: items,
      facts: sql<Record<string, string | number | boolean>>`
      (select coalesce(jsonb_object_agg(f.name, coalesce(to_jsonb(f.text), to_jsonb(f.number), to_jsonb(f.truth))), '{}'::jsonb)
       from ${toldFacts} f where f.version_id = ${items.currentVersionId})`,
    })
    .from(items)
    .where(and(mayRead(actor, items.libraryId), sql`${items.category} <@ ${path}::ltree`, sql`${items.state} <> 'withdrawn'`))
    .orderBy(items.code)
  return rows.flatMap(({ item, facts: known }) => {
    const verdict = checkStandard(resolveRules(item.category, own), item.name, known, words.firsts)
    return isOnStandard(verdict) ? [] : [{ id: item.id, code: item.code, name: item.name, category: item.category, ...verdict }]
  })
}
