import type { Express } from 'express'
import { DONE, ENDPOINTS } from '#shared/contracts/endpoints'
import { loadWordLines } from '../house/load-word-lines'
import { route } from '../http/route'
import { beginSession } from '../http/session'
import { toSession } from '../people/session-view'
import type { Context } from '../platform/context'
import type { Settings } from '../platform/settings'
import { foundStudio } from './found-studio'
import { listLicences, setLicence } from './licences/licences'
import { listProfiles, removeProfile, saveProfile } from './profiles/profiles'
import { listOffStandard, listRules, setRules } from './rules/category-rules'
import { changeTree, countMatching, undoTree } from './tree/category-tree'
import { setWordLine } from './words/word-lines'

export function mountStandardRoutes(app: Express, context: Context, settings: Settings): void {
  const { db } = context
  route(app, ENDPOINTS.foundStudio, async ({ req, params, body }) => {
    const lead = await foundStudio(db, params.token, body)
    await beginSession(req, lead.id)
    return toSession(db, settings, lead)
  })
  route(app, ENDPOINTS.listRules, () => listRules(db))
  route(app, ENDPOINTS.setRules, async ({ actor, body }) => {
    await setRules(context, actor, body)
    return DONE
  })
  route(app, ENDPOINTS.listWordLines, () => loadWordLines(db))
  route(app, ENDPOINTS.setWordLine, ({ actor, body }) => setWordLine(context, actor, body))
  route(app, ENDPOINTS.listProfiles, ({ actor }) => listProfiles(db, actor))
  route(app, ENDPOINTS.saveProfile, async ({ actor, body }) => ({ id: await saveProfile(context, actor, body) }))
  route(app, ENDPOINTS.removeProfile, async ({ actor, params }) => {
    await removeProfile(context, actor, params.id)
    return DONE
  })
  route(app, ENDPOINTS.listLicences, ({ actor }) => listLicences(db, actor))
  route(app, ENDPOINTS.setLicence, async ({ actor, body }) => {
    await setLicence(context, actor, body)
    return DONE
  })
  route(app, ENDPOINTS.changeTree, ({ actor, body }) => changeTree(context, actor, body))
  route(app, ENDPOINTS.undoTree, ({ actor, body }) => undoTree(context, actor, body.undo))
  route(app, ENDPOINTS.countMatching, async ({ actor, query }) => ({
    count: await countMatching(db, actor, query.path, query),
  }))
  route(app, ENDPOINTS.listOffStandard, ({ actor, query }) => listOffStandard(db, actor, query.path))
}
