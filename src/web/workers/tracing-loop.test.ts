import { beforeAll, describe, expect, it } from 'vitest'
import { createBox, createSphere } from '#core/geometry/shapes'
import { createMaterial } from '#core/material/open-pbr'
import { createCamera } from '#core/render/film/camera'
import { developForDisplay } from '#core/render/film/develop'
import type { Tile } from '#core/render/film/tile'
import { Rendering, type RenderSettings, render } from '#core/render/integrator/render'
import { createExposedLight, createHouseLightMap } from '#core/render/lights/house-light'
import { createScene } from '#core/render/scene/scene'
import { TracingLoop, type TracingNews } from './tracing-loop'

const camera = createCamera([0.6, 0.9, 2.4], [0, 0.35, 0], 45, 1)
const light = createExposedLight(createHouseLightMap(64), 0)
const settings: RenderSettings = {
  width: 64,
  height: 64,
  seed: 3,
  noiseTarget: 0.03,
  maxSamples: 32,
  denoised: true,
  background: null,
  firstGoal: 2,
}
const material = createMaterial('clay', { baseColor: [0.6, 0.4, 0.3] })
const scene = () =>
  createScene([
    { mesh: createSphere(0.4, [0, 0.4, 0], 20), material, images: [] },
    { mesh: createBox(4, 0.02, 4), material: createMaterial('floor'), images: [] },
  ])
const part = (index: number, count: number) => new Rendering(scene(), light, camera, settings, { index, count })

/** Loops that trace parts of a picture, and who joins them as the page does. */
class Desk {
  readonly news: { from: number; news: TracingNews }[] = []
  readonly loops: TracingLoop[]
  private heard: () => void = () => {}

  constructor(count: number) {
    this.loops = Array.from({ length: count }, (_, from) => new TracingLoop(news => this.hear(from, news)))
  }
  private hear(from: number, news: TracingNews): void {
    this.news.push({ from, news })
    const { run } = news
    if (news.kind === 'toFit') this.loops[news.worker].hear({ kind: 'fit', run, number: news.number, task: news.task })
    if (news.kind === 'fitted') this.loops[0].hear({ kind: 'fitted', run, number: news.number, rows: news.rows })
    this.heard()
  }
  of<K extends TracingNews['kind']>(kind: K) {
    return this.news.flatMap(n => (n.news.kind === kind ? [{ ...n, news: n.news as Extract<TracingNews, { kind: K }> }] : []))
  }
  async until(isThere: () => boolean): Promise<void> {
    while (!isThere()) await new Promise<void>(resolve => (this.heard = resolve))
  }
  /** Round by round, until the judge has nothing to ask for any more. */
  async finish(run: number) {
    const tilesOfAll = (rounds: { news: { tiles: Tile[] } }[]) =>
      rounds.flatMap(r => r.news.tiles).sort((a, b) => a.y0 - b.y0 || a.x0 - b.x0)
    for (let seen = 0; ; seen += this.loops.length) {
      await this.until(() => this.of('round').length === seen + this.loops.length)
      const tiles = tilesOfAll(this.of('round').slice(seen))
      const judged = this.of('judged').length
      this.loops[0].hear({ kind: 'judge', run, tiles, settings, workers: this.loops.length })
      await this.until(() => this.of('judged').length > judged)
      const { news } = this.of('judged').at(-1)!
      if (news.verdicts.every(v => v.done)) return news
      for (const loop of this.loops) loop.hear({ kind: 'goOn', run, verdicts: news.verdicts })
    }
  }
}

describe('a picture that several workers trace', () => {
  let alone: Uint8Array
  beforeAll(() => {
    alone = developForDisplay(render(scene(), light, camera, settings)!.image).data
  })

  it.each([1, 2, 3])('is to the byte as one alone would make it, of %d', async count => {
    const desk = new Desk(count)
    for (const [index, loop] of desk.loops.entries()) loop.begin(7, part(index, count))
    const judged = await desk.finish(7)
    expect([judged.run, judged.width, judged.height]).toEqual([7, 64, 64])
    expect(judged.data).toEqual(alone)
    expect(judged.samples / 64 ** 2).toBeLessThanOrEqual(32)
    // Each of the others has filtered a part of every judgement.
    for (let from = 1; from < count; from++)
      expect(desk.of('fitted').filter(n => n.from === from).length).toBeGreaterThanOrEqual(desk.of('judged').length)
  })

  it('ends a judgement when another picture is begun, and what comes late of it is left', async () => {
    const desk = new Desk(2)
    for (const [index, loop] of desk.loops.entries()) loop.begin(1, part(index, 2))
    await desk.until(() => desk.of('round').length === 2)
    const tiles = desk.of('round').flatMap(r => r.news.tiles)
    desk.loops[0].hear({ kind: 'judge', run: 1, tiles, settings, workers: 2 })
    const late = desk.of('fitted')[0].news
    desk.loops[0].begin(2, part(0, 2))
    desk.loops[0].hear({ kind: 'fitted', run: 1, number: late.number, rows: late.rows })
    await new Promise(resolve => setTimeout(resolve, 60))
    expect(desk.of('judged')).toHaveLength(0)
  })

  it('has a first look at once, before anything is traced to its goal, and one more', async () => {
    const desk = new Desk(1)
    desk.loops[0].begin(1, part(0, 1))
    const [first] = desk.of('part')
    const covered = first.news.tiles.reduce((sum, t) => sum + t.width * t.height, 0)
    expect(covered).toBe(64 * 64)
    expect(first.news.tiles.some(t => t.data.some(v => v > 0))).toBe(true)
    await desk.until(() => desk.of('round').length === 1)
    expect(desk.of('part').length).toBeLessThanOrEqual(2)
  })

  it('ends when another is begun or it is stopped, and what is said of the one before is not heard', async () => {
    const desk = new Desk(1)
    const [loop] = desk.loops
    loop.begin(1, part(0, 1))
    loop.begin(2, part(0, 1))
    await desk.until(() => desk.of('round').length === 1)
    expect(desk.of('round').map(r => r.news.run)).toEqual([2])
    loop.hear({ kind: 'goOn', run: 1, verdicts: [] })
    loop.hear({ kind: 'stop' })
    loop.hear({ kind: 'goOn', run: 2, verdicts: [] })
    const before = desk.news.length
    await new Promise(resolve => setTimeout(resolve, 60))
    expect(desk.news).toHaveLength(before)
  })
})
