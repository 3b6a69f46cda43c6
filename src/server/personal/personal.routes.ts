import type { Express } from 'express'
import { DONE, ENDPOINTS } from '#shared/contracts/endpoints'
import { route } from '../http/route'
import type { Context } from '../platform/context'
import { forgetDesk, listDesks, reportDesk } from './desks'
import { listDotMeanings, setDotMeaning, setDots } from './dots'
import { addTray, getTray, listColleagues, listTrays, removeTray, saveTray, sendTray } from './trays'
import { changeView, listViews, removeView, saveView, standInView } from './views'

export function mountPersonalRoutes(app: Express, context: Context): void {
  const { db } = context
  route(app, ENDPOINTS.getPersonal, async ({ actor }) => {
    const [meanings, views, trays, colleagues, desks] = await Promise.all([
      listDotMeanings(db, actor),
      listViews(context, actor),
      listTrays(db, actor),
      listColleagues(db, actor),
      listDesks(db, actor),
    ])
    return { meanings, views, trays, desks, colleagues: colleagues.map(({ id, name }) => ({ id, name })) }
  })
  route(app, ENDPOINTS.reportDesk, ({ actor, body }) => reportDesk(db, actor, body))
  route(app, ENDPOINTS.forgetDesk, async ({ actor, params }) => {
    await forgetDesk(db, actor, params.id)
    return DONE
  })
  route(app, ENDPOINTS.setDots, async ({ actor, body }) => ({ changed: await setDots(db, actor, body) }))
  route(app, ENDPOINTS.setDotMeaning, async ({ actor, params, body }) => {
    await setDotMeaning(db, actor, params.color, body.meaning)
    return DONE
  })
  route(app, ENDPOINTS.saveView, async ({ actor, body }) => ({ id: await saveView(context, actor, body) }))
  route(app, ENDPOINTS.changeView, async ({ actor, params, body }) => {
    await changeView(context, actor, params.id, body)
    return DONE
  })
  route(app, ENDPOINTS.removeView, async ({ actor, params }) => {
    await removeView(context, actor, params.id)
    return DONE
  })
  route(app, ENDPOINTS.standInView, async ({ actor, params }) => {
    await standInView(context, actor, params.id)
    return DONE
  })
  route(app, ENDPOINTS.getTray, ({ actor, params }) => getTray(context, actor, params.id))
  route(app, ENDPOINTS.addTray, async ({ actor, body }) => ({ id: await addTray(db, actor, body) }))
  route(app, ENDPOINTS.saveTray, async ({ actor, params, body }) => {
    await saveTray(db, actor, params.id, body)
    return DONE
  })
  route(app, ENDPOINTS.removeTray, async ({ actor, params }) => {
    await removeTray(db, actor, params.id)
    return DONE
  })
  route(app, ENDPOINTS.sendTray, async ({ actor, params, body }) => ({ sent: await sendTray(context, actor, params.id, body) }))
}
