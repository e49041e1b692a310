import type { Shot } from '@tangle/core'
import { engine } from '../engine/engine.ts'
import { api, faultOf, KEPT_ALIVE } from './api.ts'
import { keepHistory } from './history.ts'
import { store } from './index.ts'
import { noteMade, noteMoment } from './moments.ts'
import { saveChanged, type Session } from './session.ts'

/** Milliseconds of rest after an edit before it is saved. */
const REST = 700
const THUMBNAIL_REST = 1500
/** Times that a picture is put off while the stage is busy: to take it stops the page for a moment. */
const PUT_OFF = 10
/** Milliseconds until a server that was away is asked again. */
const RETRY = 5000

/** What the server has of each shot that was open in this window. */
const known = new Map<string, { document: Shot; version: number }>()
let timer: ReturnType<typeof setTimeout> | undefined
let thumbnailTimer: ReturnType<typeof setTimeout> | undefined
let saving: Promise<void> = Promise.resolve()
/** Saves that are under way or wait for one. */
let pending = 0

const LEAVING = ['beforeunload', 'pagehide']
/** What is typed into a field is taken when the field is left. */
const leaveField = (): void => (document.activeElement as HTMLElement | null)?.blur()

/** Marks the present document as the one the server has. */
export function markSaved(): void {
  const { shot, session } = store.getState()
  if (session.shotId) known.set(session.shotId, { document: shot.present, version: session.version })
}

/** The open shot and its document, where the server does not have it yet; null where nothing is to be saved. */
function unsaved(): { shotId: string; document: Shot } | null {
  const { shot, session } = store.getState()
  const { shotId, save } = session
  if (!shotId || save.state === 'conflict' || known.get(shotId)?.document === shot.present) return null
  return { shotId, document: shot.present }
}

/** Watches the document and saves it after each rest. Returns what ends the watching. */
export function watchShot(): () => void {
  // first of all: what is half typed is taken
  for (const leaving of LEAVING) addEventListener(leaving, leaveField)
  addEventListener('pagehide', saveOnLeaving)
  addEventListener('pagehide', keepHistory)
  addEventListener('beforeunload', askBeforeLeaving)
  noteMade(store.getState().shot.present)
  const stop = store.subscribe(() => {
    const { shot, session } = store.getState()
    noteMade(shot.present)
    const { state } = session.save
    if (!unsaved()) return void (state === 'edited' && told({ state: 'saved' }))
    if (state === 'saved') told({ state: 'edited' })
    clearTimeout(timer)
    timer = setTimeout(() => void saveNow(), REST)
  })
  return () => {
    for (const leaving of LEAVING) removeEventListener(leaving, leaveField)
    removeEventListener('pagehide', saveOnLeaving)
    removeEventListener('pagehide', keepHistory)
    keepHistory()
    removeEventListener('beforeunload', askBeforeLeaving)
    stop()
    void saveNow()
  }
}

/** Saves what is not saved yet, as it is now, even if another shot is opened meanwhile; one save at a time. */
export function saveNow(): Promise<void> {
  clearTimeout(timer)
  const now = unsaved()
  if (!now) return saving
  pending++
  saving = saving.then(() => save(now.shotId, now.document)).finally(() => pending--)
  return saving
}

const told = (save: Partial<Session['save']> & { version?: number }): void =>
  void store.dispatch(saveChanged(save))

async function save(shotId: string, document: Shot): Promise<void> {
  const server = known.get(shotId)
  if (!server || server.document === document) return
  const isOpen = (): boolean => store.getState().session.shotId === shotId
  // it may have waited for one that met another window's change
  if (isOpen() && store.getState().session.save.state === 'conflict') return
  if (isOpen()) told({ state: 'saving' })
  const result = await store.dispatch(
    api.endpoints.saveShot.initiate({ id: shotId, version: server.version, document }),
  )
  if (!result.error) {
    known.set(shotId, { document, version: result.data.version })
    noteMoment(document, { saved: true })
  }
  if (!isOpen()) return
  if (result.error) {
    const conflict = 'status' in result.error && result.error.status === 409
    told({ state: conflict ? 'conflict' : 'failed', message: faultOf(result.error) })
    if (!conflict) timer = setTimeout(() => void saveNow(), RETRY)
    return
  }
  const { version } = result.data
  told({ state: unsaved() ? 'edited' : 'saved', at: Date.now(), message: null, version })
  takePictureLater(shotId, PUT_OFF)
}

function takePictureLater(shotId: string, putOff: number): void {
  clearTimeout(thumbnailTimer)
  thumbnailTimer = setTimeout(() => {
    if (putOff > 0 && (unsaved() || engine.busy)) takePictureLater(shotId, putOff - 1)
    else void sendThumbnail(shotId)
  }, THUMBNAIL_REST)
}

/** Sends what is not saved yet with a request that outlives the page. */
function saveOnLeaving(): void {
  const now = unsaved()
  if (!now || pending > 0) return
  const { shotId, document } = now
  const { version } = known.get(shotId)!
  void fetch(`/api/shots/${shotId}`, {
    method: 'PUT',
    keepalive: true,
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ version, document }),
  })
    .then((answer) => answer.json() as Promise<{ version?: number }>)
    // a page that comes back from the browser's cache goes on from there
    .then((saved) => saved.version && known.set(shotId, { document, version: saved.version }))
    .catch(() => undefined)
}

/** Where a page that is left could not send all, the browser asks before it goes. */
function askBeforeLeaving(event: BeforeUnloadEvent): void {
  const now = unsaved()
  if (!now) return
  if (pending > 0 || new Blob([JSON.stringify(now.document)]).size > KEPT_ALIVE) {
    void saveNow()
    event.preventDefault()
  }
}

async function sendThumbnail(shotId: string): Promise<void> {
  if (store.getState().session.shotId !== shotId) return
  const image = await engine.picture()
  if (image)
    await fetch(`/api/shots/${shotId}/thumbnail`, { method: 'PUT', body: image }).catch(() => undefined)
}

/** Keeps the pictures of the open shot that move in the list of shots. */
export async function sendStrip(strip: Blob): Promise<void> {
  const { shotId } = store.getState().session
  if (shotId) await fetch(`/api/shots/${shotId}/strip`, { method: 'PUT', body: strip }).catch(() => undefined)
}
