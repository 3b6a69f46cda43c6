import type { Express } from 'express'
import { DONE, ENDPOINTS } from '#shared/contracts/endpoints'
import type { Context } from '../../services/context'
import { setRerenderState } from '../../services/rerenders'
import { adoptProposal, discardProposal, listRigs, proposeCategoryRig, proposeRig, rerenderOlder } from '../../services/rigs'
import { route } from '../route'

export function mountRigRoutes(app: Express, context: Context): void {
  const { db } = context
  route(app, db, ENDPOINTS.listRigs, ({ actor }) => listRigs(db, actor))
  route(app, db, ENDPOINTS.proposeRig, ({ actor, params, body }) => proposeRig(context, actor, params.name, body))
  route(app, db, ENDPOINTS.proposeCategoryRig, ({ actor, params, body }) =>
    proposeCategoryRig(context, actor, params.path, body.rig),
  )
  route(app, db, ENDPOINTS.adoptProposal, async ({ actor, params }) => ({
    rerenderId: await adoptProposal(context, actor, params.id),
  }))
  route(app, db, ENDPOINTS.discardProposal, async ({ actor, params }) => {
    await discardProposal(db, actor, params.id)
    return DONE
  })
  route(app, db, ENDPOINTS.rerenderOlder, async ({ actor, params }) => ({
    rerenderId: await rerenderOlder(context, actor, params.name),
  }))
  route(app, db, ENDPOINTS.setRerenderState, async ({ actor, params, body }) => {
    await setRerenderState(context, actor, params.id, body.state)
    return DONE
  })
}
