import type { Shot } from '@tangle/core'
import { createTakeSheet, type SheetPoints, type TakeSheet } from '@tangle/runtime/browser'

/** Plays takes of a shot in step: goes on when all of them have the next frame. */
export interface SheetClock {
  readonly frame: number
  readonly playing: boolean
  /** Counts up when there is something else to see. */
  readonly changes: number
  points(take: string): SheetPoints | undefined
  faultOf(take: string): string | undefined
  seek(frame: number): void
  setPlaying(on: boolean): void
  subscribe(listener: () => void): () => void
  /** Begins to read; call what it returns to end. */
  start(): () => void
}

export function createSheetClock(takes: string[], { frames, populations }: Shot): SheetClock {
  const { first, last, rate } = frames
  const listeners = new Set<() => void>()
  let sheet: TakeSheet | null = null
  let [frame, playing, changes] = [first, true, 0]
  const changed = (): void => {
    changes++
    for (const listener of listeners) listener()
  }
  const following = (): number => (frame < last ? frame + 1 : first)
  const tick = (): void => {
    if (!playing || !sheet?.has(frame) || !sheet.has(following())) return
    frame = following()
    changed()
  }
  return {
    get frame() {
      return frame
    },
    get playing() {
      return playing
    },
    get changes() {
      return changes
    },
    points: (take) => sheet?.points(take, frame),
    faultOf: (take) => sheet?.faultOf(take),
    seek(next) {
      ;[frame, playing] = [next, false]
      changed()
    },
    setPlaying(on) {
      playing = on
      changed()
    },
    subscribe(listener) {
      listeners.add(listener)
      return () => listeners.delete(listener)
    },
    start() {
      const looks = Object.fromEntries(
        populations.map(({ id, look, attributes }) => [id, { look, attributes }]),
      )
      const reading = createTakeSheet(takes.map((take) => ({ take, address: `/api/takes/${take}`, looks })))
      sheet = reading
      reading.subscribe(changed)
      changed()
      const timer = setInterval(tick, 1000 / rate)
      return () => {
        clearInterval(timer)
        reading.dispose()
      }
    },
  }
}
