import { configureStore } from '@reduxjs/toolkit'
import { useDispatch, useSelector } from 'react-redux'
import { api } from './api.ts'
import { sessionReducer } from './session.ts'
import { shotReducer } from './shot.ts'

export const store = configureStore({
  reducer: { shot: shotReducer, session: sessionReducer, [api.reducerPath]: api.reducer },
  middleware: (standard) => standard().concat(api.middleware),
})
export type State = ReturnType<typeof store.getState>
export type Dispatch = typeof store.dispatch
export const useStore = useSelector.withTypes<State>()
export const useAct = useDispatch.withTypes<Dispatch>()
export const useShot = () => useStore((state) => state.shot.present)
