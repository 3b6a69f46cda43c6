import { createSlice, type PayloadAction } from '@reduxjs/toolkit'
import { z } from 'zod'
import { readRemembered, remember } from './remembered'

/** How long a message stands, ms. What stays until it is closed is given a day: a timer knows no infinity. */
export const MESSAGE_TIMES = { brief: 9000, long: 30_000, closed: 86_400_000 } as const
export type MessageTime = keyof typeof MESSAGE_TIMES

/** Who reads slowly, or wants the way back for longer, chooses a longer time for messages. */
export const messagesSlice = createSlice({
  name: 'messages',
  initialState: { time: readRemembered('message time', z.enum(['brief', 'long', 'closed']), 'brief') },
  reducers: {
    messageTimeChosen(state, { payload }: PayloadAction<MessageTime>) {
      state.time = payload
      remember('message time', payload)
    },
  },
})
export const { messageTimeChosen } = messagesSlice.actions
