import { createSlice, type PayloadAction } from '@reduxjs/toolkit'
import type { BatchItem, EditBatchItems } from '#shared/contracts/intake.contract'

export interface BatchRows {
  byId: Record<number, BatchItem>
  /** Rows that are being read right now. */
  reading: number[]
  /** Rows that changed since they were asked for. */
  stale: number[]
}

const NONE: BatchRows = { byId: {}, reading: [], stale: [] }

/** What came while a row was on its way may be newer than the row, so that is read once more. */
const markStale = (batch: BatchRows, ids: readonly number[]): void => {
  batch.stale = [...new Set([...batch.stale, ...ids])]
}

function applyPatch(row: BatchItem, { name, category, widthMm, tiling, decision, setAside }: Omit<EditBatchItems, 'ids'>): void {
  if (name !== undefined) row.name = name
  if (category !== undefined) Object.assign(row, { category, categoryConfidence: 1 })
  if (widthMm !== undefined && row.kind === 'material') row.widthMm = widthMm
  if (tiling !== undefined) row.tiling = tiling
  if (decision !== undefined) row.decision = decision
  if (setAside !== undefined && (row.state === 'ready' || row.state === 'setAside')) row.state = setAside ? 'setAside' : 'ready'
}

/** Rows of worklists as they were read. A changed row is read again by itself, however many there are. */
export const rowsSlice = createSlice({
  name: 'rows',
  initialState: { byBatch: {} as Record<number, BatchRows> },
  reducers: {
    rowsAsked(state, { payload }: PayloadAction<{ batchId: number; ids: number[] }>) {
      state.byBatch[payload.batchId] ??= { byId: {}, reading: [], stale: [] }
      const batch = state.byBatch[payload.batchId]
      const asked = new Set(payload.ids)
      batch.reading = payload.ids
      batch.stale = batch.stale.filter(id => !asked.has(id))
    },
    rowsLoaded(state, { payload }: PayloadAction<{ batchId: number; rows: BatchItem[] }>) {
      const batch = state.byBatch[payload.batchId]
      batch.reading = []
      for (const row of payload.rows) batch.byId[row.id] = row
    },
    rowsNotLoaded(state, { payload }: PayloadAction<{ batchId: number }>) {
      const batch = state.byBatch[payload.batchId]
      markStale(
        batch,
        batch.reading.filter(id => batch.byId[id]),
      )
      batch.reading = []
    },
    /** What somebody gives to rows, shown before the server has it. */
    rowsPatched(state, { payload }: PayloadAction<{ batchId: number; ids: number[]; patch: Omit<EditBatchItems, 'ids'> }>) {
      const batch = state.byBatch[payload.batchId]
      if (!batch) return
      for (const id of payload.ids) if (batch.byId[id]) applyPatch(batch.byId[id], payload.patch)
    },
    /** Without ids: any of them may have changed. */
    rowsChanged(state, { payload }: PayloadAction<{ batchId: number; ids?: number[] }>) {
      const batch = state.byBatch[payload.batchId]
      if (!batch) return
      const ids = payload.ids ?? [...Object.keys(batch.byId).map(Number), ...batch.reading]
      const reading = new Set(batch.reading)
      markStale(
        batch,
        ids.filter(id => batch.byId[id] || reading.has(id)),
      )
    },
    /** The picture of some inputs is there. */
    rowPictured(state, { payload }: PayloadAction<{ batchId: number; inputKey: string }>) {
      const batch = state.byBatch[payload.batchId]
      if (!batch) return
      const shown = Object.values(batch.byId).filter(r => r.inputKey === payload.inputKey)
      markStale(batch, [...shown.map(r => r.id), ...batch.reading])
    },
  },
  selectors: {
    selectRows: (state, batchId: number): BatchRows => state.byBatch[batchId] ?? NONE,
  },
})
export const { rowsAsked, rowsLoaded, rowsNotLoaded, rowsChanged, rowsPatched, rowPictured } = rowsSlice.actions
export const { selectRows } = rowsSlice.selectors
