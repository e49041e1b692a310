import { acts, birth, cue, particle, response } from '../parts.ts'
import type { Loose, Recipe } from '../recipe.ts'
import { floorUnder, G } from '../standing.ts'

/** Snow falls from above the highest point, drifts, lies where it is flat enough, and gathers to a cover. */
export const snow: Recipe = {
  id: 'snow',
  label: 'Snow over',
  help: 'It snows; flakes drift, lie where it is flat enough, and a cover grows.',
  slots: [{ id: 'body', label: 'What is snowed on', help: 'Roofs, figures, lettering', sample: 'Steep shed' }],
  make({ body }, { id, at }) {
    const { size, high, sides, middle } = body!
    const population = id('snow')
    const phases = ['Falling', 'Lying', 'On the ground']
    const moving = phases.slice(0, 2)
    const radius = size * 0.0035
    // flakes cross the picture in the same time whatever its size
    const [falls, slows] = [size * 0.28, 2.5]
    const weight = (falls * slows) / G
    const above = high[1] + size * 0.25 - middle[1]
    /** A layer of air above it that reaches so far around it. */
    const layer = (around: number, high: number, up: number): Loose => ({
      mesh: body!.id,
      size: [sides[0] + size * around, size * high, sides[2] + size * around],
      middle: [0, above + size * up, 0],
      speed: falls,
      speedSpread: 0.3,
    })
    const floor = floorUnder(body!)
    const grip = {
      bounce: 0,
      friction: 0.8,
      sliding: 0.5,
      sticky: weight * G * 0.5,
      responses: [response('sticky', 'slope', [[25, 1], [45, 0]])], // prettier-ignore
    }
    return {
      seconds: 14,
      populations: [
        {
          id: population,
          name: 'Snow',
          phases,
          particle: { ...particle(radius, 0.4, 100, null), sizes: 'exponential' },
          births: [
            // the air is full of it at the start; farther off there is less, so that it has no edge
            birth('air', 'region', 'Falling', { ...layer(1.5, 0.4, 0), amount: { burst: 1800, at: at(0) } }),
            birth('sky', 'region', 'Falling', { ...layer(1.2, 0.03, 0.28), amount: { rate: 1100 } }),
            birth('around', 'region', 'Falling', { ...layer(2.6, 0.03, 0.28), amount: { rate: 900 } }),
          ],
          cues: [
            ...moving.map((from) => cue(`lands-${from.toLowerCase()}`, from, 'On the ground', { kind: 'contact', margin: radius })),
            cue('lies', 'Falling', 'Lying', { kind: 'rest', speed: falls * 0.1, frames: 4 }),
          ],
          influences: [
            acts('gravity', moving, {}, weight),
            acts('drag', moving, { name: 'Air', strength: slows }),
            acts('drag', ['On the ground'], { id: 'still', name: 'Stays on the ground', strength: 200 }),
            acts('wind', ['Falling'], {
              strength: 0.6,
              speed: size * 0.12,
              direction: [1, 0, 0.3],
              gusts: 0.8,
              gustSize: size * 0.6,
            }),
            acts('turbulence', ['Falling'], { name: 'Flutter', strength: size * 0.6, scale: size * 0.12, octaves: 1, change: 0.8 }),
            acts('collide', moving, { mesh: body!.id, ...grip }),
            acts('floor', moving, { height: floor, ...grip }),
            acts('cover', ['Lying'], {
              mesh: body!.id,
              depth: radius,
              gathers: 40,
              repose: 40,
              detail: Math.max(size * 0.04, Math.sqrt(body!.area / 2000)),
            }),
            acts('sleep', ['Lying'], { speed: falls * 0.15 }),
          ],
          look: { draw: 'points', colour: { from: 'own', range: [0, 1], ramp: 'snow' } },
        },
      ],
      share: 1,
      backdrop: 'night',
      room: 0.45,
      tries: [
        ['Flakes a second', ['populations', population, 'births', 'sky', 'amount', 'rate']],
        ['Size of flakes', ['populations', population, 'particle', 'radius', 'mean']],
        ['Wind', ['populations', population, 'influences', 'wind', 'speed']],
        ['How fast the cover grows', ['populations', population, 'influences', 'cover', 'gathers']],
      ],
    }
  },
} // prettier-ignore
