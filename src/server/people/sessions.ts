import Bowser from 'bowser'
import { sql } from 'drizzle-orm'
import type { OpenSession } from '#shared/contracts/people.contract'
import { type Actor, mayEdit } from '../platform/access'
import type { Connection, Database } from '../platform/database'
import { recordEvents } from '../platform/events'
import { notAllowed, notFound } from '../platform/problem'

/** Names a session without being worth anything to whoever reads it. */
const KEY = sql`left(encode(sha256(convert_to(s.sid, 'UTF8')), 'hex'), 32)`

const ownOrLead = (actor: Actor, id: number): void => {
  if (id !== actor.id && !mayEdit(actor)) throw notAllowed("Seeing to somebody else's sign-ins")
}

/** Where somebody is signed in, the newest first. @param here the session that asks */
export async function listSessions(db: Connection, actor: Actor, id: number, here: string): Promise<OpenSession[]> {
  ownOrLead(actor, id)
  const { rows } = await db.execute<{
    key: string
    browser: string | null
    begunAt: number | null
    seenAt: number | null
    isThis: boolean
  }>(sql`
    select ${KEY} as key, s.sess ->> 'browser' as browser, (s.sess ->> 'begunAt')::float8 as "begunAt",
      (s.sess ->> 'renewedAt')::float8 as "seenAt", s.sid = ${here} as "isThis"
    from sessions s where (s.sess ->> 'personId')::int = ${id} and s.expire > now()
    order by s.sid = ${here} desc, (s.sess ->> 'begunAt')::float8 desc nulls last`)
  const toTime = (ms: number | null) => (ms === null ? null : new Date(ms).toISOString())
  return rows.map(({ key, browser, begunAt, seenAt, isThis }) => ({
    key,
    browser: describeBrowser(browser),
    begunAt: toTime(begunAt),
    seenAt: toTime(seenAt),
    isThis,
  }))
}

function describeBrowser(text: string | null): string {
  if (!text) return 'a browser'
  const { browser, os } = Bowser.parse(text)
  return os.name ? `${browser.name || 'a browser'} on ${os.name}` : browser.name || 'a program'
}

/** Signs somebody out in one browser. */
export async function endSession(db: Database, actor: Actor, id: number, key: string): Promise<void> {
  ownOrLead(actor, id)
  await db.transaction(async tx => {
    const { rowCount } = await tx.execute(sql`
      delete from sessions s where (s.sess ->> 'personId')::int = ${id} and ${KEY} = ${key}`)
    if (!rowCount) throw notFound('This sign-in')
    await recordEvents(tx, [{ personId: actor.id, subject: 'person', subjectId: id, verb: 'signed out', after: { count: 1 } }])
  })
}

/** Signs somebody out everywhere; oneself everywhere else. Returns how many browsers that were. */
export async function endSessions(db: Database, actor: Actor, id: number, here: string): Promise<number> {
  ownOrLead(actor, id)
  return db.transaction(async tx => {
    const count = await dropSessions(tx, id, id === actor.id ? here : undefined)
    await recordEvents(tx, [{ personId: actor.id, subject: 'person', subjectId: id, verb: 'signed out', after: { count } }])
    return count
  })
}

export async function dropSessions(tx: Connection, personId: number, keep = ''): Promise<number> {
  const { rowCount } = await tx.execute(sql`
    delete from sessions where (sess ->> 'personId')::int = ${personId} and sid <> ${keep}`)
  return rowCount ?? 0
}
