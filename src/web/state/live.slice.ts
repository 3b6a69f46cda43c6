import { createSlice, type PayloadAction } from '@reduxjs/toolkit'

/** How far the renderings that this page hears of have come: input key to share, item id to share. */
export const liveSlice = createSlice({
  name: 'live',
  initialState: { connected: false, byItem: {} as Record<number, number>, byInput: {} as Record<string, number> },
  reducers: {
    connectionChanged(state, { payload }: PayloadAction<boolean>) {
      state.connected = payload
    },
    previewProgressed(state, { payload }: PayloadAction<{ inputKey: string; itemId: number | null; share: number }>) {
      const { inputKey, itemId, share } = payload
      if (share >= 1) {
        delete state.byInput[inputKey]
        if (itemId !== null) delete state.byItem[itemId]
        return
      }
      state.byInput[inputKey] = share
      if (itemId !== null) state.byItem[itemId] = share
    },
  },
})
export const { connectionChanged, previewProgressed } = liveSlice.actions
