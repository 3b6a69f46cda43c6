import { createSlice, type PayloadAction } from '@reduxjs/toolkit'
import { z } from 'zod'
import { readRemembered, remember } from './remembered'

/** From a contact sheet to two in a row. */
export const CHIP_SIZES = ['contact', 'usual', 'large', 'two'] as const
export type ChipSize = (typeof CHIP_SIZES)[number]

/** What the wall looks like. */
export const WALL_FORMS = ['chips', 'table', 'colors'] as const
export type WallForm = (typeof WALL_FORMS)[number]

/** Whether the wall is of chips, a table or a map of colours, how large the chips are, and whether the tree stands beside it; kept by the browser. */
export const chipSizeSlice = createSlice({
  name: 'chipSize',
  initialState: (): { size: ChipSize; form: WallForm; hasTree: boolean } => ({
    size: readRemembered('chip size', z.enum(CHIP_SIZES), 'usual'),
    form: readRemembered('wall form', z.enum(WALL_FORMS), 'chips'),
    hasTree: readRemembered('wall tree', z.boolean(), false),
  }),
  reducers: {
    /** A size is one of chips. */
    chipSizeChosen(state, { payload }: PayloadAction<ChipSize>) {
      state.size = payload
      state.form = 'chips'
      remember('chip size', payload)
      remember('wall form', 'chips')
    },
    treeShown(state, { payload }: PayloadAction<boolean>) {
      state.hasTree = payload
      remember('wall tree', payload)
    },
    wallFormChosen(state, { payload }: PayloadAction<WallForm>) {
      state.form = payload
      remember('wall form', payload)
    },
  },
})
export const { chipSizeChosen, treeShown, wallFormChosen } = chipSizeSlice.actions
