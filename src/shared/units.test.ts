import { describe, expect, it } from 'vitest'
import { FINDING_SEVERITY } from '#core/findings/finding'
import { describeFinding } from './finding-words'
import { keyFigure } from './key-figure'
import { factOrder, formatBytes, formatFact, formatLengthMm, formatMetres, formatNumber, spellWord } from './units'

describe('figures', () => {
  it('lengths are in metres, small ones in millimetres', () => {
    expect([1.234, 12.34, 0.05, 0.00175, 0.0000254, 0, -0.002].map(formatMetres)).toEqual([
      '1.23 m',
      '12.3 m',
      '0.05 m',
      '1.75 mm',
      '0.0254 mm',
      '0 m',
      '−2 mm',
    ])
    expect(keyFigure('model', { widthM: 3.12, heightM: 1.11 })).toBe('3.12 × 1.11 m')
    expect(keyFigure('model', { widthM: 0.0004, heightM: 0.00175 })).toBe('0.4 mm × 1.75 mm')
  })

  it('are grouped, trimmed and signed', () => {
    expect(formatNumber(1234567.5)).toBe('1\u202f234\u202f567.5')
    expect(formatNumber(0.3)).toBe('0.3')
    expect(formatNumber(-2.004)).toBe('−2')
    expect(formatNumber(-0.001)).toBe('0')
    expect(formatNumber(Number.NaN)).toBe('n/a')
    expect(formatBytes(999)).toBe('999 B')
    expect(formatBytes(1_500_000)).toBe('1.5 MB')
    expect(formatLengthMm(300)).toBe('300 mm')
    expect(formatLengthMm(1200)).toBe('1.2 m')
  })

  it('carry their unit', () => {
    expect(formatFact('sunElevationDeg', 35.04)).toBe('35°')
    expect(formatFact('triangles', 12345)).toBe('12\u202f345')
    expect(formatFact('boundsM', '0.440 x 0.860 x 0.480')).toBe('0.440 × 0.860 × 0.480 m')
    expect(formatFact('sky', 'partlyCloudy')).toBe('partly cloudy')
    expect(formatFact('sunPresent', false)).toBe('no')
    expect(formatFact('normalMapHandedness', 'openGl')).toContain('up')
    expect(spellWord('lowSun')).toBe('low sun')
  })

  it('known facts come before unknown ones', () => {
    expect(factOrder('widthMm')).toBeLessThan(factOrder('maker'))
    expect(factOrder('maker')).toBeLessThan(factOrder('somethingNew'))
  })
})

describe('the figure on the label', () => {
  it('is the one that matters for the kind, or nothing', () => {
    expect(keyFigure('material', { widthMm: 900 })).toBe('900 mm wide')
    expect(keyFigure('material', {})).toBe('')
    expect(keyFigure('model', { widthM: 0.44, heightM: 0.86 })).toBe('0.44 × 0.86 m')
    expect(keyFigure('environment', { setting: 'exterior', sky: 'lowSun', sunPresent: true, sunElevationDeg: 7.6 })).toBe(
      'low sun 8°',
    )
    expect(keyFigure('environment', { setting: 'studio', sky: 'none' })).toBe('studio')
  })
})

describe('findings', () => {
  it('every code has a sentence that holds no "undefined" for evidence of its kind', () => {
    const evidence = new Proxy({} as Record<string, number>, { get: () => 3 })
    for (const code of Object.keys(FINDING_SEVERITY)) {
      const sentence = describeFinding(code as keyof typeof FINDING_SEVERITY, evidence)
      expect(sentence.length).toBeGreaterThan(10)
      expect(sentence).not.toMatch(/undefined|NaN/)
    }
  })
})
