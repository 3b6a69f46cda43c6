/** Why a file could not be used. An expected outcome of reading what people send, so a value and not a throw. */
export const FAILURE_CODES = [
  'emptyFile',
  'unknownType',
  'typeMismatch',
  'truncated',
  'malformed',
  'unsupported',
  'tooLarge',
  'unsafePath',
  'archiveBomb',
  'notFound',
  'unreadable',
  'notReachable',
  'checksumWrong',
] as const

export type FailureCode = (typeof FAILURE_CODES)[number]

export interface Failure {
  code: FailureCode
  /** A sentence for a person: what is wrong with the file. */
  message: string
}

/** Thrown inside parsers, caught at their door and turned into a Failure. */
export class FileError extends Error {
  constructor(
    readonly code: FailureCode,
    message: string,
  ) {
    super(message)
    this.name = 'FileError'
  }
}

export const toFailure = (error: unknown): Failure =>
  error instanceof FileError
    ? { code: error.code, message: error.message }
    : { code: 'unreadable', message: 'The file could not be read; it may be damaged.' }
