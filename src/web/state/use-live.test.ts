import { describe, expect, it, vi } from 'vitest'
import { tagsOf } from './use-live'

vi.mock('../live/live-line', () => ({ joinLine: () => () => {} }))

const preview = (share: number, itemId: number | null) =>
  tagsOf({ topic: 'preview', libraryId: 1, inputKey: 'x', share, itemId, batchId: null })

describe('a live message', () => {
  it('has read again what it is about and no more: a finished picture not the whole wall, a named row not its batch', () => {
    expect(preview(0.5, 7)).toEqual([])
    expect(preview(1, 7)).toContainEqual({ type: 'Item', id: 7 })
    expect(preview(1, 7)).not.toContain('Wall')
    expect(preview(1, null)).not.toContainEqual(expect.objectContaining({ type: 'Item' }))
    expect(tagsOf({ topic: 'batch', libraryId: 1, batchId: 3, rowIds: [1] })).toEqual(['Batches'])
    expect(tagsOf({ topic: 'batch', libraryId: 1, batchId: 3 })).toContainEqual({ type: 'Batch', id: 3 })
    expect(tagsOf({ topic: 'project', libraryId: 1, projectId: 4 })).toContainEqual({ type: 'Project', id: 4 })
  })

  it('that items came or changed has the wall read again', () => {
    expect(tagsOf({ topic: 'library', libraryId: 1 })).toContain('Wall')
    expect(tagsOf({ topic: 'stageModel', libraryId: 1, projectId: null })).toEqual(['StageModels'])
    expect(tagsOf({ topic: 'desk', personId: 1 })).toEqual(['Personal', 'Wall'])
    expect(tagsOf({ topic: 'item', libraryId: 1, itemId: 2 })).toEqual(expect.arrayContaining(['Wall', { type: 'Item', id: 2 }]))
  })
})
