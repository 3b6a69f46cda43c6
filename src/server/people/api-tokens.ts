import { and, desc, eq, isNull, sql } from 'drizzle-orm'
import type { ApiToken, NewToken } from '#shared/contracts/people.contract'
import type { Actor } from '../platform/access'
import type { Database } from '../platform/database'
import { recordEvents } from '../platform/events'
import { notFound, ProblemError } from '../platform/problem'
import { createSecret, hashSecret } from '../platform/secret'
import { apiTokens } from '../tables/people.table'

const MOST_OF_ONE = 50
/** So that one found in a file or a log is known for what it is. */
export const TOKEN_PREFIX = 'muscovite_'

const ofTheirs = (actor: Actor) => and(eq(apiTokens.personId, actor.id), isNull(apiTokens.revokedAt))

export async function listTokens(db: Database, actor: Actor): Promise<ApiToken[]> {
  const rows = await db.select().from(apiTokens).where(ofTheirs(actor)).orderBy(desc(apiTokens.id))
  return rows.map(({ id, title, scope, createdAt, lastUsedAt }) => ({
    id,
    title,
    scope,
    createdAt: createdAt.toISOString(),
    lastUsedAt: lastUsedAt?.toISOString() ?? null,
  }))
}

/** The token itself is told this once. */
export async function makeToken(db: Database, actor: Actor, { title, scope }: NewToken): Promise<{ id: number; token: string }> {
  const token = TOKEN_PREFIX + createSecret()
  return db.transaction(async tx => {
    const [{ count }] = await tx.select({ count: sql<number>`count(*)::int` }).from(apiTokens).where(ofTheirs(actor))
    if (count >= MOST_OF_ONE) throw new ProblemError('conflict', `You have ${MOST_OF_ONE} tokens; revoke one that is not used.`)
    const [made] = await tx
      .insert(apiTokens)
      .values({ personId: actor.id, title, scope, tokenHash: hashSecret(token) })
      .returning({ id: apiTokens.id })
    await recordEvents(tx, [
      { personId: actor.id, subject: 'person', subjectId: actor.id, verb: 'made a token', after: { title, scope } },
    ])
    return { id: made.id, token }
  })
}

export async function revokeToken(db: Database, actor: Actor, id: number): Promise<void> {
  await db.transaction(async tx => {
    const [gone] = await tx
      .update(apiTokens)
      .set({ revokedAt: new Date() })
      .where(and(eq(apiTokens.id, id), ofTheirs(actor)))
      .returning({ title: apiTokens.title })
    if (!gone) throw notFound('This token')
    await recordEvents(tx, [
      { personId: actor.id, subject: 'person', subjectId: actor.id, verb: 'revoked a token', before: { title: gone.title } },
    ])
  })
}
