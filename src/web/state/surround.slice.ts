import { createSlice, type PayloadAction } from '@reduxjs/toolkit'
import { z } from 'zod'
import { readRemembered, remember } from './remembered'

export const SURROUNDS = ['n8', 'n5', 'dark'] as const
export type Surround = (typeof SURROUNDS)[number]

const apply = (value: Surround) => {
  document.documentElement.dataset.surround = value
}

const initial = readRemembered('surround', z.enum(SURROUNDS), 'n8')
apply(initial)

/** The grey around everything, which decides how colours are seen. */
export const surroundSlice = createSlice({
  name: 'surround',
  initialState: { value: initial },
  reducers: {
    surroundChosen(state, { payload }: PayloadAction<Surround>) {
      state.value = payload
      apply(payload)
      remember('surround', payload)
    },
  },
})
export const { surroundChosen } = surroundSlice.actions
