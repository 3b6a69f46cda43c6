import type { Express } from 'express'
import type { Logger } from 'pino'
import type { OutsideRefusal } from '#shared/contracts/session.contract'
import { beginSession, saveSession } from '../http/session'
import type { Context } from '../platform/context'
import type { Settings } from '../platform/settings'
import { addressOf } from './address-of'
import { limitTries } from './limit-tries'
import { findOutsidePerson, OutsideRefusalError, OutsideSignIn, type OutsideVisit } from './outside-sign-in'

declare module 'express-session' {
  interface SessionData {
    /** Only between leaving for the sign-in service and coming back. */
    outsideVisit?: OutsideVisit
  }
}

const BACK = '/api/sign-in/outside/back'

/** Leaving for the studio's sign-in service and coming back from it; a browser goes there itself, so the answers are addresses. */
export function mountOutsideSignIn(app: Express, { db }: Context, settings: Settings, log: Logger): void {
  if (!settings.outsideSignIn) return
  const service = new OutsideSignIn(settings.outsideSignIn)
  const refuse = (refusal: OutsideRefusal) => `/?refused=${refusal}`
  app.use('/api/sign-in/outside', limitTries())
  app.get('/api/sign-in/outside', async (req, res) => {
    try {
      const { url, visit } = await service.begin(addressOf(req, settings, BACK))
      req.session.outsideVisit = visit
      await saveSession(req)
      res.redirect(url)
    } catch (error) {
      log.warn({ error }, 'the sign-in service does not answer')
      res.redirect(refuse('away'))
    }
  })
  app.get(BACK, async (req, res) => {
    const visit = req.session.outsideVisit
    // Once, whatever comes of it.
    req.session.outsideVisit = undefined
    if (!visit) return res.redirect(refuse('failed'))
    try {
      await saveSession(req)
      const came = addressOf(req, settings, req.originalUrl)
      const person = await findOutsidePerson(db, await service.finish(came, visit))
      await beginSession(req, person.id)
      res.redirect('/')
    } catch (error) {
      if (!(error instanceof OutsideRefusalError)) log.warn({ error }, 'signing in at the service failed')
      res.redirect(refuse(error instanceof OutsideRefusalError ? error.refusal : 'failed'))
    }
  })
}
