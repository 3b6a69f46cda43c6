import type { Request, RequestHandler } from 'express'
import session from 'express-session'
import type pg from 'pg'
import type { Person } from '#shared/contracts/session.contract'
import { isGuest } from '../platform/access'
import { ProblemError } from '../platform/problem'
import { SessionStore } from './session-store'
import { findTokenPerson, signInByToken } from './token-sign-in'

declare module 'express-session' {
  interface SessionData {
    personId: number
    /** Whose session it is, as they are now; read with it and not stored in it. */
    person: Person | null
    /** The database's snapshot when the session was read: the same for two requests, and nothing has changed between them. */
    snapshot: string
    /** What it was begun with, as it called itself, and when. */
    browser?: string
    begunAt?: number
    /** When it was written last, so that it is written, and its cookie sent, once a day and not with every answer. */
    renewedAt: number
  }
}

const DAY_MS = 24 * 3600 * 1000
const LONGEST_NAME = 300
const TWO_WEEKS_MS = 14 * DAY_MS

export function createSessions(pool: pg.Pool, secret: string): RequestHandler[] {
  return [
    session({
      name: 'muscovite',
      store: new SessionStore(pool),
      secret,
      resave: false,
      saveUninitialized: false,
      cookie: { httpOnly: true, sameSite: 'lax', secure: 'auto', maxAge: TWO_WEEKS_MS },
    }),
    (req, _res, next) => {
      const { session } = req
      if (session.personId !== undefined && Date.now() - (session.renewedAt ?? 0) > DAY_MS) session.renewedAt = Date.now()
      next()
    },
    signInByToken(pool),
  ]
}

export const findActor = (req: Request): Person | null => findTokenPerson(req) ?? req.session.person ?? null

/** Whoever is signed in, a guest too: for what decides itself what each may see. */
export function getAnybody(req: Request): Person {
  const actor = findActor(req)
  if (!actor)
    throw new ProblemError('notSignedIn', 'You are not signed in, or your session has ended; sign in and go on where you were.')
  return actor
}

/** Whoever works here. */
export function getActor(req: Request): Person {
  const actor = getAnybody(req)
  if (isGuest(actor)) throw new ProblemError('notAllowed', 'As a guest you see the projects that are shown to you.')
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
      req.session.renewedAt = req.session.begunAt = Date.now()
      req.session.browser = req.get('user-agent')?.slice(0, LONGEST_NAME)
      saveSession(req).then(resolve, reject)
    }),
  )

/**
 * Writes the session now. Left to the end of the answer it is written after the head of it is sent, and a browser that is sent elsewhere
 * can be back before.
 */
export const saveSession = (req: Request): Promise<void> =>
  new Promise((resolve, reject) => req.session.save(error => (error ? reject(error) : resolve())))

export const endSession = (req: Request): Promise<void> =>
  new Promise((resolve, reject) => req.session.destroy(error => (error ? reject(error) : resolve())))
