import { acts, birth, cue, keys, mask, particle, response } from '../parts.ts'
import type { Recipe } from '../recipe.ts'
import { within } from '../standing.ts'

/** What a front takes away of the mesh becomes grains, which the wind carries off. */
export const dust: Recipe = {
  id: 'dust',
  label: 'Turn to dust',
  help: 'It crumbles away from the top down, and the wind carries it off.',
  slots: [{ id: 'body', label: 'What turns to dust', help: 'It vanishes as it goes', sample: 'Lighthouse' }],
  make({ body }, { id, at }) {
    const { size, closed } = body!
    const [population, erosion, crumbs] = [id('dust'), id('erosion'), id('crumbs')]
    const wall = closed ? size * 0.01 : 0
    const phases = ['Loose', 'Drifting']
    const slowly = response('strength', 'age', [[0, 0.2, 'smooth'], [0.35, 1]]) // prettier-ignore
    return {
      seconds: 8,
      given: {
        body: {
          eaten: { mask: erosion, level: 0.5, thickness: wall, crumble: wall * 0.6, crumbleMask: crumbs },
        },
      },
      masks: [
        mask(erosion, 'spread', 'Erosion', {
          mesh: body!.id,
          from: { ball: within(body!, 0.5, 1, 0.5), radius: size * 0.05 },
          start: at(0.3),
          speed: size * 0.26,
          ragged: 0.7,
          raggedScale: size * 0.09,
          soft: size * 0.03,
        }),
        mask(crumbs, 'noise', 'Crumbs', { scale: size * 0.018, octaves: 3, contrast: 1.6 }),
      ],
      populations: [
        {
          id: population,
          name: 'Dust',
          phases,
          particle: particle(size * 0.0016, 0.6, 1200, { mean: 84, spread: 30 }),
          births: [
            birth('skin', 'surface', 'Loose', {
              mesh: body!.id,
              amount: { swept: 200000, mask: erosion, level: 0.5 },
              speed: size * 0.012,
              speedSpread: 0.9,
              cone: 60,
            }),
          ],
          cues: [cue('aloft', 'Loose', 'Drifting', { kind: 'after', frames: { mean: 16, spread: 8 } })],
          influences: [
            acts('gravity', phases, {}, size * 0.006),
            acts('wind', phases, {
              strength: 0.75,
              speed: size * 0.31,
              direction: [1, 0.22, -0.15],
              gusts: 0.7,
              gustSize: size * 0.26,
              responses: [response('strength', 'age', [[0, 0.45, 'smooth'], [0.3, 1]])], // prettier-ignore
            }),
            acts('turbulence', phases, {
              id: 'swirl',
              strength: keys([at(0), size * 0.16, 'smooth'], [at(2.5), size * 0.36]),
              scale: size * 0.15,
              octaves: 3,
              change: 0.35,
              responses: [slowly],
            }),
            acts('turbulence', phases, { id: 'fine', name: 'Fine turbulence', strength: size * 0.17, scale: size * 0.028, change: 0.9 }), // prettier-ignore
            acts('drag', phases, { strength: 0.8 }),
            acts('size', phases, {
              responses: [response('size', 'age', [[0, 1], [0.55, 0.85, 'smooth'], [1, 0.12]])], // prettier-ignore
            }),
          ],
          look: {
            draw: 'points',
            colour: {
              from: 'age',
              range: [0, 1],
              ramp: { stops: [[0, '#f3e3c8'], [0.5, '#e0a36a'], [1, '#a98fa6']] }, // prettier-ignore
            },
          },
        },
      ],
      share: 0.15,
      room: 0.45,
      tries: [
        ['How fast it crumbles', ['masks', erosion, 'speed']],
        ['Grains in all', ['populations', population, 'births', 'skin', 'amount', 'swept']],
        ['Wind', ['populations', population, 'influences', 'wind', 'speed']],
        ['Size of grains', ['populations', population, 'particle', 'radius', 'mean']],
      ],
    }
  },
}
