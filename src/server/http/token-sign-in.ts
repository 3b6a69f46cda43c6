import type { Request, RequestHandler } from 'express'
import type pg from 'pg'
import type { TokenScope } from '#shared/contracts/people.contract'
import type { Person } from '#shared/contracts/session.contract'
import { ProblemError } from '../platform/problem'
import { hashSecret } from '../platform/secret'
import { prepare } from '../platform/statement'

interface TokenRow {
  id: number
  scope: TokenScope
  person: Person
  isStale: boolean
}

const selectToken = prepare<TokenRow, [string]>(
  'token',
  `select t.id, t.scope, json_build_object('id', p.id, 'name', p.name, 'email', p.email, 'role', p.role) as person,
     t.last_used_at is null or t.last_used_at < now() - interval '1 minute' as "isStale"
   from api_tokens t join people p on p.id = t.person_id
   where t.token_hash = $1 and t.revoked_at is null and p.deactivated_at is null`,
)

/** What each scope opens beyond reading. */
const BRINGS = /^\/api\/(batches|uploads)(\/|$)/

const isWithin = (scope: TokenScope, { method, originalUrl }: Request): boolean =>
  scope === 'all' || method === 'GET' || method === 'HEAD' || (scope === 'bring' && BRINGS.test(originalUrl.split('?')[0]))

/** Beside the session, not in it: nothing of a token's requests is kept as a session. */
const tokenPeople = new WeakMap<Request, Person>()

export const findTokenPerson = (req: Request): Person | undefined => tokenPeople.get(req)

/** Whoever comes with a token in the place of a session is its person, as far as its scope goes. */
export const signInByToken =
  (pool: pg.Pool): RequestHandler =>
  async (req, _res, next) => {
    const [, token] = /^Bearer (\S+)$/.exec(req.headers.authorization ?? '') ?? []
    if (!token) return next()
    const [found] = await selectToken(pool, hashSecret(token))
    if (!found) throw new ProblemError('notSignedIn', 'This token works no more; make a new one at People.')
    if (!isWithin(found.scope, req))
      throw new ProblemError('notAllowed', 'This token may not do that; make one with a wider scope at People.')
    // To the minute is enough, and writes little.
    if (found.isStale) await pool.query('update api_tokens set last_used_at = now() where id = $1', [found.id])
    tokenPeople.set(req, found.person)
    next()
  }
