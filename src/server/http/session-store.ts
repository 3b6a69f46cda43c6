import { type SessionData, Store } from 'express-session'
import type pg from 'pg'
import type { Person } from '#shared/contracts/session.contract'
import { ReadTogether } from '../platform/read-together'
import { prepare } from '../platform/statement'

const PRUNE_EVERY_MS = 3600 * 1000

interface SessionRow {
  sid: string
  data: SessionData
  person: Person | null
  snapshot: string
}

const selectSessions = prepare<SessionRow, [string[]]>(
  'sessions',
  `select s.sid, s.sess as data, case when p.id is null then null else json_build_object('id', p.id, 'name', p.name, 'email', p.email, 'role', p.role) end as person,
     pg_current_snapshot()::text as snapshot
   from sessions s left join people p on p.id = (s.sess ->> 'personId')::int and p.deactivated_at is null
   where s.sid = any($1) and s.expire > now()`,
)

/** Of these sessions, those that have not ended. */
export async function listOpenSessions(pool: pg.Pool, sids: readonly string[]): Promise<Set<string>> {
  const { rows } = await pool.query<{ sid: string }>('select sid from sessions where sid = any($1) and expire > now()', [sids])
  return new Set(rows.map(r => r.sid))
}

/**
 * Sessions in the database, so that they outlast a restart and are shared by all server processes. A session comes with the person whose
 * it is, as that person is now: who asks is known after one statement, which is one for all who ask at the same time.
 */
export class SessionStore extends Store {
  private readonly pruning: NodeJS.Timeout
  private readonly sessions = new ReadTogether<string, SessionRow>(
    async sids => new Map((await selectSessions(this.pool, sids)).map(row => [row.sid, row])),
  )

  constructor(private readonly pool: pg.Pool) {
    super()
    this.pruning = setInterval(() => {
      pool.query('delete from sessions where expire < now()').catch(() => {})
    }, PRUNE_EVERY_MS)
    this.pruning.unref()
  }

  override get(sid: string, done: (error: unknown, data?: SessionData | null) => void): void {
    this.sessions.get(sid).then(
      // Requests of one session at a time change what they have of it, each for itself.
      row => done(null, row ? { ...structuredClone(row.data), person: row.person, snapshot: row.snapshot } : null),
      error => done(error),
    )
  }

  override set(
    sid: string,
    { person: _person, snapshot: _snapshot, ...data }: SessionData,
    done?: (error?: unknown) => void,
  ): void {
    const expires = data.cookie.expires ?? new Date(Date.now() + (data.cookie.maxAge ?? 0))
    this.pool
      .query({
        name: 'session-set',
        text: `insert into sessions (sid, sess, expire) values ($1, $2, $3)
               on conflict (sid) do update set sess = excluded.sess, expire = excluded.expire`,
        values: [sid, data, expires],
      })
      .then(
        () => done?.(),
        error => done?.(error),
      )
  }

  override destroy(sid: string, done?: (error?: unknown) => void): void {
    this.pool.query('delete from sessions where sid = $1', [sid]).then(
      () => done?.(),
      error => done?.(error),
    )
  }
}
