import { configureStore } from '@reduxjs/toolkit'
import { describe, expect, it } from 'vitest'
import type { Chip } from '#shared/contracts/chip.contract'
import type { BatchItem } from '#shared/contracts/intake.contract'
import { toDropped } from '../places/intake/upload/dropped-path'
import { plural, roleWord, verbWord } from '../words/states'
import { toProblem } from './api'
import { connectionChanged, liveSlice, previewProgressed } from './live.slice'
import { rowPictured, rowsAsked, rowsChanged, rowsLoaded, rowsNotLoaded, rowsSlice, selectRows } from './rows.slice'
import { trayAdded, trayDotted, trayOpened, trayOwned, traySet, traySlice, trayToggled } from './tray.slice'
import { uploadChanged, uploadEnded, uploadsSlice } from './uploads.slice'

const chip = (id: number): Chip => ({
  id,
  code: `TIM-000${id}`,
  name: `Oak ${id}`,
  kind: 'material',
  category: 'surfaces.timber',
  state: 'approved',
  library: 'House library',
  figure: '1.2 m wide',
  preview: null,
  isOlderPreview: false,
  isOwnPicture: false,
  dots: [],
})

describe('the tray', () => {
  it('takes in, takes out, takes a range without doubles, and empties', () => {
    const store = configureStore({ reducer: { tray: traySlice.reducer } })
    const ids = () => store.getState().tray.chips.map(c => c.id)
    store.dispatch(trayToggled(chip(1)))
    store.dispatch(trayAdded([chip(1), chip(2), chip(3)]))
    expect(ids()).toEqual([1, 2, 3])
    store.dispatch(trayToggled(chip(2)))
    expect(ids()).toEqual([1, 3])
    store.dispatch(traySet([]))
    expect(ids()).toEqual([])
  })

  it('is its owner’s: who comes after them begins with an empty one', () => {
    const store = configureStore({ reducer: { tray: traySlice.reducer } })
    store.dispatch(trayOwned(7))
    store.dispatch(trayOpened({ id: 3, chips: [chip(1)] }))
    store.dispatch(trayOwned(7))
    expect(store.getState().tray).toMatchObject({ id: 3, ownerId: 7, chips: [{ id: 1 }] })
    store.dispatch(trayDotted({ ids: [1, 2], color: 4, on: true }))
    expect(store.getState().tray.chips[0].dots).toEqual([4])
    store.dispatch(trayOwned(8))
    expect(store.getState().tray).toMatchObject({ id: null, ownerId: 8, chips: [] })
  })
})

describe('rows of a worklist', () => {
  const start = () => {
    const store = configureStore({ reducer: { rows: rowsSlice.reducer } })
    const row = (id: number) => ({ id, inputKey: `input-${id}` }) as BatchItem
    return { store, row, of: () => selectRows(store.getState(), 1) }
  }

  it('that change while they are on their way are read once more', () => {
    const { store, row, of } = start()
    store.dispatch(rowsAsked({ batchId: 1, ids: [1, 2, 3] }))
    store.dispatch(rowsChanged({ batchId: 1, ids: [2, 9] }))
    store.dispatch(rowsLoaded({ batchId: 1, rows: [row(1), row(2), row(3)] }))
    expect(of().stale).toEqual([2])
    store.dispatch(rowsAsked({ batchId: 1, ids: [2] }))
    store.dispatch(rowsLoaded({ batchId: 1, rows: [row(2)] }))
    expect(of()).toMatchObject({ stale: [], reading: [] })
  })

  it('are read again one by one, all of them, or by their picture', () => {
    const { store, row, of } = start()
    store.dispatch(rowsAsked({ batchId: 1, ids: [1, 2] }))
    store.dispatch(rowsLoaded({ batchId: 1, rows: [row(1), row(2)] }))
    store.dispatch(rowPictured({ batchId: 1, inputKey: 'input-2' }))
    expect(of().stale).toEqual([2])
    store.dispatch(rowsChanged({ batchId: 1 }))
    expect([...of().stale].sort()).toEqual([1, 2])
    expect(selectRows(store.getState(), 7).stale).toEqual([])
  })

  it('that could not be read wait for another try', () => {
    const { store, row, of } = start()
    store.dispatch(rowsAsked({ batchId: 1, ids: [1] }))
    store.dispatch(rowsLoaded({ batchId: 1, rows: [row(1)] }))
    store.dispatch(rowsAsked({ batchId: 1, ids: [1, 2] }))
    store.dispatch(rowsNotLoaded({ batchId: 1 }))
    // The second was never there, so it is missing anyway.
    expect(of()).toMatchObject({ stale: [1], reading: [] })
  })
})

describe('renderings heard of', () => {
  it('are known while they run and forgotten when they are done', () => {
    const store = configureStore({ reducer: { live: liveSlice.reducer } })
    store.dispatch(connectionChanged(true))
    store.dispatch(previewProgressed({ inputKey: 'k', itemId: 7, share: 0.4 }))
    expect(store.getState().live).toMatchObject({ connected: true, byItem: { 7: 0.4 }, byInput: { k: 0.4 } })
    expect(store.getState().live.leftByItem).toEqual({ 7: { error: null, secondsLeft: null } })
    store.dispatch(previewProgressed({ inputKey: 'k', itemId: 7, share: 0.5, error: 0.02, secondsLeft: 12 }))
    expect(store.getState().live.leftByItem).toEqual({ 7: { error: 0.02, secondsLeft: 12 } })
    store.dispatch(previewProgressed({ inputKey: 'k', itemId: 7, share: 1 }))
    expect(store.getState().live).toMatchObject({ byItem: {}, byInput: {}, leftByItem: {} })
  })
})

describe('uploads', () => {
  it('show their progress until they end', () => {
    const store = configureStore({ reducer: { uploads: uploadsSlice.reducer } })
    const progress = {
      files: 3,
      doneFiles: 1,
      arrivedBefore: 0,
      bytes: 30,
      sentBytes: 10,
      knownFiles: 0,
      refused: [],
      state: 'sending' as const,
    }
    store.dispatch(uploadChanged({ batchId: 4, progress }))
    expect(store.getState().uploads.byBatch[4]).toEqual(progress)
    store.dispatch(uploadEnded(4))
    expect(store.getState().uploads.byBatch[4]).toBeUndefined()
  })

  it('keep the folders of what was dropped', () => {
    const file = (given: object) => Object.assign(new File(['x'], 'a.png'), given)
    const pathsOf = (...files: File[]) => toDropped(files).map(d => d.path)
    expect(pathsOf(file({ path: './Oak/a.png' }), file({ path: '/Spring/Oak/a.png' }))).toEqual(['Oak/a.png', 'Spring/Oak/a.png'])
    // Three by one name, from different places: none takes the place of another.
    expect(pathsOf(file({}), file({}), file({}))).toEqual(['a.png', 'a (2).png', 'a (3).png'])
  })
})

describe('words', () => {
  it('are counted and spelt', () => {
    expect(plural(1, 'item')).toBe('1 item')
    expect(plural(1200, 'item')).toBe('1\u202f200 items')
    expect(plural(2, 'pin has', 'pins have')).toBe('2 pins have')
    expect(roleWord('baseColor')).toBe('base colour')
    expect(roleWord('normal')).toBe('normal')
    expect(verbWord('resized')).toContain('size')
  })

  it('a refusal says its own sentence, silence says that nobody answers', () => {
    expect(toProblem({ data: { code: 'conflict', message: 'Taken.' } }).message).toBe('Taken.')
    expect(toProblem({ status: 'FETCH_ERROR' }).message).toContain('does not answer')
    expect(toProblem(undefined).code).toBe('internal')
  })
})
