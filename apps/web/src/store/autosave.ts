import type { Shot } from '@tangle/core'
import { engine } from '../engine/engine.ts'
import { api, faultOf } from './api.ts'
import { store } from './index.ts'
import { saveChanged } from './session.ts'

/** Milliseconds of rest after an edit before it is saved. */
const REST = 700
const THUMBNAIL_REST = 1500

let savedShot: Shot | null = null
let timer: ReturnType<typeof setTimeout> | undefined
let thumbnailTimer: ReturnType<typeof setTimeout> | undefined
let saving: Promise<void> = Promise.resolve()

/** Marks the present document as the one the server has. */
export function markSaved(): void {
  savedShot = store.getState().shot.present
}

/** Watches the document and saves it after each rest. Returns what ends the watching. */
export function watchShot(): () => void {
  const leave = (): void => void saveNow()
  addEventListener('pagehide', leave)
  const stop = store.subscribe(() => {
    const { shot, session } = store.getState()
    if (!session.shotId || shot.present === savedShot || session.save.state === 'conflict') return
    if (session.save.state === 'saved') store.dispatch(saveChanged({ state: 'edited' }))
    clearTimeout(timer)
    timer = setTimeout(leave, REST)
  })
  return () => {
    removeEventListener('pagehide', leave)
    clearTimeout(timer)
    stop()
    leave()
  }
}

/** Saves what is not saved yet; one save at a time. */
export function saveNow(): Promise<void> {
  clearTimeout(timer)
  saving = saving.then(save)
  return saving
}

async function save(): Promise<void> {
  const { shot, session } = store.getState()
  const { present } = shot
  if (!session.shotId || present === savedShot || session.save.state === 'conflict') return
  store.dispatch(saveChanged({ state: 'saving' }))
  const request = { id: session.shotId, version: session.version, document: present }
  const result = await store.dispatch(api.endpoints.saveShot.initiate(request))
  if (store.getState().session.shotId !== session.shotId) return
  if (result.error) {
    const conflict = 'status' in result.error && result.error.status === 409
    store.dispatch(saveChanged({ state: conflict ? 'conflict' : 'failed', message: faultOf(result.error) }))
    // a server that was away for a moment is asked again
    if (!conflict) timer = setTimeout(() => void saveNow(), 5000)
    return
  }
  savedShot = present
  const edited = store.getState().shot.present !== present
  store.dispatch(
    saveChanged({
      state: edited ? 'edited' : 'saved',
      at: Date.now(),
      message: null,
      version: result.data.version,
    }),
  )
  clearTimeout(thumbnailTimer)
  thumbnailTimer = setTimeout(() => void sendThumbnail(request.id), THUMBNAIL_REST)
}

async function sendThumbnail(shotId: string): Promise<void> {
  if (store.getState().session.shotId !== shotId) return
  const image = await engine.picture()
  if (image)
    await fetch(`/api/shots/${shotId}/thumbnail`, { method: 'PUT', body: image }).catch(() => undefined)
}
