import { describe, expect, it } from 'vitest'
import { auditLight, LightIndex } from './audit-light'
import type { LightPrint } from './compare-lights'
import type { LightReference } from './reference'

const SPOT: LightPrint = { kind: 'spot', color: [1, 0.8, 0.6], intensity: 1200, coneRad: 0.3 }
const reference = (code: string, print: LightPrint | null, more: Partial<LightReference> = {}): LightReference => ({
  ...{ code, version: 1, name: `${code} lamp`, pinned: 1, isWithdrawn: false, print },
  ...more,
})
const audit = (given: Partial<LightPrint>, references: LightReference[], more: { name?: string; stamped?: number } = {}) =>
  auditLight(
    {
      name: more.name ?? 'Light.001',
      stamp: more.stamped === undefined ? null : { code: 'LUM-0001', version: more.stamped },
      print: { ...SPOT, ...given },
    },
    new LightIndex(references),
  )
const ONE = [reference('LUM-0001', SPOT)]

describe('a light of a scene', () => {
  it('is known by its stamp, its name, or the light that it gives', () => {
    expect(audit({}, ONE, { stamped: 1 })).toMatchObject({ class: 'pinned', code: 'LUM-0001' })
    expect(audit({}, ONE, { stamped: 1 }).evidence.map(e => e.kind)).toEqual(['stamp', 'parameters'])
    expect(audit({ intensity: 900 }, ONE, { name: 'LUM-0001 over the table' }).evidence.map(e => e.kind)).toEqual(['name'])
    expect(audit({}, ONE)).toMatchObject({ class: 'pinned', code: 'LUM-0001', evidence: [{ kind: 'parameters' }] })
  })

  it('may be dimmed; stronger than it comes, of another colour or beam, it is altered', () => {
    expect(audit({ intensity: 300 }, ONE, { stamped: 1 })).toMatchObject({
      class: 'pinned',
      changes: [],
      remarks: ['Dimmed to 25 %.'],
      share: 0.25,
    })
    const altered = (given: Partial<LightPrint>) => {
      const { class: said, changes } = audit(given, ONE, { stamped: 1 })
      return [said, ...changes.map(c => c.what)]
    }
    expect(altered({ intensity: 1300 })).toEqual(['altered', 'intensity'])
    expect(altered({ color: [1, 1, 1], intensity: 600 })).toEqual(['altered', 'colorOfTheLight'])
    expect(altered({ coneRad: 0.5 })).toEqual(['altered', 'beam'])
  })

  it('is of the version that it is like, older or not, whatever its stamp says', () => {
    const two = [
      reference('LUM-0001', SPOT, { pinned: 2 }),
      reference('LUM-0001', { ...SPOT, intensity: 1500 }, { version: 2, pinned: 2 }),
    ]
    expect(audit({ intensity: 1500 }, two, { stamped: 2 })).toMatchObject({ class: 'pinned', version: 2 })
    expect(audit({ intensity: 1200 }, two, { stamped: 1 })).toMatchObject({ class: 'older', version: 1, share: 1 })
    // As it comes it is an older one; what takes its place is not to be dimmed.
    expect(audit({ intensity: 600 }, two, { stamped: 1 })).toMatchObject({ class: 'older', version: 1, share: 0.5 })
    expect(audit({}, [reference('LUM-0001', SPOT, { isWithdrawn: true })], { stamped: 1 }).class).toBe('withdrawn')
    expect(audit({}, [reference('LUM-0001', SPOT, { pinned: null })], { stamped: 1 }).class).toBe('other')
  })

  it('that gives the light of several items is the one that the project has, else foreign with the nearest', () => {
    const others = [
      reference('LUM-0002', SPOT, { pinned: null }),
      reference('LUM-0003', { ...SPOT, intensity: 9000 }, { pinned: null }),
    ]
    expect(audit({}, [...ONE, ...others]).code).toBe('LUM-0001')
    const foreign = audit({}, [reference('LUM-0001', SPOT, { pinned: null }), ...others])
    expect(foreign).toMatchObject({ class: 'foreign', code: null })
    expect(foreign.nearest.map(n => n.code)).toEqual(['LUM-0001', 'LUM-0002', 'LUM-0003'])
    // A bulb's few figures are anybody's.
    const bulb: Partial<LightPrint> = { kind: 'point', coneRad: null }
    expect(audit(bulb, [reference('LUM-0001', { ...SPOT, ...bulb })]).class).toBe('foreign')
  })

  it('of an item whose curve does not read is known by its stamp alone', () => {
    expect(audit({ intensity: 5 }, [reference('LUM-0001', null)], { stamped: 1 })).toMatchObject({ class: 'pinned', changes: [] })
  })
})
