import { describe, expect, it } from 'vitest'
import { readSettings } from './settings'

describe('settings', () => {
  it('have defaults', () => {
    expect(readSettings({ MUSCOVITE_DATABASE_URL: 'postgres://x' })).toMatchObject({ port: 5170, host: '127.0.0.1', demo: 'off' })
  })

  it('name every one that is wrong', () => {
    expect(() => readSettings({ PORT: 'many', MUSCOVITE_THREADS: '0' })).toThrow(
      /PORT[\s\S]*MUSCOVITE_DATABASE_URL[\s\S]*MUSCOVITE_THREADS/,
    )
  })

  it('keep files in the data folder unless told otherwise', () => {
    expect(readSettings({ MUSCOVITE_DATABASE_URL: 'x', MUSCOVITE_DATA: '/d' }).storageUrl).toBe('file:///d/files')
    expect(readSettings({ MUSCOVITE_DATABASE_URL: 'x', MUSCOVITE_STORAGE_URL: 'file:///s' }).storageUrl).toBe('file:///s')
  })
})
