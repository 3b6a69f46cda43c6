import type { Express, Response } from 'express'
import { groupBy } from '#core/group-by'
import type { LiveMessage } from '#shared/contracts/live.contract'
import type { Person } from '#shared/contracts/session.contract'
import { isGuest, listSeen, type Seen } from '../platform/access'
import type { Context } from '../platform/context'
import { listenToNotices } from '../platform/notify'
import { getAnybody } from './session'
import { listOpenSessions } from './session-store'

interface Listener {
  res: Response
  actor: Person
  sessionId: string
  sees: Seen
}

const hears = ({ actor, sees }: Listener, message: LiveMessage): boolean => {
  if (message.topic === 'anything') return true
  if (message.topic === 'desk') return message.personId === actor.id
  if (isGuest(actor)) return message.topic === 'project' && sees.projects.has(message.projectId)
  return !('libraryId' in message) || sees.libraries.has(message.libraryId)
}

const HEARTBEAT_MS = 20_000

/** Server-sent events: what changed in the libraries that each listener may see. A browser has one line, whatever pages it shows. */
export async function mountLive(app: Express, context: Context, databaseUrl: string): Promise<() => Promise<void>> {
  const { db, pool } = context
  const listeners = new Set<Listener>()
  const send = ({ res }: Listener, message: LiveMessage) => res.write(`data: ${JSON.stringify(message)}\n\n`)
  const stop = await listenToNotices(databaseUrl, message => {
    for (const listener of listeners) if (hears(listener, message)) send(listener, message)
  })
  app.get('/api/live', async (req, res) => {
    const actor = getAnybody(req)
    const sees = await listSeen(db, actor)
    res.set({ 'Content-Type': 'text/event-stream', 'Cache-Control': 'no-store', 'X-Accel-Buffering': 'no' })
    res.flushHeaders()
    res.write('retry: 2000\n\n')
    const listener = { res, actor, sessionId: req.sessionID, sees }
    listeners.add(listener)
    req.on('close', () => listeners.delete(listener))
  })
  /** Takes away what a person may no longer see, asked once for each person, and ends the lines of sessions that have ended. */
  const checkAccess = async () => {
    if (listeners.size === 0) return
    const open = await listOpenSessions(
      pool,
      [...listeners].map(l => l.sessionId),
    )
    for (const listener of listeners) if (!open.has(listener.sessionId)) listener.res.end()
    for (const lines of groupBy([...listeners], l => l.actor.id).values()) {
      const sees = await listSeen(db, lines[0].actor)
      for (const line of lines) line.sees = sees
    }
  }
  const beat = setInterval(() => {
    // Keeps proxies from closing a quiet line.
    for (const { res } of listeners) res.write(':\n\n')
    checkAccess().catch(() => {})
  }, HEARTBEAT_MS)
  return async () => {
    clearInterval(beat)
    for (const { res } of listeners) res.end()
    await stop()
  }
}
