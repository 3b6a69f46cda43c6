import { configureStore } from '@reduxjs/toolkit'
import { api } from './api'
import { chipSizeSlice } from './chip-size.slice'
import { liveSlice } from './live.slice'
import { messagesSlice } from './messages.slice'
import { rowsSlice } from './rows.slice'
import { surroundSlice } from './surround.slice'
import { traySlice } from './tray.slice'
import { uploadsSlice } from './uploads.slice'

export const createStore = () =>
  configureStore({
    reducer: {
      [api.reducerPath]: api.reducer,
      chipSize: chipSizeSlice.reducer,
      live: liveSlice.reducer,
      messages: messagesSlice.reducer,
      rows: rowsSlice.reducer,
      surround: surroundSlice.reducer,
      tray: traySlice.reducer,
      uploads: uploadsSlice.reducer,
    },
    middleware: getDefault => getDefault().concat(api.middleware),
  })

export const store = createStore()

export type RootState = ReturnType<typeof store.getState>
export type AppDispatch = typeof store.dispatch
