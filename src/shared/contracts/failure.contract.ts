import { z } from 'zod'

/** Why a request was not carried out; the server's map to HTTP statuses is exhaustive over these. */
export const PROBLEM_CODES = [
  'notSignedIn',
  'notAllowed',
  'notFound',
  'badRequest',
  'conflict',
  'tooLarge',
  'tooManyTries',
  'notReady',
  'internal',
] as const
export type ProblemCode = (typeof PROBLEM_CODES)[number]

export const problemSchema = z.object({
  code: z.enum(PROBLEM_CODES),
  /** A sentence: what happened, what was kept, what to do. */
  message: z.string(),
  /** Field to sentence, for forms. */
  fields: z.record(z.string(), z.string()).optional(),
})
export type Problem = z.infer<typeof problemSchema>
