import { and, eq, gt, sql } from 'drizzle-orm'
import type { LINK_PURPOSES, OpenedLink } from '#shared/contracts/people.contract'
import type { Connection } from '../platform/database'
import { ProblemError } from '../platform/problem'
import { createSecret, hashSecret } from '../platform/secret'
import { accessLinks, people, studio } from '../tables/people.table'

type Purpose = (typeof LINK_PURPOSES)[number]

const VALID_DAYS = 7

interface NewLink {
  purpose: Purpose
  personId: number | null
  createdBy: number | null
}

/** The path of a link that works once; earlier ones of that person end. */
export async function createLink(tx: Connection, { purpose, personId, createdBy }: NewLink): Promise<string> {
  const token = createSecret()
  if (personId !== null) await tx.delete(accessLinks).where(eq(accessLinks.personId, personId))
  await tx.insert(accessLinks).values({
    tokenHash: hashSecret(token),
    purpose,
    personId,
    createdBy,
    expiresAt: sql`now() + make_interval(days => ${VALID_DAYS})` as never,
  })
  return `/welcome/${token}`
}

const gone = () =>
  new ProblemError(
    'notFound',
    'This link does not work any more: it was used, or it is too old. Ask a library lead for a new one.',
  )

/** What a link is for. @throws ProblemError where it works no more */
export async function openLink(db: Connection, token: string): Promise<OpenedLink & { personId: number | null }> {
  const [found] = await db
    .select({ purpose: accessLinks.purpose, personId: accessLinks.personId, name: people.name, email: people.email })
    .from(accessLinks)
    .leftJoin(people, eq(people.id, accessLinks.personId))
    .where(and(eq(accessLinks.tokenHash, hashSecret(token)), gt(accessLinks.expiresAt, sql`now()`)))
  if (!found) throw gone()
  const [{ name } = { name: null }] = await db.select({ name: studio.name }).from(studio)
  return { ...found, studio: name }
}

/** Takes a link, so that nobody else can; the transaction that does what it is for. @throws ProblemError where it works no more */
export async function takeLink(tx: Connection, token: string): Promise<{ purpose: Purpose; personId: number | null }> {
  const [taken] = await tx
    .delete(accessLinks)
    .where(and(eq(accessLinks.tokenHash, hashSecret(token)), gt(accessLinks.expiresAt, sql`now()`)))
    .returning({ purpose: accessLinks.purpose, personId: accessLinks.personId })
  if (!taken) throw gone()
  return taken
}
