import pgSession from 'connect-pg-simple'
import type { Request, RequestHandler } from 'express'
import session from 'express-session'
import type pg from 'pg'
import type { Person } from '#shared/contracts/session.contract'
import { getPerson } from '../platform/access'
import type { Database } from '../platform/database'
import { ProblemError } from '../platform/problem'

declare module 'express-session' {
  interface SessionData {
    personId: number
  }
}

const TWO_WEEKS_MS = 14 * 24 * 3600 * 1000

/** Sessions live in the database, so that they outlast a restart and are shared by all server processes. */
export function createSessions(pool: pg.Pool, secret: string): RequestHandler {
  const Store = pgSession(session)
  return session({
    name: 'muscovite',
    store: new Store({ pool, tableName: 'sessions', pruneSessionInterval: 3600 }),
    secret,
    resave: false,
    saveUninitialized: false,
    rolling: true,
    cookie: { httpOnly: true, sameSite: 'lax', secure: 'auto', maxAge: TWO_WEEKS_MS },
  })
}

export const findActor = async (db: Database, req: Request): Promise<Person | null> =>
  req.session.personId === undefined ? null : getPerson(db, req.session.personId)

export async function getActor(db: Database, req: Request): Promise<Person> {
  const actor = await findActor(db, req)
  if (!actor)
    throw new ProblemError('notSignedIn', 'You are not signed in, or your session has ended; sign in and go on where you were.')
  return actor
}

/** A new session id with the sign-in, so that one planted before it is worth nothing. */
export const beginSession = (req: Request, personId: number): Promise<void> =>
  new Promise((resolve, reject) =>
    req.session.regenerate(error => {
      if (error) {
        reject(error)
        return
      }
      req.session.personId = personId
      req.session.save(failure => (failure ? reject(failure) : resolve()))
    }),
  )

export const endSession = (req: Request): Promise<void> =>
  new Promise((resolve, reject) => req.session.destroy(error => (error ? reject(error) : resolve())))
