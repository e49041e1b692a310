/** Frames of dust in a gusty wind, in closed form: births at even times, deaths by lifespan. */
import type { CachedFrame } from '../src/index.ts'

export interface Dust {
  frames: number
  /** Particles at a time. */
  count: number
  /** What they span, metres. */
  size: number
  rate: number
}

export function dustFrames({ frames, count, size, rate }: Dust): CachedFrame[] {
  const all = Math.ceil(count * 1.5)
  const chance = (id: number, n: number): number => fraction(Math.sin(id * 12.9898 + n * 78.233) * 43758.5453)
  return Array.from({ length: frames }, (_, f): CachedFrame => {
    const time = (f + 1) / rate
    const ids = Array.from({ length: all }, (_, id) => id).filter((id) => {
      const birth = chance(id, 1) * 1.5 * (frames / rate) - 0.5 * (frames / rate)
      return birth < time && time < birth + 0.3 + chance(id, 2) * (frames / rate)
    })
    const of = (make: (id: number, age: number) => number[]): Float32Array =>
      Float32Array.from(ids.flatMap((id) => make(id, time - (chance(id, 1) * 1.5 - 0.5) * (frames / rate))))
    const wave = (id: number, axis: number): [number, number] => [
      1 + 3 * chance(id, 3 + axis),
      chance(id, 6 + axis) * 7,
    ]
    return {
      frame: f + 1,
      populations: [
        {
          id: 'dust',
          count: ids.length,
          columns: {
            id: Uint32Array.from(ids),
            phase: Uint32Array.from(ids, (id) => id % 2),
            position: of((id) =>
              [0, 1, 2].map((axis) => {
                const [w, p] = wave(id, axis)
                return size * (chance(id, 9 + axis) + 0.2 * Math.sin(w * time + p))
              }),
            ),
            velocity: of((id) =>
              [0, 1, 2].map((axis) => {
                const [w, p] = wave(id, axis)
                return size * 0.2 * w * Math.cos(w * time + p)
              }),
            ),
            age: of((_, age) => [age]),
            lifespan: of((id) => [0.3 + chance(id, 2) * (frames / rate)]),
            radius: of((id) => [size * 0.001 * (0.5 + chance(id, 4))]),
          },
        },
      ],
      meshes: [],
    }
  })
}
const fraction = (x: number): number => x - Math.floor(x)
