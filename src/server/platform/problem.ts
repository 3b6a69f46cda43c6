import type { Problem, ProblemCode } from '#shared/contracts/failure.contract'

/** An expected refusal of a use case; carries what the person is told. */
export class ProblemError extends Error {
  constructor(
    readonly code: ProblemCode,
    message: string,
    readonly fields?: Record<string, string>,
  ) {
    super(message)
    this.name = 'ProblemError'
  }

  toProblem(): Problem {
    return { code: this.code, message: this.message, ...(this.fields ? { fields: this.fields } : {}) }
  }
}

export const notFound = (what: string): ProblemError =>
  new ProblemError('notFound', `${what} is not there, or is not yours to see.`)
export const notAllowed = (what: string): ProblemError => new ProblemError('notAllowed', `${what} is for a library lead.`)
