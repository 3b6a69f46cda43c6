import { describe, expect, it } from 'vitest'
import { isNarrowed, readAddress, readRange, readValues, toggleValue, writeAddress, writeRange } from './wall-address'

describe('wall address', () => {
  it('holds the view and gives it back', () => {
    const text = 'words=oak+plank&kind=material%7Cmodel&category=surfaces.timber&widthMm=..2200&color=a03020%7E12&order=hue'
    expect(writeAddress(readAddress(new URLSearchParams(text))).toString()).toBe(text)
  })

  it('leaves out what is not set', () => {
    expect(writeAddress(readAddress(new URLSearchParams('words=oak'))).toString()).toBe('words=oak')
    expect(isNarrowed(readAddress(new URLSearchParams('order=name')))).toBe(false)
  })

  it('shows the whole wall for an address that makes no sense', () => {
    for (const text of ['kind=spaceship', 'widthMm=wide', 'color=red', 'order=upwards'])
      expect(isNarrowed(readAddress(new URLSearchParams(text)))).toBe(false)
  })

  it('puts values in and takes them out, and ranges with open ends', () => {
    expect(toggleValue(toggleValue('', 'a b'), 'c')).toBe('a b|c')
    expect(readValues(toggleValue('a b|c', 'a b'))).toEqual(['c'])
    expect([writeRange({ low: null, high: 2200 }), writeRange({ low: null, high: null })]).toEqual(['..2200', ''])
    expect(readRange('0.5..')).toEqual({ low: 0.5, high: null })
  })
})
