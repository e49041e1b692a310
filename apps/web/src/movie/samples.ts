/** The pictures that one frame of a movie is the mean of: at moments while the shutter is open, through places all over the lens. */
import type { Filmed } from '../stage/world.ts'

/** Radians from one place of the lens to the next: the golden angle, by which they are even (Vogel, "A better way to construct the sunflower head", 1979). */
const GOLDEN = Math.PI * (3 - Math.sqrt(5))

/**
 * @param count pictures
 * @param shutter frames for which it is open, half before the frame and half after
 */
export function samplesOf(count: number, shutter: number): Pick<Filmed, 'after' | 'lens'>[] {
  if (count === 1) return [{ after: 0, lens: [0, 0] }]
  return Array.from({ length: count }, (_, k) => {
    // where on the lens has nothing to do with when
    const place = scattered(k) * count
    const radius = Math.sqrt((place + 0.5) / count)
    const angle = place * GOLDEN
    return {
      after: shutter * ((k + 0.5) / count - 0.5),
      lens: [radius * Math.cos(angle), radius * Math.sin(angle)],
    }
  })
}

/** 0 to 1, evenly however many there are (van der Corput). */
function scattered(k: number): number {
  let [value, part] = [0, 0.5]
  for (let rest = k; rest > 0; rest >>= 1, part /= 2) if (rest & 1) value += part
  return value
}
