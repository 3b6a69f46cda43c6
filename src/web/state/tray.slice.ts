import { createSlice, type PayloadAction } from '@reduxjs/toolkit'
import { z } from 'zod'
import type { Chip } from '#shared/contracts/chip.contract'
import { chipSchema } from '#shared/contracts/chip.contract'
import { readRemembered, remember } from './remembered'

interface TrayState {
  /** Whose it is: on one browser several may sign in after each other. */
  ownerId: number | null
  /** Its number at the server; null while that has none. */
  id: number | null
  chips: Chip[]
  /** It was begun here, and is another than those the server has. */
  isNew: boolean
}

const keep = ({ ownerId, id, chips }: TrayState) => {
  remember('tray owner', ownerId)
  remember('tray', chips)
  remember('tray id', id)
}

/** The selection a person carries from screen to screen. */
export const traySlice = createSlice({
  name: 'tray',
  initialState: (): TrayState => ({
    ownerId: readRemembered('tray owner', z.number().nullable(), null),
    id: readRemembered('tray id', z.number().nullable(), null),
    chips: readRemembered('tray', z.array(chipSchema), [] as Chip[]),
    isNew: false,
  }),
  reducers: {
    trayToggled(state, { payload }: PayloadAction<Chip>) {
      const at = state.chips.findIndex(c => c.id === payload.id)
      if (at >= 0) state.chips.splice(at, 1)
      else state.chips.push(payload)
      keep(state)
    },
    trayAdded(state, { payload }: PayloadAction<Chip[]>) {
      for (const chip of payload) if (!state.chips.some(c => c.id === chip.id)) state.chips.push(chip)
      keep(state)
    },
    /** The same items, as they are now. */
    trayRefreshed(state, { payload }: PayloadAction<Chip[]>) {
      const fresh = new Map(payload.map(c => [c.id, c]))
      state.chips = state.chips.map(c => fresh.get(c.id) ?? c)
      keep(state)
    },
    traySet(state, { payload }: PayloadAction<Chip[]>) {
      state.chips = payload
      keep(state)
    },
    /** Somebody works here now; what another had in hand is not theirs. */
    trayOwned(state, { payload }: PayloadAction<number>) {
      if (state.ownerId === payload) return
      if (state.ownerId !== null) {
        state.id = null
        state.chips = []
      }
      state.ownerId = payload
      keep(state)
    },
    /** Another tray, or the same as the server has it. */
    trayOpened(state, { payload }: PayloadAction<{ id: number | null; chips: Chip[]; isNew?: boolean }>) {
      state.id = payload.id
      state.chips = payload.chips
      state.isNew = payload.isNew ?? false
      keep(state)
    },
    trayDotted(state, { payload: { ids, color, on } }: PayloadAction<{ ids: number[]; color: number; on: boolean }>) {
      for (const chip of state.chips)
        if (ids.includes(chip.id))
          chip.dots = on ? [...new Set([...chip.dots, color])].sort() : chip.dots.filter(d => d !== color)
    },
  },
})
export const { trayOwned, trayToggled, trayAdded, trayRefreshed, traySet, trayOpened, trayDotted } = traySlice.actions
