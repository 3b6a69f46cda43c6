import { type LineNews, openEventLine } from './event-line'
import { LiveHub } from './live-hub'

/** What a page says to the worker that holds the line. */
export type PageSays = { type: 'join'; person: number } | { type: 'leave' }

/** A shared worker: all pages of a browser have the same one, and it ends with the last of them. */
const hub = new LiveHub(openEventLine)

addEventListener('connect', event => {
  const [port] = (event as MessageEvent).ports
  const hear = (news: LineNews) => port.postMessage(news)
  port.onmessage = ({ data }: MessageEvent<PageSays>) => {
    if (data.type === 'join') hub.join(hear, data.person)
    else hub.leave(hear)
  }
})
