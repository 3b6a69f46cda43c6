import type { Express } from 'express'
import { z } from 'zod'
import { DONE, ENDPOINTS } from '#shared/contracts/endpoints'
import { route } from '../../http/route'
import { sendStored } from '../../http/send-file'
import { getActor } from '../../http/session'
import type { Context } from '../../platform/context'
import { getFidelityPicture, listFidelity, requestFidelity, requestMissingFidelity } from '../fidelity/fidelity'
import { setRerenderState } from '../rerenders'
import { getTurntableFile, requestTurntable } from '../turntable/turntables'
import { adoptProposal, discardProposal, listRigs, proposeCategoryRig, proposeRig, rerenderOlder } from './rigs'

export function mountRigRoutes(app: Express, context: Context): void {
  const { db } = context
  route(app, ENDPOINTS.listRigs, ({ actor }) => listRigs(db, actor))
  route(app, ENDPOINTS.proposeRig, ({ actor, params, body }) => proposeRig(context, actor, params.name, body))
  route(app, ENDPOINTS.proposeCategoryRig, ({ actor, params, body }) => proposeCategoryRig(context, actor, params.path, body.rig))
  route(app, ENDPOINTS.adoptProposal, async ({ actor, params }) => ({
    rerenderId: await adoptProposal(context, actor, params.id),
  }))
  route(app, ENDPOINTS.discardProposal, async ({ actor, params }) => {
    await discardProposal(context, actor, params.id)
    return DONE
  })
  route(app, ENDPOINTS.rerenderOlder, async ({ actor, params }) => ({
    rerenderId: await rerenderOlder(context, actor, params.name),
  }))
  route(app, ENDPOINTS.renderTurntable, async ({ actor, params }) => {
    await requestTurntable(context, actor, params.id)
    return DONE
  })
  app.get('/api/turntables/:id', async (req, res) => {
    const actor = getActor(req)
    const hash = await getTurntableFile(db, actor, z.coerce.number().int().positive().parse(req.params.id))
    await sendStored(res, context.storage, { hash, mediaType: 'image/webp' })
  })
  route(app, ENDPOINTS.measureFidelity, async ({ actor, params }) => {
    await requestFidelity(context, actor, params.id)
    return DONE
  })
  route(app, ENDPOINTS.listFidelity, ({ actor, query }) => listFidelity(db, actor, query))
  route(app, ENDPOINTS.measureMissingFidelity, async ({ actor, body }) => ({
    asked: await requestMissingFidelity(context, actor, body),
  }))
  for (const which of ['original', 'picture'] as const)
    app.get(`/api/fidelity/:id/${which}`, async (req, res) => {
      const actor = getActor(req)
      const hash = await getFidelityPicture(db, actor, z.coerce.number().int().positive().parse(req.params.id), which)
      await sendStored(res, context.storage, { hash, mediaType: 'image/webp' })
    })
  route(app, ENDPOINTS.setRerenderState, async ({ actor, params, body }) => {
    await setRerenderState(context, actor, params.id, body.state)
    return DONE
  })
}
