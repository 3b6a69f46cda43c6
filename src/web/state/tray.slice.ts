import { createSlice, type PayloadAction } from '@reduxjs/toolkit'
import { z } from 'zod'
import type { Chip } from '#shared/contracts/items.contract'
import { chipSchema } from '#shared/contracts/items.contract'
import { readRemembered, remember } from './remembered'

const keep = (chips: Chip[]) => remember('tray', chips)

/** The selection a person carries from screen to screen. */
export const traySlice = createSlice({
  name: 'tray',
  initialState: { chips: readRemembered('tray', z.array(chipSchema), [] as Chip[]) },
  reducers: {
    trayToggled(state, { payload }: PayloadAction<Chip>) {
      const at = state.chips.findIndex(c => c.id === payload.id)
      if (at >= 0) state.chips.splice(at, 1)
      else state.chips.push(payload)
      keep(state.chips)
    },
    trayAdded(state, { payload }: PayloadAction<Chip[]>) {
      for (const chip of payload) if (!state.chips.some(c => c.id === chip.id)) state.chips.push(chip)
      keep(state.chips)
    },
    /** The same items, as they are now. */
    trayRefreshed(state, { payload }: PayloadAction<Chip[]>) {
      const fresh = new Map(payload.map(c => [c.id, c]))
      state.chips = state.chips.map(c => fresh.get(c.id) ?? c)
      keep(state.chips)
    },
    traySet(state, { payload }: PayloadAction<Chip[]>) {
      state.chips = payload
      keep(state.chips)
    },
  },
})
export const { trayToggled, trayAdded, trayRefreshed, traySet } = traySlice.actions
