import { createSlice, type PayloadAction } from '@reduxjs/toolkit'
import type { BatchItem } from '#shared/contracts/intake.contract'

export interface BatchRows {
  byId: Record<number, BatchItem>
  /** Rows that changed since they were read. */
  stale: number[]
}

const NONE: BatchRows = { byId: {}, stale: [] }

/** Rows of worklists as they were read. A changed row is read again by itself, however many there are. */
export const rowsSlice = createSlice({
  name: 'rows',
  initialState: { byBatch: {} as Record<number, BatchRows> },
  reducers: {
    rowsLoaded(state, { payload }: PayloadAction<{ batchId: number; asked: number[]; rows: BatchItem[] }>) {
      const { batchId, asked, rows } = payload
      state.byBatch[batchId] ??= { byId: {}, stale: [] }
      const held = state.byBatch[batchId]
      const answered = new Set(asked)
      held.stale = held.stale.filter(id => !answered.has(id))
      for (const row of rows) held.byId[row.id] = row
    },
    /** Without ids: any of them may have changed. */
    rowsChanged(state, { payload }: PayloadAction<{ batchId: number; ids?: number[] }>) {
      const held = state.byBatch[payload.batchId]
      if (!held) return
      const ids = payload.ids ?? Object.keys(held.byId).map(Number)
      held.stale = [...new Set([...held.stale, ...ids.filter(id => held.byId[id])])]
    },
    /** The picture of some inputs is there. */
    rowPictured(state, { payload }: PayloadAction<{ batchId: number; inputKey: string }>) {
      const held = state.byBatch[payload.batchId]
      if (!held) return
      const shown = Object.values(held.byId).filter(r => r.inputKey === payload.inputKey)
      held.stale = [...new Set([...held.stale, ...shown.map(r => r.id)])]
    },
  },
  selectors: {
    selectRows: (state, batchId: number): BatchRows => state.byBatch[batchId] ?? NONE,
  },
})
export const { rowsLoaded, rowsChanged, rowPictured } = rowsSlice.actions
export const { selectRows } = rowsSlice.selectors
