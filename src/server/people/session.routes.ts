import type { Express } from 'express'
import { DONE, ENDPOINTS } from '#shared/contracts/endpoints'
import { route } from '../http/route'
import { beginSession, endSession } from '../http/session'
import type { Context } from '../platform/context'
import type { Settings } from '../platform/settings'
import { prepare } from '../platform/statement'
import { listLibraries } from './libraries'
import { limitTries } from './limit-tries'
import { signIn } from './people'
import { toSession } from './session-view'

const selectOne = prepare<{ one: number }, []>('one', 'select 1 as one')

export function mountSessionRoutes(app: Express, { db, pool }: Context, settings: Settings): void {
  app.post(ENDPOINTS.signIn.path, limitTries())
  route(app, ENDPOINTS.getSession, ({ actor }) => toSession(db, settings, actor))
  route(app, ENDPOINTS.signIn, async ({ req, body }) => {
    const person = await signIn(db, body)
    await beginSession(req, person.id)
    return toSession(db, settings, person)
  })
  route(app, ENDPOINTS.signOut, async ({ req }) => {
    await endSession(req)
    return DONE
  })
  route(app, ENDPOINTS.getAlive, async () => {
    await selectOne(pool)
    return DONE
  })
  route(app, ENDPOINTS.listLibraries, ({ actor }) => listLibraries(db, actor))
}
