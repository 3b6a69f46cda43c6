import { createSlice, type PayloadAction } from '@reduxjs/toolkit'

/** What a rendering has still to do. */
export interface Left {
  /** Of display luminance, 0..1. */
  error: number | null
  secondsLeft: number | null
}

/** How far the renderings that this page hears of have come: input key to share, item id to share. */
export const liveSlice = createSlice({
  name: 'live',
  initialState: {
    connected: false,
    byItem: {} as Record<number, number>,
    byInput: {} as Record<string, number>,
    leftByItem: {} as Record<number, Left>,
    /** Revisions that mock-ups are said to be at. */
    mockUps: {} as Record<number, number>,
  },
  reducers: {
    connectionChanged(state, { payload }: PayloadAction<boolean>) {
      state.connected = payload
    },
    mockUpMoved(state, { payload }: PayloadAction<{ id: number; revision: number }>) {
      state.mockUps[payload.id] = payload.revision
    },
    previewProgressed(
      state,
      { payload }: PayloadAction<{ inputKey: string; itemId: number | null; share: number } & Partial<Left>>,
    ) {
      const { inputKey, itemId, share, error = null, secondsLeft = null } = payload
      if (share >= 1) {
        delete state.byInput[inputKey]
        if (itemId !== null) {
          delete state.byItem[itemId]
          delete state.leftByItem[itemId]
        }
        return
      }
      state.byInput[inputKey] = share
      if (itemId === null) return
      state.byItem[itemId] = share
      state.leftByItem[itemId] = { error, secondsLeft }
    },
  },
})
export const { connectionChanged, mockUpMoved, previewProgressed } = liveSlice.actions
