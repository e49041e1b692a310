import { acts, birth, keys, OWN_COLOUR, particle, response, tidy, tinted } from '../parts.ts'
import type { Recipe } from '../recipe.ts'

/** The mesh travels and leaves a wake behind, one grain each so many metres of its way. */
export const wake: Recipe = {
  id: 'wake',
  label: 'Wake',
  help: 'It travels through the picture and leaves a trail of sparks that hang, drift and go out.',
  slots: [{ id: 'body', label: 'What travels', help: 'Key its place anew to lead it elsewhere', sample: 'Paper boat' }],
  make({ body }, { id, at }) {
    const { size, place } = body!
    const [carriers, population] = [id('carriers'), id('wake')]
    const [left, right] = [-1.6 * size, 1.6 * size]
    // it stands where it stood in the middle of its way
    const [x, y, z] = place.position
    return {
      seconds: 8,
      given: {
        body: {
          place: {
            position: [
              keys([at(0), x + left, 'smooth'], [at(5.5), x + right]),
              keys(...[0, 1, 2, 3, 4, 5].map((s): [number, number, 'smooth'] => [at(s), y + size * 0.08 * (s % 2 ? 1 : -1), 'smooth'])),
              z,
            ],
            rotation: place.rotation,
            scale: place.scale,
          },
        },
      },
      populations: [
        {
          id: carriers,
          name: 'On it',
          phases: ['Riding'],
          particle: particle(size * 0.004, 0, 1000, null),
          births: [birth('on', 'surface', 'Riding', { mesh: body!.id, amount: { burst: 40, at: at(0) }, scatter: 'even' })],
          influences: [acts('ride', ['Riding']), acts('fade', ['Riding'], { name: 'Unseen', opacity: 0 })],
          look: { draw: 'points', colour: OWN_COLOUR },
        },
        {
          id: population,
          name: 'Wake',
          phases: ['Left'],
          particle: particle(size * 0.007, 0.5, 100, { mean: 70, spread: 30 }),
          births: [
            birth('left', 'particles', 'Left', {
              from: carriers,
              amount: { spacing: tidy(size * 0.035) },
              scatter: size * 0.01,
              inherit: 0.08,
            }),
          ],
          influences: [
            acts('turbulence', ['Left'], { name: 'Drift', strength: size * 0.35, scale: size * 0.3, change: 0.4 }),
            acts('gravity', ['Left'], {}, size * 0.004),
            acts('drag', ['Left'], { name: 'Still air', strength: 1.5 }),
            acts('size', ['Left'], {
              name: 'Go out',
              responses: [response('size', 'age', [[0, 0.7, 'smooth'], [0.12, 1], [1, 0.05]])], // prettier-ignore
            }),
            tinted(['Left'], [0, '#ff9d6b'], [0.6, '#ffd98a'], [1, '#8fe0cf']),
          ],
          look: { draw: 'points', colour: OWN_COLOUR, glow: { strength: 1.6, halo: 3, by: 'life' } },
        },
      ],
      share: 1,
      backdrop: 'night',
      bloom: { strength: 0.5, radius: 0.4, threshold: 0.7 },
      room: 1.8,
      tries: [
        ['Size', ['populations', population, 'particle', 'radius', 'mean']],
        ['Places that leave it', ['populations', carriers, 'births', 'on', 'amount', 'burst']],
        ['Drift', ['populations', population, 'influences', 'turbulence', 'strength']],
        ['Taken along', ['populations', population, 'births', 'left', 'inherit']],
      ],
    }
  },
} // prettier-ignore
