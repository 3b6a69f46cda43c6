import { describe, expect, it } from 'vitest'
import { placeMesh } from '../geometry/mesh'
import { createBox } from '../geometry/shapes'
import { doubtName, faceOf, type Lie, lieOf, saysDirection } from './how-it-lies'
import type { Matrix } from './model-print'

const STILL: Matrix = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1]
/** A file with z up, as most readers stand it up: turned about x by −90°, and twice as large. */
const STOOD_UP: Matrix = [2, 0, 0, 0, 0, 0, -2, 0, 0, 2, 0, 0, 0, 0, 0, 1]
/** Two triangles in the xy plane, their texture's horizontal along x. */
const WALL = { positions: Float32Array.of(0, 0, 0, 3, 0, 0, 3, 2, 0, 0, 2, 0), indices: Uint32Array.of(0, 1, 2, 0, 2, 3) }
const ALONG_X = Float32Array.of(0, 0, 3, 0, 3, 2, 0, 2)
const ALONG_Y = Float32Array.of(0, 0, 0, 3, 2, 3, 2, 0)

describe('how a material lies', () => {
  it('is level or upright, and its texture runs level or up, however its node stands it', () => {
    expect(lieOf(faceOf(WALL, ALONG_X), STILL)).toEqual({ level: 0, climb: 0 })
    expect(lieOf(faceOf(WALL, ALONG_Y), STILL)).toEqual({ level: 0, climb: 1 })
    // What lies in x and y with z up is a floor.
    expect(lieOf(faceOf(WALL, ALONG_Y), STOOD_UP)).toEqual({ level: 1, climb: 0 })
    expect(lieOf(faceOf(WALL, null), STILL)).toEqual({ level: 0, climb: null })
    const { level } = lieOf(faceOf(placeMesh(createBox(1, 1, 1), [0, 3, 0]), null), STILL)
    expect(level).toBeCloseTo(1 / 3, 6)
  })

  it('is weighed by area; what has none, or lies nowhere on its texture, says nothing', () => {
    const { positions, indices } = createBox(4, 0.02, 3)
    expect(lieOf(faceOf({ positions, indices }, null), STILL).level).toBeGreaterThan(0.97)
    const flat = { positions: new Float32Array(9), indices: Uint32Array.of(0, 1, 2) }
    expect(lieOf(faceOf(flat, new Float32Array(6)), STILL)).toEqual({ level: 0, climb: null })
    expect(faceOf(WALL, new Float32Array(8)).along).toBeNull()
  })
})

describe('a name', () => {
  const wall = (climb: number | null): Lie => ({ level: 0.02, climb })
  const FLOOR: Lie = { level: 0.99, climb: 0 }
  const runs = (directionDeg: number) => ({ coherence: 0.7, directionDeg })
  const NOWHERE = { coherence: 0.05, directionDeg: 40 }

  it('that says how boards run is doubted where they run otherwise', () => {
    expect(doubtName('Larch horizontal', wall(0), runs(2))).toBeNull()
    expect(doubtName('Larch horizontal', wall(0), runs(91))).toBe('Its name says horizontal, and it runs upwards here.')
    expect(doubtName('Larch horizontal', wall(1), runs(176))).toBe('Its name says horizontal, and it runs upwards here.')
    expect(doubtName('Larch horizontal', wall(1), runs(90))).toBeNull()
    expect(doubtName('Lärche senkrecht', wall(0), runs(0))).toBe('Its name says senkrecht, and it runs level here.')
    expect(doubtName('Lärche senkrecht', wall(0), runs(88))).toBeNull()
  })

  it('that says how a plain one stands is doubted where it stands otherwise', () => {
    expect(doubtName('panel_horizontal_01', wall(0), NOWHERE)).toBe(
      'Its name says horizontal, and what it lies on stands upright.',
    )
    expect(doubtName('panel_horizontal_01', wall(null), null)).toContain('stands upright')
    expect(doubtName('panel horizontal', FLOOR, null)).toBeNull()
    expect(doubtName('panel vertical', FLOOR, NOWHERE)).toBe('Its name says vertical, and what it lies on is level.')
    expect(doubtName('panel vertical', wall(0), NOWHERE)).toBeNull()
  })

  it('is left alone where that cannot be told', () => {
    expect(doubtName('Oak', wall(0), runs(0))).toBeNull()
    expect(doubtName('horizontal and vertical', wall(0), runs(90))).toBeNull()
    expect(doubtName('Larch horizontal', { level: 0.4, climb: 0 }, runs(90))).toBeNull()
    expect(doubtName('Larch horizontal', wall(0.5), runs(90))).toBeNull()
    expect(doubtName('Larch horizontal', wall(0), runs(45))).toBeNull()
    expect(doubtName('Larch horizontal', wall(null), runs(90))).toBeNull()
    expect([saysDirection('Oak Vertikal 2'), saysDirection('Oak')]).toEqual([true, false])
  })
})
