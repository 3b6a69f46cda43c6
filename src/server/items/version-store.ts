import { asc, eq, sql } from 'drizzle-orm'
import type { OpenPbrParameters, Tiling } from '#core/material/open-pbr'
import { splitTags } from '#core/standard/category-rules'
import type { Facts, FactValue } from '#files/items/inspect-item'
import { KEY_FACTS } from '#shared/key-figure'
import { factOrder } from '#shared/units'
import type { Actor } from '../platform/access'
import { type Connection, isOneOf } from '../platform/database'
import type { SeenFinding } from '../tables/intake.table'
import {
  facts,
  findings,
  items,
  toldFacts,
  versionFiles,
  versions,
  versionWords,
  WORD_LISTS,
  type WordList,
} from '../tables/library.table'

export interface NewVersion {
  note: string
  widthMm: number | null
  tiling: Tiling
  constants: Partial<OpenPbrParameters>
  inputKey: string
  files: readonly {
    role: string
    path: string
    hash: string
    byContentOnly: boolean
    handednessHint: 'openGl' | 'directX' | null
  }[]
  facts: Readonly<Facts>
  findings: readonly SeenFinding[]
}

/** Adds the next version of an item and makes it the current one. Returns its id. */
export async function addVersion(tx: Connection, actor: Actor, itemId: number, given: NewVersion): Promise<number> {
  const [{ last }] = await tx
    .select({ last: sql<number>`coalesce(max(${versions.number}), 0)::int` })
    .from(versions)
    .where(eq(versions.itemId, itemId))
  const { note, widthMm, tiling, constants, inputKey } = given
  const [version] = await tx
    .insert(versions)
    .values({ itemId, number: last + 1, authorId: actor.id, note, widthMm, tiling, constants, inputKey })
    .returning({ id: versions.id })
  if (given.files.length > 0)
    await tx.insert(versionFiles).values(
      given.files.map(({ role, path, hash, byContentOnly, handednessHint }, position) => ({
        versionId: version.id,
        position,
        role,
        path,
        hash,
        byContentOnly,
        handednessHint,
      })),
    )
  await writeFacts(tx, version.id, given.facts)
  await writeFindings(tx, version.id, given.findings)
  await tx.update(items).set({ currentVersionId: version.id, updatedAt: new Date() }).where(eq(items.id, itemId))
  return version.id
}

export async function writeFindings(tx: Connection, versionId: number, found: readonly SeenFinding[]): Promise<void> {
  if (found.length > 0)
    await tx.insert(findings).values(
      found.map(({ code, severity, subject, evidence, before, after }) => ({
        versionId,
        code,
        severity,
        subject,
        evidence,
        beforeHash: before,
        afterHash: after,
      })),
    )
}

/** Puts a version's facts in the place of those it had. */
export async function writeFacts(tx: Connection, versionId: number, given: Readonly<Facts>): Promise<void> {
  await tx.delete(facts).where(eq(facts.versionId, versionId))
  await tx.delete(versionWords).where(eq(versionWords.versionId, versionId))
  const entries = Object.entries(given)
    .filter(([name]) => !isWordList(name))
    .sort(([a], [b]) => factOrder(a) - factOrder(b))
  if (entries.length > 0)
    await tx.insert(facts).values(entries.map(([name, value], position) => ({ versionId, name, position, ...toColumns(value) })))
  const words = WORD_LISTS.flatMap(list => splitTags(given[list]).map((word, position) => ({ versionId, list, position, word })))
  if (words.length > 0) await tx.insert(versionWords).values(words)
  const keyFacts = Object.fromEntries(entries.filter(([name]) => KEY_FACTS.includes(name)))
  await tx.update(versions).set({ keyFacts }).where(eq(versions.id, versionId))
}

export async function readFacts(db: Connection, versionId: number): Promise<Facts> {
  const rows = await db.select().from(toldFacts).where(eq(toldFacts.versionId, versionId)).orderBy(asc(toldFacts.position))
  return Object.fromEntries(rows.map(f => [f.name, f.number ?? f.text ?? f.truth ?? '']))
}

/** The same for many at once, by version. */
export async function readFactsOfMany(db: Connection, versionIds: readonly number[]): Promise<Map<number, Facts>> {
  const rows = await db.select().from(toldFacts).where(isOneOf(toldFacts.versionId, versionIds)).orderBy(asc(toldFacts.position))
  const all = new Map<number, Facts>()
  for (const { versionId, name, number, text, truth } of rows)
    all.set(versionId, { ...all.get(versionId), [name]: number ?? text ?? truth ?? '' })
  return all
}

export const isWordList = (name: string): name is WordList => (WORD_LISTS as readonly string[]).includes(name)

const toColumns = (value: FactValue) =>
  typeof value === 'number' ? { number: value } : typeof value === 'boolean' ? { truth: value } : { text: value }
