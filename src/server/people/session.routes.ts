import type { Express } from 'express'
import { rateLimit } from 'express-rate-limit'
import { DONE, ENDPOINTS } from '#shared/contracts/endpoints'
import type { Person, Session } from '#shared/contracts/session.contract'
import { sendProblem } from '../http/problems'
import { route } from '../http/route'
import { beginSession, endSession } from '../http/session'
import type { Context } from '../platform/context'
import type { Settings } from '../platform/settings'
import { prepare } from '../platform/statement'
import { listDemoPeople } from './demo-people'
import { listLibraries } from './libraries'
import { listMembers, signIn } from './people'

const selectOne = prepare<{ one: number }, []>('one', 'select 1 as one')

export function mountSessionRoutes(app: Express, { db, pool }: Context, settings: Settings): void {
  const toSession = async (person: Person | null): Promise<Session> => ({
    person,
    libraries: person ? await listLibraries(db, person) : [],
    demoPeople: person || settings.demo === 'off' ? [] : listDemoPeople(),
  })
  app.post(
    ENDPOINTS.signIn.path,
    rateLimit({
      windowMs: 60_000,
      limit: 30,
      standardHeaders: true,
      legacyHeaders: false,
      skipSuccessfulRequests: true,
      handler: (_req, res) => sendProblem(res, { code: 'tooManyTries', message: 'Too many tries; wait a minute.' }),
    }),
  )
  route(app, ENDPOINTS.getSession, ({ actor }) => toSession(actor))
  route(app, ENDPOINTS.signIn, async ({ req, body }) => {
    const person = await signIn(db, body)
    await beginSession(req, person.id)
    return toSession(person)
  })
  route(app, ENDPOINTS.signOut, async ({ req }) => {
    await endSession(req)
    return DONE
  })
  route(app, ENDPOINTS.getAlive, async () => {
    await selectOne(pool)
    return DONE
  })
  route(app, ENDPOINTS.listMembers, ({ actor }) => listMembers(db, actor))
  route(app, ENDPOINTS.listLibraries, ({ actor }) => listLibraries(db, actor))
}
