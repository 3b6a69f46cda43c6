import { describe, expect, it } from 'vitest'
import { readUsdLight } from './usd-light'

const read = (type: Parameters<typeof readUsdLight>[0], attributes: Record<string, unknown>) =>
  readUsdLight(type, name => attributes[name])

describe('a light of OpenUSD', () => {
  it('gives its luminance times the area that is seen, or what is said over its surface', () => {
    const ball = { 'inputs:radius': 0.1, 'inputs:intensity': 1000 }
    expect(read('SphereLight', ball)).toMatchObject({ kind: 'point', coneRad: null, growsWithArea: true })
    expect(read('SphereLight', ball).intensity).toBeCloseTo(1000 * Math.PI * 0.01, 6)
    // A ball's surface is four times the disc that is seen of it.
    expect(read('SphereLight', { ...ball, 'inputs:normalize': '1' })).toMatchObject({ intensity: 250, growsWithArea: false })
    expect(read('RectLight', { 'inputs:width': 2, 'inputs:height': 0.5, 'inputs:intensity': 300 }).intensity).toBe(300)
    expect(read('DiskLight', { 'inputs:radius': 2, 'inputs:intensity': 300, 'inputs:normalize': true }).intensity).toBe(300)
    const sun = read('DistantLight', { 'inputs:intensity': 1.6e9, 'inputs:angle': 0.53 })
    expect(sun).toMatchObject({ kind: 'directional', growsWithArea: false })
    // A disc of the sun's luminance gives about a hundred thousand lux.
    expect(sun.intensity).toBeGreaterThan(95_000)
    expect(sun.intensity).toBeLessThan(115_000)
  })

  it('is shaped by its cone, brightened by stops, and tinted by its temperature where that is on', () => {
    const spot = { 'inputs:shaping:cone:angle': 30, 'inputs:exposure': 3, 'inputs:normalize': true, 'inputs:intensity': 4 }
    expect(read('SphereLight', spot)).toMatchObject({ kind: 'spot', intensity: 8, kelvin: null })
    expect(read('SphereLight', spot).coneRad).toBeCloseTo(Math.PI / 6)
    expect(read('DiskLight', {}).coneRad).toBeCloseTo(Math.PI / 2)
    expect(read('SphereLight', { 'inputs:colorTemperature': 3000 }).kelvin).toBeNull()
    expect(read('SphereLight', { 'inputs:colorTemperature': 3000, 'inputs:enableColorTemperature': '1' }).kelvin).toBe(3000)
  })

  it('is what the schema says where nothing is said or no number, and as it was named before inputs were', () => {
    expect(read('SphereLight', {}).intensity).toBeCloseTo(Math.PI / 4)
    expect(read('SphereLight', { 'inputs:intensity': Number.NaN }).intensity).toBeCloseTo(Math.PI / 4)
    expect(read('RectLight', { intensity: 5, color: [1, 0, 0] })).toMatchObject({ intensity: 5, color: [1, 0, 0] })
  })
})
