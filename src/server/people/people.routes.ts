import type { Express } from 'express'
import { DONE, ENDPOINTS } from '#shared/contracts/endpoints'
import { route } from '../http/route'
import { beginSession } from '../http/session'
import type { Context } from '../platform/context'
import type { Settings } from '../platform/settings'
import { openLink } from './access-links'
import { listTokens, makeToken, revokeToken } from './api-tokens'
import { addLibrary, changeLibrary, listManagedLibraries } from './libraries'
import { limitTries } from './limit-tries'
import { mailLink } from './mail-link'
import { changePassword, changePerson, followLink, invitePerson, listMembers, makeLink } from './members'
import { toSession } from './session-view'
import { endSession, endSessions, listSessions } from './sessions'

export function mountPeopleRoutes(app: Express, { db }: Context, settings: Settings): void {
  route(app, ENDPOINTS.listMembers, ({ actor }) => listMembers(db, actor))
  route(app, ENDPOINTS.invitePerson, async ({ req, actor, body }) => {
    const { id, path } = await invitePerson(db, actor, body)
    return { id, ...(await mailLink(db, settings, req, { personId: id, path, isNew: true })) }
  })
  route(app, ENDPOINTS.changePerson, async ({ actor, params, body }) => {
    await changePerson(db, actor, params.id, body)
    return DONE
  })
  route(app, ENDPOINTS.makeLink, async ({ req, actor, params }) => {
    const { path, isNew } = await makeLink(db, actor, params.id)
    return mailLink(db, settings, req, { personId: params.id, path, isNew })
  })
  route(app, ENDPOINTS.listSessions, ({ req, actor, params }) => listSessions(db, actor, params.id, req.sessionID))
  route(app, ENDPOINTS.endSession, async ({ actor, params }) => {
    await endSession(db, actor, params.id, params.key)
    return DONE
  })
  route(app, ENDPOINTS.endSessions, async ({ req, actor, params }) => ({
    count: await endSessions(db, actor, params.id, req.sessionID),
  }))
  app.post(ENDPOINTS.changePassword.path, limitTries())
  route(app, ENDPOINTS.changePassword, async ({ req, actor, body }) => {
    await changePassword(db, actor, body, req.sessionID)
    return DONE
  })
  app.use('/api/links', limitTries())
  route(app, ENDPOINTS.openLink, async ({ params }) => {
    const { purpose, studio, name, email } = await openLink(db, params.token)
    return { purpose, studio, name, email }
  })
  route(app, ENDPOINTS.followLink, async ({ req, params, body }) => {
    const person = await followLink(db, params.token, body.password)
    await beginSession(req, person.id)
    return toSession(db, settings, person)
  })
  route(app, ENDPOINTS.listTokens, ({ actor }) => listTokens(db, actor))
  route(app, ENDPOINTS.makeToken, ({ actor, body }) => makeToken(db, actor, body))
  route(app, ENDPOINTS.revokeToken, async ({ actor, params }) => {
    await revokeToken(db, actor, params.id)
    return DONE
  })
  route(app, ENDPOINTS.listManagedLibraries, ({ actor }) => listManagedLibraries(db, actor))
  route(app, ENDPOINTS.addLibrary, async ({ actor, body }) => ({ id: await addLibrary(db, actor, body.title) }))
  route(app, ENDPOINTS.changeLibrary, async ({ actor, params, body }) => {
    await changeLibrary(db, actor, params.id, body)
    return DONE
  })
}
