import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { applyChange, type Change } from '#core/mock-up/scene/change'
import { place } from '#core/mock-up/scene/pieces'
import { EMPTY_SCENE, type Scene } from '#core/mock-up/scene/scene'
import type { MockUpChange } from '#shared/contracts/mock-ups.contract'
import { type Answer, MockUpSession, type MockUpView } from './mock-up-session'

const ITEM = { code: 'SOF-0001', version: 1, inputKey: 'a'.repeat(64) }
const at = (id: string, x: number): Change => place(id, ITEM, { name: id, at: [x, 0, 0] })

/** A server that keeps one scene, for any number of pages. */
class Server {
  scene: Scene = EMPTY_SCENE
  done: MockUpChange[] = []
  isAway = false
  refuses: string | null = null

  take(page: string, change: Change): void {
    this.scene = applyChange(this.scene, change).scene
    this.done.push({ revision: this.done.length + 1, person: page, page, change } as MockUpChange)
  }
  since = (revision: number): Answer =>
    this.isAway ? { kind: 'away' } : { kind: 'done', revision: this.done.length, changes: this.done.slice(revision) }
  send(page: string, base: number, change: Change): Answer {
    if (this.isAway) return { kind: 'away' }
    if (this.refuses) return { kind: 'refused', message: this.refuses }
    this.take(page, change)
    return this.since(base)
  }
}

let server: Server
function open(page: string) {
  const heard = { overtaken: [] as string[], refused: [] as string[], view: null as MockUpView | null }
  const session = new MockUpSession(
    server.scene,
    server.done.length,
    page,
    {
      send: async (base, change) => server.send(page, base, change),
      read: async since => server.since(since),
      reload: async () => ({ revision: server.done.length, scene: server.scene }),
    },
    {
      onView: view => {
        heard.view = view
      },
      onOvertaken: (person, what) => heard.overtaken.push(`${person} ${what.map(w => w.id).join()}`),
      onRefused: message => heard.refused.push(message),
    },
  )
  return { session, heard }
}
const settle = () => vi.advanceTimersByTimeAsync(400)

beforeEach(() => {
  vi.useFakeTimers()
  server = new Server()
})
afterEach(() => vi.useRealTimers())

describe('a mock-up on a page', () => {
  it('shows at once what is done, sends what rests as one, and says that it is saved', async () => {
    const { session, heard } = open('one')
    session.act(at('a', 1))
    session.act(at('a', 2), 'drag')
    session.act(at('a', 3), 'drag')
    expect(session.view).toMatchObject({ saved: 'saving', canUndo: true })
    expect(session.view.scene.pieces.a.position[0]).toBe(3)
    await settle()
    expect(server.done).toHaveLength(1)
    expect(server.scene).toEqual(session.view.scene)
    expect(heard.view?.saved).toBe('saved')
    session.undo()
    expect(session.view.scene.pieces.a.position[0]).toBe(1)
    session.redo()
    session.undo()
    session.undo()
    await settle()
    expect(server.scene).toEqual(EMPTY_SCENE)
    expect(session.view.canUndo).toBe(false)
  })

  it('takes in what others do meanwhile; of the same thing the later stands, and who was earlier is told', async () => {
    const [one, two] = [open('one'), open('two')]
    one.session.act(at('a', 1))
    await settle()
    two.session.act(at('b', 5))
    await settle()
    await one.session.catchUp(server.done.length)
    expect(Object.keys(one.session.view.scene.pieces)).toEqual(['a', 'b'])
    expect(two.session.view.scene).toEqual(server.scene)
    expect(one.heard.overtaken).toEqual([])
    two.session.act(at('a', 9))
    await settle()
    await one.session.catchUp(server.done.length)
    expect(one.session.view.scene.pieces.a.position[0]).toBe(9)
    expect(one.heard.overtaken).toEqual(['two a'])
    expect(two.heard.overtaken).toEqual([])
    // Their change is not mine to take back.
    one.session.undo()
    expect(Object.keys(one.session.view.scene.pieces)).toEqual(['b'])
  })

  it('keeps what is not sent yet over what comes in', async () => {
    const [one, two] = [open('one'), open('two')]
    two.session.act(at('b', 5))
    await settle()
    one.session.act(at('a', 1))
    await one.session.catchUp(server.done.length)
    expect(Object.keys(one.session.view.scene.pieces)).toEqual(['a', 'b'])
    await settle()
    expect(Object.keys(server.scene.pieces)).toEqual(['a', 'b'])
  })

  it('tries again while nobody answers, and loses nothing', async () => {
    const { session } = open('one')
    server.isAway = true
    session.act(at('a', 1))
    await settle()
    expect(session.view.saved).toBe('offline')
    session.act(at('b', 2))
    server.isAway = false
    await vi.advanceTimersByTimeAsync(3000)
    expect(Object.keys(server.scene.pieces)).toEqual(['a', 'b'])
    expect(session.view.saved).toBe('saved')
  })

  it('goes back to what was saved when a change is refused, and says why', async () => {
    const { session, heard } = open('one')
    session.act(at('a', 1))
    await settle()
    server.refuses = 'Not yours to see.'
    session.act(at('b', 2))
    await settle()
    expect(heard.refused).toEqual(['Not yours to see.'])
    expect(session.view.scene).toEqual(server.scene)
    expect(Object.keys(session.view.scene.pieces)).toEqual(['a'])
  })

  it('reads the whole anew when too much was done', async () => {
    const { session } = open('one')
    for (let k = 0; k < 5; k++) server.take('two', at(`p${k}`, k))
    await session.takeAnswer({ kind: 'done', revision: 5, changes: null })
    expect(session.view.scene).toEqual(server.scene)
  })
})
