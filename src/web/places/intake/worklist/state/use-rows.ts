import { useEffect, useMemo, useRef, useState } from 'react'
import type { BatchItem } from '#shared/contracts/intake.contract'
import { api } from '../../../../state/api'
import { useAppDispatch, useAppSelector } from '../../../../state/hooks'
import { rowsAsked, rowsLoaded, rowsNotLoaded, selectRows } from '../../../../state/rows.slice'

/** What is in sight first, then the rest in portions that keep the page free in between. */
const FIRST = 60
const PORTION = 200
/** Changes that come one after the other are read together. */
const GATHER_MS = 250
const TRY_AGAIN_MS = 3000

export interface Rows {
  items: BatchItem[]
  /** How many rows are not read yet. */
  missing: number
}

/** The rows of a worklist, read in portions; those that change are read again by themselves. */
export function useRows(batchId: number, rowIds: readonly number[]): Rows {
  const dispatch = useAppDispatch()
  const { byId, stale } = useAppSelector(state => selectRows(state, batchId))
  const isReading = useRef(false)
  // Counts readings that ended, so that the next begins.
  const [ended, setEnded] = useState(0)
  const items = useMemo(() => rowIds.flatMap(id => byId[id] ?? []), [rowIds, byId])
  // biome-ignore lint/correctness/useExhaustiveDependencies: a reading that ended may leave more to read
  useEffect(() => {
    if (isReading.current) return
    const missing = rowIds.filter(id => !byId[id])
    const size = missing.length === rowIds.length ? FIRST : PORTION
    const asked = [...new Set([...stale, ...missing])].slice(0, size)
    if (asked.length === 0) return
    const read = async () => {
      isReading.current = true
      dispatch(rowsAsked({ batchId, ids: asked }))
      const answer = await dispatch(
        api.endpoints.getRows.initiate({ batchId, ids: asked.join() }, { subscribe: false, forceRefetch: true }),
      )
      if (answer.data) dispatch(rowsLoaded({ batchId, rows: answer.data }))
      else {
        await new Promise(resolve => setTimeout(resolve, TRY_AGAIN_MS))
        dispatch(rowsNotLoaded({ batchId }))
      }
      isReading.current = false
      setEnded(n => n + 1)
    }
    const timer = setTimeout(read, missing.length > 0 ? 0 : GATHER_MS)
    return () => clearTimeout(timer)
  }, [batchId, rowIds, byId, stale, ended, dispatch])
  return { items, missing: rowIds.length - items.length }
}
