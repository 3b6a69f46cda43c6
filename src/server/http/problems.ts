import type { ErrorRequestHandler, Response } from 'express'
import type { Logger } from 'pino'
import { ZodError } from 'zod'
import { FileError } from '#core/findings/failure'
import type { Problem, ProblemCode } from '#shared/contracts/failure.contract'
import { sayWithField } from '#shared/schema-words'
import { toLogText } from '../platform/log-text'
import { ProblemError } from '../platform/problem'

/** A code without a status does not compile. */
const STATUSES: Record<ProblemCode, number> = {
  notSignedIn: 401,
  notAllowed: 403,
  notFound: 404,
  badRequest: 400,
  conflict: 409,
  tooLarge: 413,
  tooManyTries: 429,
  notReady: 409,
  internal: 500,
}

export const statusOf = ({ code }: Problem): number => STATUSES[code]

export const sendProblem = (res: Response, problem: Problem): void => {
  res.status(statusOf(problem)).json(problem)
}

/** What a person is told of an expected refusal; null for what is our own fault. */
export function toProblem(error: unknown): Problem | null {
  if (error instanceof ProblemError) return error.toProblem()
  if (error instanceof FileError) return { code: 'badRequest', message: error.message }
  if (error instanceof ZodError) {
    const fields = Object.fromEntries(error.issues.map(i => [i.path.join('.') || 'request', i.message]))
    const [first] = error.issues
    return { code: 'badRequest', message: first ? sayWithField(first) : 'The request is not as it should be.', fields }
  }
  // What the body parser says of a broken or huge body.
  if (error instanceof Error && 'type' in error && String(error.type).startsWith('entity.'))
    return error.type === 'entity.too.large'
      ? { code: 'tooLarge', message: 'This is more than is taken at once; nothing of it was done. Do it in parts.' }
      : { code: 'badRequest', message: 'The request does not read.' }
  return null
}

/** Last in the chain: expected refusals as they are, everything else as one sentence and a line in the log. */
export const handleErrors =
  (log: Logger): ErrorRequestHandler =>
  (error, req, res, next) => {
    if (res.headersSent) {
      next(error)
      return
    }
    const problem = toProblem(error)
    if (!problem) log.error({ method: req.method, path: req.path, error: toLogText(error) }, 'request failed')
    sendProblem(
      res,
      problem ?? {
        code: 'internal',
        message: 'Something went wrong here; nothing was changed. Try again, and tell the library lead if it stays.',
      },
    )
  }
