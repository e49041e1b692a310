/** The steps of undo of the open shot, which the browser keeps with its tab over a reload. */
import type { Shot } from '@tangle/core'
import { store } from './index.ts'
import { inOrder } from './inOrder.ts'
import { momentOf, noteMoment, type Moment } from './moments.ts'
import { historyRestored } from './shot.ts'

/** Steps that are kept of what was undone and of what can be redone. */
const MOST_STEPS = 60
const keyOf = (shotId: string): string => `tangle.undo.${shotId}`

interface Kept {
  /** What the steps lead to. */
  document: Shot
  past: Shot[]
  future: Shot[]
  /** Of all of them, from the first to the last. */
  moments?: Moment[]
}

/** Keeps the steps of the open shot; fewer of them where the browser has no room for all. */
export function keepHistory(): void {
  const { shot, session } = store.getState()
  if (!session.shotId) return
  for (let steps = MOST_STEPS; steps >= 1; steps = Math.floor(steps / 2)) {
    const [past, future] = [shot.past.slice(-steps), shot.future.slice(0, steps)]
    const moments = [...past, shot.present, ...future].map(momentOf)
    const kept: Kept = { document: shot.present, past, future, moments }
    try {
      return sessionStorage.setItem(keyOf(session.shotId), JSON.stringify(kept))
    } catch {
      // no room
    }
  }
  forget(session.shotId)
}

/** Gives a shot that has just been loaded its steps back, if they lead to what was loaded. */
export function restoreHistory(shotId: string, document: Shot): void {
  const kept = read(shotId)
  forget(shotId)
  if (!kept || inOrder(kept.document) !== inOrder(document)) return
  store.dispatch(historyRestored(kept))
  const { past, present, future } = store.getState().shot
  const all = [...past, present, ...future]
  all.forEach((one, n) => noteMoment(one, kept.moments?.[n] ?? {}))
}

function read(shotId: string): Kept | null {
  try {
    const kept = JSON.parse(sessionStorage.getItem(keyOf(shotId)) ?? 'null') as Kept | null
    return kept && Array.isArray(kept.past) && Array.isArray(kept.future) ? kept : null
  } catch {
    return null
  }
}
function forget(shotId: string): void {
  try {
    sessionStorage.removeItem(keyOf(shotId))
  } catch {
    // where the browser keeps nothing there is nothing to forget
  }
}
