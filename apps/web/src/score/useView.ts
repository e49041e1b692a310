import type { WheelEvent } from 'react'
import { useAct, useStore } from '../store/index.ts'
import { shownAs } from '../store/session.ts'

export interface View {
  from: number
  to: number
}
/** Fewest frames that the score shows. */
const LEAST = 4

/** The view after a zoom about a frame: above 1 shows fewer frames. */
export function zoomed({ from, to }: View, whole: View, factor: number, about: number): View | null {
  const span = Math.max(LEAST, (to - from) / factor)
  const share = (about - from) / (to - from || 1)
  return held({ from: about - span * share, to: about + span * (1 - share) }, whole)
}
export const panned = ({ from, to }: View, whole: View, frames: number): View | null =>
  held({ from: from + frames, to: to + frames }, whole)

/** Keeps a view within the shot; null when it shows all of it. */
function held({ from, to }: View, whole: View): View | null {
  const span = to - from
  if (span >= whole.to - whole.from) return null
  const start = Math.min(Math.max(from, whole.from), whole.to - span)
  return { from: start, to: start + span }
}

/** The frames that the score shows, and ways to change them. */
export function useView() {
  const act = useAct()
  const { first, last } = useStore((state) => state.shot.present.frames)
  const chosen = useStore((state) => state.session.view)
  const whole = { from: first, to: Math.max(last, first + 1) }
  const view = chosen ?? whole
  const span = view.to - view.from
  const show = (next: View | null): void => void act(shownAs({ view: next }))
  return {
    ...view,
    span,
    share: (frame: number): number => (frame - view.from) / span,
    left: (frame: number): string => `${((frame - view.from) / span) * 100}%`,
    zoom: (factor: number, about: number) => show(zoomed(view, whole, factor, about)),
    pan: (frames: number) => show(panned(view, whole, frames)),
    fit: () => show(null),
    /** Ctrl and the wheel zoom about the pointer, Shift and the wheel go along. */
    onWheel(event: WheelEvent<HTMLElement>): void {
      if (!event.ctrlKey && !event.shiftKey) return
      const { left, width } = event.currentTarget.getBoundingClientRect()
      if (event.ctrlKey)
        show(
          zoomed(
            view,
            whole,
            event.deltaY < 0 ? 1.25 : 0.8,
            view.from + ((event.clientX - left) / width) * span,
          ),
        )
      else show(panned(view, whole, (Math.sign(event.deltaY || event.deltaX) * span) / 12))
    },
  }
}
