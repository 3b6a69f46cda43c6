import { configureStore } from '@reduxjs/toolkit'
import { uploadsSlice } from '../places/intake/uploads.slice'
import { traySlice } from '../places/wall/tray.slice'
import { api } from './api'
import { liveSlice } from './live.slice'
import { surroundSlice } from './surround.slice'

export const store = configureStore({
  reducer: {
    [api.reducerPath]: api.reducer,
    live: liveSlice.reducer,
    surround: surroundSlice.reducer,
    tray: traySlice.reducer,
    uploads: uploadsSlice.reducer,
  },
  middleware: getDefault => getDefault().concat(api.middleware),
})

export type RootState = ReturnType<typeof store.getState>
export type AppDispatch = typeof store.dispatch
