import type { ResponseKind } from './response.ts'

/** The same for all of them at once: what swings by it swings in step. */
export const clock: ResponseKind = {
  from: 'clock',
  label: 'the clock',
  unit: 'frames',
  usual: [0, 24],
  write(out, { from, to, first, rate, ahead }) {
    out.fill((ahead > 0 ? from + ahead * rate : to) - first)
  },
}
