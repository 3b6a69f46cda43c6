import { describe, expect, it } from 'vitest'
import { shotSchema, skySchema } from '../mock-up/scene/scene'
import { compareLights, type LightPrint } from './compare-lights'
import { compareViews, focalOf, noteOfShot, readViewNote, type ViewPrint } from './compare-views'

const sky = skySchema.parse({ item: { code: 'SKY-0001', version: 2, inputKey: 'a'.repeat(64) }, name: 'Harbour' })
const shot = shotSchema.parse({
  name: 'Front',
  place: 0,
  position: [0, 1.6, 4],
  target: [0, 1.6, 0],
  focalMm: 35,
  aspect: 1.5,
  sky: 'a',
})
const view = (change: Partial<ViewPrint> = {}): ViewPrint => ({
  ...{ name: 'Front', focalMm: 35, position: [0, 1.6, 4], direction: [0, 0, -1], note: noteOfShot(shot, { a: sky }) },
  ...change,
})

describe('a view of two scenes', () => {
  it('notes what no camera holds, and is read again; what is none is not', () => {
    const note = noteOfShot({ ...shot, ev: 0.5, isUpright: true }, { a: { ...sky, turnDeg: 40, ev: -1 } })
    expect(readViewNote(JSON.parse(JSON.stringify(note)))).toEqual(note)
    expect(note).toMatchObject({ exposureEv: 0.5, isUpright: true, sky: { code: 'SKY-0001', version: 2, turnDeg: 40, ev: -1 } })
    expect(noteOfShot({ ...shot, sky: null }, {}).sky).toBeNull()
    expect(readViewNote({ exposureEv: 'bright' })).toBeNull()
    expect(readViewNote(undefined)).toBeNull()
  })

  it('is the same where nothing that is seen differs', () => {
    expect(compareViews(view(), view())).toEqual([])
    expect(compareViews(view({ position: [0.004, 1.6, 4] }), view({ focalMm: 35.2 }))).toEqual([])
    // A full turn is none.
    const turned = noteOfShot(shot, { a: { ...sky, turnDeg: 359.8 } })
    expect(compareViews(view({ note: turned }), view())).toEqual([])
  })

  it('is told apart by its sky, exposure, lens and standpoint, from the other to this one', () => {
    const other = noteOfShot({ ...shot, ev: 0.5 }, { a: { ...sky, turnDeg: 30, ev: -0.5, sun: 'soft' } })
    expect(compareViews(view(), view({ note: other }))).toEqual([
      { what: 'headingOfTheSky', from: '30°', to: '0°' },
      { what: 'brightnessOfTheSky', from: '-0.5 EV', to: '0 EV' },
      { what: 'sun', from: 'softened', to: 'as it is' },
      { what: 'exposure', from: '+0.5 EV', to: '0 EV' },
    ])
    expect(compareViews(view(), view({ note: noteOfShot({ ...shot, sky: null }, {}) }))).toEqual([
      { what: 'sky', from: 'house light', to: 'SKY-0001, version 2' },
    ])
    const clear = { latitudeDeg: 53.5, longitudeDeg: 10, at: '2026-06-01T12:00:00Z', turbidity: 2.5 }
    const worked = noteOfShot(shot, { a: { ...sky, item: null, clear, name: 'Clear' } })
    expect(compareViews(view({ note: worked }), view())).toEqual([
      { what: 'sky', from: 'SKY-0001, version 2', to: 'Clear, 2026-06-01T12:00:00Z' },
    ])
    const side = Math.SQRT1_2
    expect(compareViews(view({ focalMm: 24, position: [3, 1.6, 4], direction: [-side, 0, -side] }), view())).toEqual([
      { what: 'lens', from: '35 mm', to: '24 mm' },
      { what: 'standpoint', from: 'where it was', to: '3.0 m away' },
      { what: 'direction', from: 'as it was', to: 'turned by 45°' },
    ])
  })

  it('is compared by its camera alone where one of the scenes notes nothing', () => {
    expect(compareViews(view({ note: null }), view())).toEqual([])
    expect(focalOf(2 * Math.atan(12 / 50))).toBeCloseTo(50, 9)
  })
})

describe('a light of two scenes', () => {
  const light = (change: Partial<LightPrint> = {}): LightPrint => ({
    ...{ kind: 'spot', color: [1, 0.8, 0.6], intensity: 420, coneRad: 0.5 },
    ...change,
  })

  it('is the same within rounding', () => {
    expect(compareLights(light(), light({ intensity: 424, color: [1, 0.801, 0.6], coneRad: 0.502 }))).toEqual([])
    expect(compareLights(light({ intensity: 0 }), light({ intensity: 0 }))).toEqual([])
  })

  it('is told apart by what it is, how bright, its colour and its beam', () => {
    const changes = compareLights(light({ color: [1, 1, 1] }), light({ kind: 'point', intensity: 5.55, coneRad: null }))
    expect(changes).toEqual([
      { what: 'kind', from: 'point', to: 'spot' },
      { what: 'intensity', from: '5.55 cd', to: '420 cd' },
      { what: 'colorOfTheLight', from: '#ffe7cb', to: '#ffffff', deltaE00: expect.any(Number) },
    ])
    expect(changes[2].deltaE00).toBeGreaterThan(5)
    expect(compareLights(light({ coneRad: 1 }), light())).toEqual([{ what: 'beam', from: '57°', to: '115°' }])
    expect(
      compareLights(light({ kind: 'directional', coneRad: null }), light({ kind: 'directional', intensity: 100_000 })),
    ).toEqual([{ what: 'intensity', from: '100000 lx', to: '420 lx' }])
  })
})
