import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { FrameCost } from './frame-cost'
import { ResolutionPace } from './resolution-pace'

beforeEach(() => {
  vi.useFakeTimers()
})
afterEach(() => {
  vi.useRealTimers()
})

/** A view of which a frame at full size takes so long; asked to, it draws on at once. */
function stage(fullMs: number, guessMs = 0) {
  const shares: number[] = []
  const asked: string[] = []
  const cost = new FrameCost(guessMs)
  const own = { fullMs, share: cost.share(false), isDrawing: false }
  const pace = new ResolutionPace(
    {
      setShare: share => {
        // The rule of it all.
        expect(own.isDrawing).toBe(false)
        shares.push(share)
        own.share = share
        setTimeout(() => pace.frame(), 1)
      },
      drawAgain: () => {
        asked.push('again')
        setTimeout(() => pace.frame(), 1)
      },
      whenDrawn: tell => {
        own.isDrawing = true
        const ms = own.fullMs * own.share ** 2
        setTimeout(() => {
          own.isDrawing = false
          tell(ms)
        }, ms)
      },
    },
    cost,
  )
  /** Something moves, frame after frame. */
  const move = async (ms: number) => {
    for (let t = 0; t < ms; t += 16) {
      pace.frame()
      await vi.advanceTimersByTimeAsync(16)
    }
  }
  return { pace, shares, asked, own, move, rest: (ms: number) => vi.advanceTimersByTimeAsync(ms) }
}

describe('the size that a live view is drawn in', () => {
  it('stays whole on a card that is quick, moved or not', async () => {
    const { shares, asked, move, rest } = stage(4)
    await move(800)
    await rest(10_000)
    expect(shares).toEqual([])
    expect(asked).toEqual([])
  })

  it('is coarser while something moves and whole again when it rests, and changes only between frames', async () => {
    const { shares, move, rest, own } = stage(400)
    await move(2000)
    expect(own.share).toBe(0.5)
    await rest(1000)
    expect(own.share).toBe(1)
    expect(shares).toEqual([0.75, 0.5, 1])
  })

  it('believes no single frame that is far too slow: it is measured once more, and nothing has moved for that', async () => {
    const { pace, shares, asked, own, rest } = stage(50)
    pace.frame()
    await rest(1000)
    own.fullMs = 4000
    pace.frame()
    own.fullMs = 50
    await rest(6000)
    expect(asked).toEqual(['again'])
    expect(shares).toEqual([])
  })

  it('is looked at again a few times where it rests coarsely, and is finer when the machine has its hands free', async () => {
    const { pace, asked, own, rest } = stage(8000, 8000)
    expect(own.share).toBe(0.25)
    pace.frame()
    await rest(60_000)
    expect(own.share).toBe(0.25)
    expect(asked).toEqual(['again', 'again'])
    own.fullMs = 100
    pace.frame()
    await rest(1000)
    expect(own.share).toBe(1)
  })

  it('does nothing more once it is stopped', async () => {
    const { pace, shares, asked, rest } = stage(8000, 8000)
    pace.frame()
    await rest(600)
    pace.stop()
    const before = asked.length
    await rest(60_000)
    expect(asked.length).toBe(before)
    expect(shares).toEqual([])
  })
})
