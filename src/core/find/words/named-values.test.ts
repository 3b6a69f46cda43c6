import { describe, expect, it } from 'vitest'
import { NamedValues } from './named-values'

describe('values by their names', () => {
  const titles = new Map([['surfaces.timber', 'Timber, solid']])
  const names = new NamedValues(['Salix alba', 'Salix caprea', 'surfaces.timber', 'Alder & Sons'], titles)

  it('are found by the beginning of any of their words, folded', () => {
    expect([...names.meantBy('sal', [])]).toEqual(['Salix alba', 'Salix caprea'])
    expect(names.meantBy('al', [])).toEqual(new Set(['Salix alba', 'Alder & Sons']))
    expect([...names.meantBy('solid', [])]).toEqual(['surfaces.timber'])
  })

  it('are found by other words only where these are whole, and by a title instead of the value', () => {
    expect([...names.meantBy('x', ['alba', 'cap'])]).toEqual(['Salix alba'])
    expect(names.meantBy('surfaces', []).size).toBe(0)
    expect(names.meantBy('q', []).size).toBe(0)
  })
})
