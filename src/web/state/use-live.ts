import { useEffect } from 'react'
import { type LiveMessage, liveMessageSchema } from '#shared/contracts/live.contract'
import { api } from './api'
import { useAppDispatch } from './hooks'
import { connectionChanged, previewProgressed } from './live.slice'
import { rowPictured, rowsChanged } from './rows.slice'

type Tag = Parameters<typeof api.util.invalidateTags>[0][number]

/** Many things change at once when a delivery is accepted; open views are refreshed at most this often. */
const GATHER_MS = 700

const tagsOf = (message: LiveMessage): Tag[] => {
  switch (message.topic) {
    case 'batch':
      // Rows that are named are read by themselves.
      return message.rowIds ? ['Batches'] : ['Batch', 'Batches', 'Feeds']
    case 'item':
      return ['Wall', 'Sheet', 'Categories', 'Upkeep', 'Fidelity', 'OwnPictures']
    case 'project':
      return ['Project', 'Projects']
    case 'rerender':
      return ['Rigs']
    case 'preview':
      return message.share >= 1 ? ['Wall', 'Sheet', 'Project', 'Projects', 'Upkeep', 'Rigs', 'Compare'] : []
    case 'failedWork':
      return ['FailedWork']
    case 'anything':
      return ANYTHING
    default:
      return message satisfies never
  }
}

/** What is read again after a time in which nobody heard what changed. */
const ANYTHING: Tag[] = [
  'Batch',
  'Batches',
  'Wall',
  'Sheet',
  'Categories',
  'Project',
  'Projects',
  'Upkeep',
  'Rigs',
  'Compare',
  'Feeds',
  'FailedWork',
  'Rules',
  'Fidelity',
  'OwnPictures',
]

/** Listens to the server while somebody is signed in. */
export function useLive(active: boolean): void {
  const dispatch = useAppDispatch()
  useEffect(() => {
    if (!active) return
    const source = new EventSource('/api/live')
    const gathered = new Set<Tag>()
    let timer: ReturnType<typeof setTimeout> | null = null
    let broken = false
    const flush = () => {
      timer = null
      dispatch(api.util.invalidateTags([...gathered]))
      gathered.clear()
    }
    const gather = (tags: Tag[]) => {
      for (const tag of tags) gathered.add(tag)
      if (gathered.size > 0) timer ??= setTimeout(flush, GATHER_MS)
    }
    source.onopen = () => {
      dispatch(connectionChanged(true))
      // Whatever was told while the line was down was not heard.
      if (broken) gather(ANYTHING)
      broken = false
    }
    source.onerror = () => {
      broken = true
      dispatch(connectionChanged(false))
    }
    source.onmessage = event => {
      const parsed = liveMessageSchema.safeParse(JSON.parse(event.data))
      if (!parsed.success) return
      const message = parsed.data
      if (message.topic === 'preview') {
        dispatch(previewProgressed(message))
        if (message.share >= 1 && message.batchId !== null)
          dispatch(rowPictured({ batchId: message.batchId, inputKey: message.inputKey }))
      }
      if (message.topic === 'batch') dispatch(rowsChanged({ batchId: message.batchId, ids: message.rowIds }))
      gather(tagsOf(message))
    }
    return () => {
      source.close()
      if (timer) clearTimeout(timer)
    }
  }, [active, dispatch])
}
