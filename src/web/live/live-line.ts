import { type Hear, type LineNews, openEventLine } from './event-line'
import type { PageSays } from './live.worker'
import { LiveHub } from './live-hub'

/**
 * Joins the one line that all pages of a browser share: over HTTP/1.1 a browser gives an address six connections, and a line of its own
 * for each page would leave none for anything else. It is held by a shared worker; where the browser has none, by one of the pages. A page
 * that is put away, as one is for the Back button, is off the line, and on it again when it comes back.
 * @returns how to leave it
 */
export function joinLine(person: number, hear: Hear): () => void {
  const join = 'SharedWorker' in globalThis ? joinWorker : 'locks' in navigator ? joinLeader : joinAlone
  let leave = join(person, hear)
  const onHide = () => leave()
  const onShow = ({ persisted }: PageTransitionEvent) => {
    if (!persisted) return
    leave = join(person, hear)
    hear({ type: 'missed' })
  }
  addEventListener('pagehide', onHide)
  addEventListener('pageshow', onShow)
  return () => {
    removeEventListener('pagehide', onHide)
    removeEventListener('pageshow', onShow)
    leave()
  }
}

function joinWorker(person: number, hear: Hear): () => void {
  const worker = new SharedWorker(new URL('./live.worker.ts', import.meta.url), { type: 'module', name: 'live line' })
  const say = (words: PageSays) => worker.port.postMessage(words)
  worker.port.onmessage = ({ data }: MessageEvent<LineNews>) => hear(data)
  say({ type: 'join', person })
  return () => {
    say({ type: 'leave' })
    worker.port.onmessage = null
  }
}

const CHANNEL = 'muscovite live line'

/** The page that has the lock leads: it holds the line and passes on what it hears. When it goes, another gets the lock. */
function joinLeader(person: number, hear: Hear): () => void {
  const channel = new BroadcastChannel(`${CHANNEL} ${person}`)
  const waiting = new AbortController()
  let stopLeading: (() => void) | null = null
  let state: LineNews = { type: 'state', connected: false }
  let hadLeader = false
  const tellAll = (news: LineNews) => {
    hear(news)
    channel.postMessage(news)
  }
  const lead = () =>
    new Promise<void>(resolve => {
      const close = openEventLine(news => {
        tellAll(news)
        if (news.type !== 'state') return
        state = news
        // Between the one before and this one nobody heard anything.
        if (hadLeader && news.connected) tellAll({ type: 'missed' })
        if (news.connected) hadLeader = false
      })
      stopLeading = () => {
        close()
        channel.postMessage({ type: 'state', connected: false } satisfies LineNews)
        resolve()
      }
    })
  channel.onmessage = ({ data }: MessageEvent<LineNews | { type: 'whatState' }>) => {
    if (data.type === 'whatState') {
      if (stopLeading) channel.postMessage(state)
      return
    }
    hadLeader = true
    hear(data)
  }
  channel.postMessage({ type: 'whatState' })
  // Its name has the person in it: a line belongs to a session.
  navigator.locks.request(`${CHANNEL} ${person}`, { signal: waiting.signal }, lead).catch(() => {})
  return () => {
    waiting.abort()
    stopLeading?.()
    stopLeading = null
    channel.close()
  }
}

function joinAlone(person: number, hear: Hear): () => void {
  const hub = new LiveHub(openEventLine)
  hub.join(hear, person)
  return () => hub.leave(hear)
}
