import { createHash, randomBytes } from 'node:crypto'

const SECRET_BYTES = 24

/** What lets somebody in without a password: 192 random bits, fit for an address. */
export const createSecret = (): string => randomBytes(SECRET_BYTES).toString('base64url')

/** What is kept of it. So many random bits cannot be turned back or guessed from a plain hash. */
export const hashSecret = (secret: string): string => createHash('sha256').update(secret).digest('hex')
