import { createSlice, type PayloadAction } from '@reduxjs/toolkit'

export interface UploadProgress {
  files: number
  doneFiles: number
  /** Files of earlier rounds that arrived. */
  arrivedBefore: number
  bytes: number
  sentBytes: number
  /** Files that the library had already and that were not sent. */
  knownFiles: number
  /** Files that would not go up, with the reason; the others went on. */
  refused: { path: string; reason: string }[]
  state: 'sending' | 'paused' | 'done'
}

/** Uploads of this page, by batch. */
export const uploadsSlice = createSlice({
  name: 'uploads',
  initialState: { byBatch: {} as Record<number, UploadProgress> },
  reducers: {
    uploadChanged(state, { payload }: PayloadAction<{ batchId: number; progress: UploadProgress }>) {
      state.byBatch[payload.batchId] = payload.progress
    },
    uploadEnded(state, { payload }: PayloadAction<number>) {
      delete state.byBatch[payload]
    },
  },
})
export const { uploadChanged, uploadEnded } = uploadsSlice.actions
