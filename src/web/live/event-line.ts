/** What comes along the line to the server, and about it. */
export type LineNews =
  /** Whether the server can be heard. */
  | { type: 'state'; connected: boolean }
  /** One live message, as JSON. */
  | { type: 'told'; data: string }
  /** Some of what was told may not have been heard: whatever is shown may be old. */
  | { type: 'missed' }

export type Hear = (news: LineNews) => void

/** A browser gives a stream up for good when the answer was no stream at all, such as a proxy's while the server starts. */
const OPEN_AGAIN_MS = 3000

/** Opens the stream of server-sent events, and again whenever it ends; returns how to close it. */
export function openEventLine(hear: Hear): () => void {
  let source: EventSource
  let timer: ReturnType<typeof setTimeout> | undefined
  let wasBroken = false
  const open = () => {
    source = new EventSource('/api/live')
    source.onopen = () => {
      hear({ type: 'state', connected: true })
      if (wasBroken) hear({ type: 'missed' })
      wasBroken = false
    }
    source.onerror = () => {
      wasBroken = true
      hear({ type: 'state', connected: false })
      if (source.readyState === EventSource.CLOSED) timer = setTimeout(open, OPEN_AGAIN_MS)
    }
    source.onmessage = ({ data }) => hear({ type: 'told', data })
  }
  open()
  return () => {
    clearTimeout(timer)
    source.close()
  }
}
