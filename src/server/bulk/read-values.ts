import { and, eq, sql } from 'drizzle-orm'
import { proposeTags, proposeUses } from '#core/find/tags/propose-tags'
import { checkStandard, resolveRules, splitTags } from '#core/standard/category-rules'
import { cleanName } from '#core/standard/name-pattern'
import type { BulkAction } from '#shared/contracts/bulk.contract'
import { toTagEvidence } from '../find/tag-evidence'
import { loadRules } from '../house/load-rules'
import { loadTagWords } from '../house/load-word-lines'
import { readFactsOfMany } from '../items/version-store'
import type { Context } from '../platform/context'
import { type Connection, inChunks, isOneOf } from '../platform/database'
import type { BulkValue } from '../tables/bulk.table'
import { items, previews, versions } from '../tables/library.table'
import { libraries } from '../tables/people.table'
import { dots } from '../tables/personal.table'
import { pins } from '../tables/project.table'

/** Of a state with its approved version: whichever that comes to be. */
export const AS_IT_IS = 'asItIs'

/** What items are now in what an action changes; of dots and pins, `yes` where they have it already. */
export async function readValues(
  db: Connection,
  personId: number,
  action: BulkAction,
  ids: readonly number[],
): Promise<BulkValue[]> {
  switch (action.do) {
    case 'state':
      return db
        .select({ id: items.id, value: sql<string>`${items.state} || '|' || coalesce(${items.approvedVersionId}::text, '')` })
        .from(items)
        .where(isOneOf(items.id, ids))
    case 'names':
    case 'replace':
      return db.select({ id: items.id, value: items.name }).from(items).where(isOneOf(items.id, ids))
    case 'finals': {
      const held = await db
        .select({ id: items.id })
        .from(items)
        .innerJoin(versions, eq(versions.id, items.currentVersionId))
        .innerJoin(previews, and(eq(previews.inputKey, versions.inputKey), eq(previews.quality, 'final')))
        .where(isOneOf(items.id, ids))
      return markHeld(ids, held)
    }
    case 'category':
      return db
        .select({ id: items.id, value: sql<string>`${items.category}::text` })
        .from(items)
        .where(isOneOf(items.id, ids))
    case 'library':
      return db
        .select({ id: items.id, value: libraries.key })
        .from(items)
        .innerJoin(libraries, eq(libraries.id, items.libraryId))
        .where(isOneOf(items.id, ids))
    case 'fact':
    case 'propose':
    case 'words': {
      const name = action.do === 'fact' ? action.fact : action.list
      return db
        .select({
          id: items.id,
          value: sql<string | null>`(select coalesce(f.text, f.number::text) from told_facts f
            where f.version_id = items.current_version_id and f.name = ${name})`,
        })
        .from(items)
        .where(isOneOf(items.id, ids))
    }
    case 'dot': {
      const held = await db
        .select({ id: dots.itemId })
        .from(dots)
        .where(and(eq(dots.personId, personId), eq(dots.color, action.color), isOneOf(dots.itemId, ids)))
      return markHeld(ids, held)
    }
    case 'pin': {
      const held = await db
        .select({ id: pins.itemId })
        .from(pins)
        .where(and(eq(pins.projectId, action.projectId), isOneOf(pins.itemId, ids)))
      return markHeld(ids, held)
    }
    default:
      return action satisfies never
  }
}

const markHeld = (ids: readonly number[], held: readonly { id: number }[]): BulkValue[] => {
  const known = new Set(held.map(h => h.id))
  return ids.map(id => ({ id, value: known.has(id) ? 'yes' : null }))
}

/** What a value becomes by an action; null for none. */
export function nextValue(action: Exclude<BulkAction, { do: 'names' | 'propose' }>, before: string | null): string | null {
  switch (action.do) {
    case 'state':
      return before?.startsWith(`${action.state}|`) ? before : `${action.state}|${AS_IT_IS}`
    case 'category':
      return action.category
    case 'library':
      return action.library
    case 'fact':
      return action.value === '' ? null : action.value
    case 'words': {
      const kept = splitTags(before ?? '').filter(word => !action.remove.some(r => r.toLowerCase() === word.toLowerCase()))
      const added = action.add.filter(word => !kept.some(k => k.toLowerCase() === word.toLowerCase()))
      const words = [...kept, ...added].join(', ')
      return words === '' ? null : words
    }
    case 'replace':
      return before === null ? null : cleanName(before.split(action.find).join(action.put)) || before
    case 'dot':
      return action.on ? 'yes' : null
    case 'pin':
    case 'finals':
      return 'yes'
    default:
      return action satisfies never
  }
}

/** What each of some items becomes by an action. */
export async function wantedValues(
  { db }: Pick<Context, 'db'>,
  action: BulkAction,
  values: readonly BulkValue[],
): Promise<Map<number, string | null>> {
  if (action.do !== 'names' && action.do !== 'propose')
    return new Map(values.map(({ id, value }) => [id, nextValue(action, value)]))
  const [rules, words] = [await loadRules(db), await loadTagWords(db)]
  const wanted = new Map(values.map(v => [v.id, v.value]))
  for (const ids of inChunks([...wanted.keys()], READ_AT_ONCE)) {
    const rows = await db
      .select({ item: items, constants: versions.constants })
      .from(items)
      .innerJoin(versions, eq(versions.id, items.currentVersionId))
      .where(isOneOf(items.id, ids))
    const known = await readFactsOfMany(
      db,
      rows.map(r => r.item.currentVersionId!),
    )
    for (const { item, constants } of rows) {
      const own = resolveRules(item.category, rules)
      const told = known.get(item.currentVersionId!) ?? {}
      if (action.do === 'names') wanted.set(item.id, checkStandard(own, item.name, told, words.firsts).proposedName ?? item.name)
      else {
        const evidence = toTagEvidence({ ...item, constants }, told)
        const proposed = action.list === 'tags' ? proposeTags(evidence, own.tags ?? [], words) : proposeUses(evidence, words)
        const add = proposed.map(p => p.word)
        wanted.set(item.id, nextValue({ do: 'words', list: action.list, add, remove: [] }, wanted.get(item.id) ?? null))
      }
    }
  }
  return wanted
}

const READ_AT_ONCE = 1000
