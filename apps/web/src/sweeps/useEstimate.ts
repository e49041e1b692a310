import { useEngineSlowly } from '../engine/useEngine.ts'
import { useShot } from '../store/index.ts'
import { estimateOf, type Estimate } from './estimate.ts'

/** Frames of the preview that are looked at. */
const LOOKS = 24

/** What a take of the shot will be, as far as the preview knows it; null: it knows nothing yet. */
export function useEstimate(): Estimate | null {
  const shot = useShot()
  const seen = useEngineSlowly((e) => {
    const { first } = shot.frames
    const known = (e.preview?.state.computedTo ?? first - 1) - first + 1
    const stride = Math.max(1, Math.floor(known / LOOKS))
    const previewed = []
    for (let frame = first; frame < first + known; frame += stride) {
      const one = e.preview?.frame(frame)
      if (!one) continue
      const alive = Object.fromEntries(one.measures.populations.map((p) => [p.id, p.alive]))
      previewed.push({ alive, milliseconds: one.milliseconds })
    }
    return { previewed, known }
  }, 1000)
  return estimateOf(shot, seen.previewed, seen.known)
}
