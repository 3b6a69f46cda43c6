import { describe, expect, it, vi } from 'vitest'
import type { Hear, LineNews } from './event-line'
import { LiveHub } from './live-hub'

/** A hub whose lines are held by the test. */
function start() {
  const lines: { hear: Hear; close: ReturnType<typeof vi.fn> }[] = []
  const hub = new LiveHub(hear => {
    const close = vi.fn()
    lines.push({ hear, close })
    return close
  })
  const page = () => {
    const heard: LineNews[] = []
    const hear: Hear = news => void heard.push(news)
    return { hear, heard }
  }
  return { hub, lines, page }
}
const TOLD: LineNews = { type: 'told', data: '{}' }

describe('the line of a browser', () => {
  it('is one for all its pages, and closed with the last', () => {
    const { hub, lines, page } = start()
    const pages = Array.from({ length: 12 }, page)
    for (const { hear } of pages) hub.join(hear, 1)
    expect(lines).toHaveLength(1)
    lines[0].hear(TOLD)
    expect(pages.every(p => p.heard.at(-1) === TOLD)).toBe(true)
    for (const { hear } of pages.slice(1)) hub.leave(hear)
    expect(lines[0].close).not.toHaveBeenCalled()
    lines[0].hear(TOLD)
    expect(pages[0].heard.filter(n => n === TOLD)).toHaveLength(2)
    expect(pages[1].heard.filter(n => n === TOLD)).toHaveLength(1)
    hub.leave(pages[0].hear)
    expect(lines[0].close).toHaveBeenCalledOnce()
  })

  it('tells a page that joins later how it stands', () => {
    const { hub, lines, page } = start()
    const [first, later] = [page(), page()]
    hub.join(first.hear, 1)
    lines[0].hear({ type: 'state', connected: true })
    hub.join(later.hear, 1)
    expect(later.heard).toEqual([{ type: 'state', connected: true }])
  })

  it('is another for another person, and tells nothing to pages of the one before', () => {
    const { hub, lines, page } = start()
    const [ines, noor] = [page(), page()]
    hub.join(ines.hear, 1)
    hub.join(noor.hear, 2)
    expect(lines[0].close).toHaveBeenCalledOnce()
    lines[1].hear(TOLD)
    expect(ines.heard).not.toContain(TOLD)
    expect(noor.heard).toContain(TOLD)
    hub.join(ines.hear, 2)
    expect(lines).toHaveLength(2)
    lines[1].hear(TOLD)
    expect(ines.heard).toContain(TOLD)
  })
})
