import {
  applyChange,
  type Change,
  isNoChange,
  joinChanges,
  listOvertaken,
  mendReferences,
  type Touched,
} from '#core/mock-up/scene/change'
import { act, beginHistory, type History, redo, undo } from '#core/mock-up/scene/history'
import type { Scene } from '#core/mock-up/scene/scene'
import type { MockUpChange } from '#shared/contracts/mock-ups.contract'

export type SavedState = 'saved' | 'saving' | 'offline'

export interface MockUpView {
  scene: Scene
  canUndo: boolean
  canRedo: boolean
  saved: SavedState
}

export type Answer =
  | { kind: 'done'; revision: number; changes: MockUpChange[] | null }
  | { kind: 'refused'; message: string }
  /** Nobody answered: it is tried again. */
  | { kind: 'away' }

export interface SessionLine {
  /** Sends a change that was made on top of a revision. */
  send: (base: number, change: Change) => Promise<Answer>
  /** Reads what was done since a revision. */
  read: (since: number) => Promise<Answer>
  /** Reads the whole anew. */
  reload: () => Promise<{ revision: number; scene: Scene } | null>
}

export interface SessionEvents {
  onView: (view: MockUpView) => void
  /** Somebody set otherwise what was set here a moment ago. */
  onOvertaken: (person: string, what: Touched[]) => void
  /** A change was not taken; the scene is as it was before. */
  onRefused: (message: string) => void
}

/** Changes are gathered for so long before they are sent. */
const GATHER_MS = 250
const AGAIN_MS = 2500
/** What was set longer ago than that nobody needs to be told of. */
const RECENT_MS = 120_000

/**
 * A mock-up on a page: what is done shows at once, is sent when it rests, and what others do comes in between. The scene shown is what the
 * server has, and on top of it what it has not yet.
 */
export class MockUpSession {
  private confirmed: Scene
  private history: History
  private inFlight: Change | null = null
  private waiting: Change | null = null
  private recent: { at: number; change: Change }[] = []
  private timer: ReturnType<typeof setTimeout> | null = null
  private saved: SavedState = 'saved'
  private isClosed = false

  constructor(
    scene: Scene,
    private revision: number,
    /** Of this page: its own changes come back under it. */
    private readonly page: string,
    private readonly line: SessionLine,
    private readonly events: SessionEvents,
  ) {
    this.confirmed = scene
    this.history = beginHistory(scene)
  }

  get view(): MockUpView {
    const { scene, past, future } = this.history
    return { scene, canUndo: past.length > 0, canRedo: future.length > 0, saved: this.saved }
  }

  /** @param gesture what belongs together is taken back together */
  act(change: Change, gesture: string | null = null): void {
    if (isNoChange(change)) return
    const before = this.history.scene
    this.history = act(this.history, change, gesture)
    this.enqueue(joinChanges(change, mendReferences(applyChange(before, change).scene)))
  }

  undo(): void {
    const last = this.history.past.at(-1)
    if (!last) return
    this.history = undo(this.history)
    this.enqueue(last.change)
  }

  redo(): void {
    const next = this.history.future.at(-1)
    if (!next) return
    this.history = redo(this.history)
    this.enqueue(next.change)
  }

  /** Somebody said that it is at another revision. */
  async catchUp(revision: number): Promise<void> {
    if (revision <= this.revision || this.inFlight) return
    const answer = await this.line.read(this.revision)
    if (answer.kind === 'done' && !this.inFlight) await this.takeAnswer(answer)
  }

  /** Sends what waits without gathering more. */
  async flush(): Promise<void> {
    if (this.timer) clearTimeout(this.timer)
    this.timer = null
    if (this.inFlight || !this.waiting || this.isClosed) return
    this.inFlight = this.waiting
    this.waiting = null
    this.tell('saving')
    const answer = await this.line.send(this.revision, this.inFlight)
    if (answer.kind === 'away') {
      this.waiting = this.waiting ? joinChanges(this.inFlight, this.waiting) : this.inFlight
      this.inFlight = null
      this.tell('offline')
      this.schedule(AGAIN_MS)
      return
    }
    this.inFlight = null
    if (answer.kind === 'refused') {
      this.waiting = null
      this.history = beginHistory(this.confirmed)
      this.events.onRefused(answer.message)
      this.tell('saved')
      return
    }
    await this.takeAnswer(answer)
    this.tell(this.waiting ? 'saving' : 'saved')
    if (this.waiting) this.schedule(GATHER_MS)
  }

  /** Takes in what the server said that was done, with one's own in its place among it. */
  async takeAnswer({ revision, changes }: Extract<Answer, { kind: 'done' }>): Promise<void> {
    if (changes === null) {
      const whole = await this.line.reload()
      if (whole) {
        this.confirmed = whole.scene
        this.revision = whole.revision
      }
    } else {
      for (const done of changes) {
        if (done.revision <= this.revision) continue
        this.confirmed = applyChange(this.confirmed, done.change).scene
        if (done.page !== this.page) this.tellOvertaken(done)
      }
      this.revision = Math.max(this.revision, revision)
    }
    const own = [this.inFlight, this.waiting].filter(c => c !== null)
    const scene = own.reduce<Scene>((s, change) => applyChange(s, change).scene, this.confirmed)
    this.history = { ...this.history, scene }
    this.tell(this.saved)
  }

  close(): void {
    void this.flush()
    this.isClosed = true
    if (this.timer) clearTimeout(this.timer)
  }

  private enqueue(change: Change): void {
    this.waiting = this.waiting ? joinChanges(this.waiting, change) : change
    this.recent = [...this.recent.filter(r => Date.now() - r.at < RECENT_MS), { at: Date.now(), change }]
    this.tell('saving')
    if (!this.inFlight) this.schedule(GATHER_MS)
  }

  private schedule(ms: number): void {
    if (this.timer) clearTimeout(this.timer)
    this.timer = setTimeout(() => void this.flush(), ms)
  }

  private tellOvertaken({ person, change }: MockUpChange): void {
    const since = Date.now() - RECENT_MS
    const mine = this.recent.filter(r => r.at > since)
    const touched = mine.flatMap(r => listOvertaken(r.change, change))
    if (touched.length > 0) this.events.onOvertaken(person, touched)
    this.recent = mine.filter(r => listOvertaken(r.change, change).length === 0)
  }

  private tell(saved: SavedState): void {
    this.saved = saved
    if (!this.isClosed) this.events.onView(this.view)
  }
}
