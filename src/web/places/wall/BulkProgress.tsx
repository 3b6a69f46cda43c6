import { useEffect, useRef } from 'react'
import { toast } from 'sonner'
import type { BulkRunView } from '#shared/contracts/bulk.contract'
import { tellProblem } from '../../components/bulk-words'
import { Button } from '../../components/controls/Button'
import { api, useGetBulkQuery, useStopBulkMutation, useUndoBulkMutation } from '../../state/api'
import { useAppDispatch } from '../../state/hooks'
import { plural } from '../../words/states'

const POLL_MS = 700

interface Props {
  id: number
  onNext: (id: number | null) => void
}

/** How far a change of many items is; when it is done, what came of it, with its undoing. */
export function BulkProgress({ id, onNext }: Props) {
  const { data } = useGetBulkQuery({ id }, { pollingInterval: POLL_MS })
  const [stopBulk] = useStopBulkMutation()
  const [undoBulk] = useUndoBulkMutation()
  const dispatch = useAppDispatch()
  const told = useRef(0)
  // biome-ignore lint/correctness/useExhaustiveDependencies: told once for each run
  useEffect(() => {
    if (!data || data.id !== id || data.state === 'running' || told.current === id) return
    told.current = id
    // Everything that shows an item may be another now.
    dispatch(api.util.invalidateTags(['Wall', 'Categories', 'Upkeep', 'Rules', 'Projects', 'Item', 'Personal']))
    const undo = async () => {
      const result = await undoBulk({ id })
      if (result.data) onNext(result.data.id)
      else tellProblem(result.error)
    }
    const tell = data.refusedCount > 0 || data.state === 'stopped' ? toast.warning : toast.success
    tell(describeRun(data), {
      description: [...new Set(data.refused.map(r => r.reason))].slice(0, 3).join(' ') || undefined,
      action: data.mayUndo ? { label: 'Undo', onClick: () => void undo() } : undefined,
    })
    onNext(null)
  }, [data, id])
  if (data?.state !== 'running') return null
  return (
    <div role="status" className="flex shrink-0 items-center gap-3 px-6 pb-2">
      <span className="text-quiet">{data.isUndo ? 'Putting back' : 'Changing'}</span>
      <div className="h-1.5 w-56 overflow-hidden rounded-full bg-line">
        <div className="h-full bg-ink" style={{ width: `${(100 * data.done) / data.total}%` }} />
      </div>
      <span className="figures text-xs">
        {data.done} of {data.total}
      </span>
      <Button variant="bare" onClick={() => stopBulk({ id })}>
        Stop
      </Button>
    </div>
  )
}

function describeRun({ changed, refusedCount, state, isUndo, done, total }: BulkRunView): string {
  const what = isUndo ? `${plural(changed, 'item')} put back` : `${plural(changed, 'item')} changed`
  const refused = refusedCount > 0 ? `, ${refusedCount} refused` : ''
  return state === 'stopped' ? `Stopped after ${done} of ${total}: ${what}${refused}.` : `${what}${refused}.`
}
