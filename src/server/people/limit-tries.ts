import type { RequestHandler } from 'express'
import { rateLimit } from 'express-rate-limit'
import { sendProblem } from '../http/problems'

const TRIES_A_MINUTE = 30

/** Failed tries from one address are counted, whoever they are for: nobody is locked out because somebody else guesses at their name. */
export const limitTries = (): RequestHandler =>
  rateLimit({
    windowMs: 60_000,
    limit: TRIES_A_MINUTE,
    standardHeaders: true,
    legacyHeaders: false,
    skipSuccessfulRequests: true,
    handler: (_req, res) => sendProblem(res, { code: 'tooManyTries', message: 'Too many tries; wait a minute.' }),
  })
