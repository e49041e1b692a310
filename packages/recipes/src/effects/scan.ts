import { acts, birth, exact, keys, mask, particle, response, tidy } from '../parts.ts'
import type { Recipe } from '../recipe.ts'

const shrinks = response('size', 'age', [[0, 1, 'out'], [1, 0.02]]) // prettier-ignore
const shrink = acts('size', ['Lit'], { name: 'Shrink away', responses: [shrinks] })
const lit = (glow: number) => ({
  draw: 'points',
  colour: {
    from: 'age',
    range: [0, 1],
    ramp: {
      stops: [
        [0, '#e6fff4'],
        [0.5, '#6cd6bd'],
        [1, '#3d8fb0'],
      ],
    },
  },
  glow: { strength: glow, halo: 3, by: 'life' },
})

/** A device passes over the mesh and casts rays: they light points up where they meet it. */
export const scan: Recipe = {
  id: 'scan',
  label: 'Scan',
  help: 'A device passes over it; its rays light up points where they meet it, which fade.',
  slots: [
    { id: 'target', label: 'What is scanned', help: 'Only what the device sees lights up', sample: 'Wreck' },
    { id: 'device', label: 'What scans', help: 'Made small and moved over it', sample: 'Sounder' },
  ],
  about: ['target'],
  make({ target, device }, { id, at }) {
    const { size, low, high, middle, sides } = target!
    const [eyes, marks, around, seen] = [id('eyes'), id('marks'), id('around'), id('seen')]
    const scale = tidy((size * 0.1) / Math.max(1e-6, ...device!.own.sides))
    const height = high[1] + size * 0.35
    const place = ([x, y, z]: [number, number, number]) =>
      [x, y, z].map((c, k) => c - device!.own.middle[k]! * scale)
    const along = sides[0] >= sides[2] ? 0 : 2
    const [from, to] = [low, high].map((end, k) => end[along] + (k ? 1 : -1) * size * 0.15) as [number, number]
    const [start, end] = [from, to].map((x) => place(along === 0 ? [x, height, middle[2]] : [middle[0], height, x])) as [number[], number[]]
    const reach = height - low[1] + size
    return {
      seconds: 8,
      given: {
        device: {
          place: {
            position: start.map((x, k) => (k === along ? keys([at(0.3), x, 'smooth'], [at(6.5), end[k]!]) : exact(x))),
            rotation: [0, along === 0 ? 0 : -90, 0],
            scale: [scale, scale, scale],
          },
        },
      },
      masks: [mask(seen, 'seen', 'Seen', { mesh: target!.id, soft: size * 0.06 })],
      populations: [
        {
          id: eyes,
          name: 'Eyes',
          phases: ['Looking'],
          particle: particle(size * 0.0025, 0, 1000, null),
          births: [birth('on', 'surface', 'Looking', { mesh: device!.id, amount: { burst: 12, at: at(0) } })],
          influences: [acts('ride', ['Looking'])],
          look: { draw: 'points', colour: { from: 'own', range: [0, 1], ramp: 'brine' }, glow: { strength: 2, halo: 4 } },
        },
        {
          id: marks,
          name: 'Marks',
          phases: ['Lit'],
          particle: particle(size * 0.0035, 0.4, 1000, { mean: 90, spread: 30 }),
          births: [
            birth('met', 'particles', 'Lit', {
              from: eyes,
              amount: { rate: 36, to: at(6.7) },
              mesh: target!.id,
              laid: 'ray',
              reach,
              aim: 'direction',
              direction: [0, -1, 0],
              cone: 32,
            }),
          ],
          influences: [acts('ride', ['Lit']), shrink],
          look: { ...lit(3), threads: { frames: 3, reach, width: size * 0.0006, opacity: 0.22 } },
        },
        {
          id: around,
          name: 'Around them',
          phases: ['Lit'],
          particle: particle(size * 0.0018, 0.5, 1000, { mean: 110, spread: 40 }),
          births: [
            birth('more', 'particles', 'Lit', {
              from: marks,
              amount: { event: 'birth', count: 9 },
              mesh: target!.id,
              scatter: size * 0.018,
            }),
          ],
          influences: [acts('ride', ['Lit']), shrink],
          look: lit(1.2),
        },
      ],
      share: 1,
      backdrop: 'night',
      light: { strength: 0.25 },
      bloom: { strength: 0.5, radius: 0.4, threshold: 0.6 },
      room: 0.5,
      tries: [
        ['Rays a second of each eye', ['populations', marks, 'births', 'met', 'amount', 'rate']],
        ['How wide they look', ['populations', marks, 'births', 'met', 'cone']],
        ['Size of marks', ['populations', marks, 'particle', 'radius', 'mean']],
        ['Seen around a mark', ['masks', seen, 'soft']],
      ],
    }
  },
} // prettier-ignore
