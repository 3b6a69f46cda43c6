import { afterEach, describe, expect, it, vi } from 'vitest'
import { ReadTogether } from './read-together'

/** A reader whose readings end when they are told to. */
function slowReader() {
  const readings: { keys: string[]; end: (error?: Error) => void }[] = []
  const reader = new ReadTogether<string, string>(
    keys =>
      new Promise((resolve, reject) => {
        readings.push({
          keys,
          end: error => (error ? reject(error) : resolve(new Map(keys.filter(k => k !== 'none').map(k => [k, `<${k}>`])))),
        })
      }),
  )
  return { reader, readings }
}
afterEach(() => {
  vi.useRealTimers()
})
const soon = () => new Promise(resolve => setImmediate(resolve))

describe('what is read together', () => {
  it('is one reading for all who ask in the same moment, each key once', async () => {
    const { reader, readings } = slowReader()
    const asked = [reader.get('a'), reader.get('b'), reader.get('a'), reader.get('none')]
    await soon()
    expect(readings.map(r => r.keys)).toEqual([['a', 'b', 'none']])
    readings[0].end()
    expect(await Promise.all(asked)).toEqual(['<a>', '<b>', '<a>', undefined])
  })

  it('begins after everybody asked: who comes while one is under way waits for the next', async () => {
    const { reader, readings } = slowReader()
    const first = reader.get('a')
    await soon()
    const later = [reader.get('a'), reader.get('c')]
    await soon()
    expect(readings).toHaveLength(1)
    readings[0].end()
    expect(await first).toBe('<a>')
    await soon()
    expect(readings[1].keys).toEqual(['a', 'c'])
    readings[1].end()
    expect(await Promise.all(later)).toEqual(['<a>', '<c>'])
  })

  it('fails for those who waited for it, and for nobody after them', async () => {
    const { reader, readings } = slowReader()
    const first = reader.get('a')
    await soon()
    const second = reader.get('b')
    readings[0].end(new Error('the line broke'))
    await expect(first).rejects.toThrow('the line broke')
    await soon()
    readings[1].end()
    expect(await second).toBe('<b>')
  })

  it('holds nobody up for long where a reading neither ends nor fails', async () => {
    vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout'] })
    const { reader, readings } = slowReader()
    const stuck = reader.get('a')
    await soon()
    const second = reader.get('b')
    vi.advanceTimersByTime(4900)
    await soon()
    expect(readings).toHaveLength(1)
    vi.advanceTimersByTime(200)
    await soon()
    expect(readings.map(r => r.keys)).toEqual([['a'], ['b']])
    const third = reader.get('c')
    // The one before ends late: that is no reason to begin another beside the one under way.
    readings[0].end()
    expect(await stuck).toBe('<a>')
    await soon()
    expect(readings).toHaveLength(2)
    readings[1].end()
    expect(await second).toBe('<b>')
    await soon()
    readings[2].end()
    expect(await third).toBe('<c>')
  })
})
