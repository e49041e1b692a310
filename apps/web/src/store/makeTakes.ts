import { api, faultOf, type SweepAxis } from './api.ts'
import { saveNow } from './autosave.ts'
import { store } from './index.ts'
import { noteTakes } from './moments.ts'
import { noticed, selected } from './session.ts'

/** Saves the shot that is open and makes a take of it; `show` shows the takes. */
export async function makeTake(shotId: string, show: () => void): Promise<void> {
  await saveNow()
  const { session, shot } = store.getState()
  const known = api.endpoints.takes.select(shotId)(store.getState()).data ?? []
  const result = await store.dispatch(
    api.endpoints.makeTake.initiate({ id: shotId, version: session.version }),
  )
  if (result.error) return void store.dispatch(noticed({ text: faultOf(result.error), tone: 'error' }))
  const { id, number } = result.data
  if (known.some((take) => take.id === id)) {
    const text = `Take ${number} is of this shot as it is: delete it first to compute it anew`
    store.dispatch(noticed({ text, tone: 'info' }))
  } else noteTakes(shot.present, [number])
  store.dispatch(selected({ take: null }))
  show()
}

/** Saves the shot that is open and makes a sweep of it. Returns what went wrong, if anything did. */
export async function makeSweep(axes: SweepAxis[]): Promise<string | null> {
  await saveNow()
  const { session, shot } = store.getState()
  const { data, error } = await store.dispatch(
    api.endpoints.makeSweep.initiate({ id: session.shotId!, version: session.version, axes }),
  )
  if (error) return faultOf(error)
  noteTakes(shot.present, data.takes.map(({ number }) => number).toSorted((a, b) => a - b)) // prettier-ignore
  return null
}
