import type { Hear, LineNews } from './event-line'

/**
 * One line to the server for all pages of a browser: open while somebody listens, closed when the last has gone. A line belongs to a
 * session; where a page joins for another person, the old line is closed, and its pages hear nothing until they join for that person too.
 */
export class LiveHub {
  private readonly members = new Map<Hear, number>()
  private close: (() => void) | null = null
  private person: number | null = null
  private connected = false

  constructor(private readonly openLine: (hear: Hear) => () => void) {}

  join(hear: Hear, person: number): void {
    this.members.set(hear, person)
    if (this.close && this.person === person) {
      hear({ type: 'state', connected: this.connected })
      return
    }
    this.hangUp()
    this.person = person
    this.close = this.openLine(news => this.pass(news))
  }

  leave(hear: Hear): void {
    this.members.delete(hear)
    if (this.members.size === 0) this.hangUp()
  }

  private pass(news: LineNews): void {
    if (news.type === 'state') this.connected = news.connected
    for (const [hear, person] of this.members) if (person === this.person) hear(news)
  }

  private hangUp(): void {
    this.close?.()
    this.close = null
    this.connected = false
  }
}
