import { useEffect } from 'react'
import { type LiveMessage, liveMessageSchema } from '#shared/contracts/live.contract'
import type { LineNews } from '../live/event-line'
import { joinLine } from '../live/live-line'
import { hearSessionChanges } from '../live/session-channel'
import { api, type Tag, type TagType } from './api'
import { refreshChips } from './chips'
import { Gathering } from './gathering'
import { useAppDispatch } from './hooks'
import { connectionChanged, mockUpMoved, previewProgressed } from './live.slice'
import { rowPictured, rowsChanged } from './rows.slice'

/** What is read again for a message. Of a finished picture on the wall, and of rows that are named, only these are; see below. */
export function tagsOf(message: LiveMessage): Tag[] {
  switch (message.topic) {
    case 'batch':
      return message.rowIds ? ['Batches'] : [{ type: 'Batch', id: message.batchId }, 'Batches', 'Feeds']
    case 'item':
      return [
        'Wall',
        { type: 'Item', id: message.itemId },
        'Categories',
        'Upkeep',
        'Fidelity',
        'OwnPictures',
        'Decisions',
        'Revisions',
      ]
    case 'library':
      return ['Wall', 'Categories', 'Upkeep', 'People']
    case 'project':
      return [{ type: 'Project', id: message.projectId }, { type: 'Decisions', id: message.projectId }, 'Projects', 'Revisions']
    case 'rerender':
      return ['Rigs']
    case 'preview':
      if (message.share < 1) return []
      return [
        'Projects',
        'Project',
        'Upkeep',
        'Rigs',
        'Compare',
        'Decisions',
        ...(message.itemId === null ? [] : [{ type: 'Item' as const, id: message.itemId }]),
      ]
    case 'mockUp':
      // Its scene follows by changes; see places/mock-up/state.
      return message.picture === null
        ? ['MockUps', { type: 'Schedule', id: message.mockUpId }]
        : ['MockUps', { type: 'MockUpPictures', id: message.mockUpId }]
    case 'audit':
      return [{ type: 'Audit', id: message.auditId }, 'Audits']
    case 'stageModel':
      return ['StageModels']
    case 'desk':
      return ['Personal', 'Wall']
    case 'failedWork':
      return ['FailedWork']
    case 'anything':
      return ANYTHING
    default:
      return message satisfies never
  }
}

/** What is read again after a time in which nobody heard what changed. */
const ANYTHING: TagType[] = [
  'Batch',
  'Batches',
  'Wall',
  'Item',
  'Categories',
  'Project',
  'Projects',
  'Decisions',
  'Revisions',
  'Upkeep',
  'Rigs',
  'Compare',
  'Feeds',
  'FailedWork',
  'Rules',
  'Fidelity',
  'OwnPictures',
  'People',
  'MockUps',
  'MockUpPictures',
  'Audit',
  'Audits',
]

/** Listens to the server for who is signed in. */
export function useLive(personId: number | undefined): void {
  const dispatch = useAppDispatch()
  useEffect(() => hearSessionChanges(() => dispatch(api.util.invalidateTags(['Session']))), [dispatch])
  useEffect(() => {
    if (personId === undefined) return
    const stale = new Gathering<Tag>(tags => dispatch(api.util.invalidateTags(tags)))
    const pictured = new Gathering<number>(ids => dispatch(refreshChips(ids)))
    const listen = (message: LiveMessage) => {
      if (message.topic === 'preview') {
        dispatch(previewProgressed(message))
        if (message.share >= 1) {
          if (message.itemId !== null) pictured.add([message.itemId])
          if (message.batchId !== null) dispatch(rowPictured({ batchId: message.batchId, inputKey: message.inputKey }))
        }
      }
      if (message.topic === 'mockUp' && message.revision !== null)
        dispatch(mockUpMoved({ id: message.mockUpId, revision: message.revision }))
      if (message.topic === 'batch') dispatch(rowsChanged({ batchId: message.batchId, ids: message.rowIds }))
      stale.add(tagsOf(message))
    }
    const hear = (news: LineNews) => {
      if (news.type === 'state') dispatch(connectionChanged(news.connected))
      else if (news.type === 'missed') stale.add(ANYTHING)
      else {
        const parsed = liveMessageSchema.safeParse(JSON.parse(news.data))
        if (parsed.success) listen(parsed.data)
      }
    }
    const leave = joinLine(personId, hear)
    return () => {
      leave()
      stale.stop()
      pictured.stop()
    }
  }, [personId, dispatch])
}
