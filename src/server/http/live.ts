import type { Express, Response } from 'express'

import type { LiveMessage } from '#shared/contracts/live.contract'
import type { Person } from '#shared/contracts/session.contract'
import { listVisibleLibraryIds } from '../platform/access'
import type { Context } from '../platform/context'
import { listenToNotices } from '../platform/notify'
import { getActor } from './session'

interface Listener {
  res: Response
  actor: Person
  libraries: Set<number>
}

const HEARTBEAT_MS = 20_000

/** Server-sent events: what changed in the libraries that each listener may see. */
export async function mountLive(app: Express, context: Context, databaseUrl: string): Promise<() => Promise<void>> {
  const listeners = new Set<Listener>()
  const send = ({ res }: Listener, message: LiveMessage) => res.write(`data: ${JSON.stringify(message)}\n\n`)
  const stop = await listenToNotices(databaseUrl, message => {
    for (const listener of listeners)
      if (!('libraryId' in message) || listener.libraries.has(message.libraryId)) send(listener, message)
  })
  app.get('/api/live', async (req, res) => {
    const actor = getActor(req)
    const libraries = await listVisibleLibraryIds(context.db, actor)
    res.set({ 'Content-Type': 'text/event-stream', 'Cache-Control': 'no-store', 'X-Accel-Buffering': 'no' })
    res.flushHeaders()
    res.write('retry: 2000\n\n')
    const listener = { res, actor, libraries }
    listeners.add(listener)
    req.on('close', () => listeners.delete(listener))
  })
  // Keeps proxies from closing a quiet line, and takes away what a person may no longer see.
  const beat = setInterval(async () => {
    for (const listener of listeners) {
      listener.res.write(':\n\n')
      const now = await listVisibleLibraryIds(context.db, listener.actor).catch(() => null)
      if (now) listener.libraries = now
    }
  }, HEARTBEAT_MS)
  return async () => {
    clearInterval(beat)
    for (const { res } of listeners) res.end()
    await stop()
  }
}
