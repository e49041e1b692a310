import { configureStore } from '@reduxjs/toolkit'
import { useDispatch, useSelector } from 'react-redux'
import { api } from './api.ts'
import { sessionReducer } from './session.ts'
import { set, shotReducer, type Path } from './shot.ts'

export const store = configureStore({
  reducer: { shot: shotReducer, session: sessionReducer, [api.reducerPath]: api.reducer },
  middleware: (standard) => standard().concat(api.middleware),
})
export type State = ReturnType<typeof store.getState>
export type Dispatch = typeof store.dispatch
export const useStore = useSelector.withTypes<State>()
export const useAct = useDispatch.withTypes<Dispatch>()
export const useShot = () => useStore((state) => state.shot.present)

/** Puts values into the document; those of one gesture, such as a drag, are one step of undo. */
export function useChange() {
  const act = useAct()
  return (path: Path, value: unknown, gesture?: string): void =>
    void act(set({ path, value, ...(gesture && { gesture: `${path.join('.')} ${gesture}` }) }))
}
/** The same at one path. */
export function useChangeAt(path: Path) {
  const change = useChange()
  return (value: unknown, gesture?: string): void => change(path, value, gesture)
}
