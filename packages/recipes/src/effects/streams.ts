import { acts, birth, mask, particle, response } from '../parts.ts'
import type { Recipe } from '../recipe.ts'

/** Drops run down over the surface and draw lines behind them. */
export const streams: Recipe = {
  id: 'streams',
  label: 'Streams over a surface',
  help: 'Drops run down over it, keep to it whatever its shape, and draw lines.',
  slots: [{ id: 'body', label: 'What they run over', help: 'It may move', sample: 'Figurehead' }],
  make({ body }, { id, ramp }) {
    const { size, low, middle, sides } = body!
    const [population, source] = [id('streams'), id('source')]
    const phases = ['Running']
    return {
      seconds: 8,
      masks: [
        mask(source, 'slab', 'Where they begin', {
          position: [middle[0], low[1] + 0.85 * sides[1], middle[2]],
          direction: [0, -1, 0],
          soft: sides[1] * 0.04,
        }),
      ],
      populations: [
        {
          id: population,
          name: 'Streams',
          phases,
          particle: particle(size * 0.0019, 0.4, 1000, { mean: 110, spread: 40 }),
          births: [birth('source', 'surface', 'Running', { mesh: body!.id, amount: { rate: 420 }, density: source })],
          influences: [
            acts('march', phases, {
              name: 'Run down',
              mesh: body!.id,
              along: 'direction',
              direction: [0, -1, 0],
              speed: size * 0.28,
              strength: 4,
              look: size * 0.05,
              responses: [response('speed', 'random', [[0, 0.5], [1, 1.5]])], // prettier-ignore
            }),
            acts('turbulence', phases, { name: 'Veer', strength: size * 1.6, scale: size * 0.1, change: 0.15 }),
            acts('stay', phases, { mesh: body!.id, offset: size * 0.002 }),
          ],
          look: {
            draw: 'spheres',
            colour: { from: 'age', range: [0, 1], ramp },
            trail: { length: 36, step: 3, width: size * 0.003, widthEnd: size * 0.0005, colour: 'own', opacityEnd: 0.15 },
          },
        },
      ],
      share: 1,
      tries: [
        ['How many a second', ['populations', population, 'births', 'source', 'amount', 'rate']],
        ['How fast they run', ['populations', population, 'influences', 'march', 'speed']],
        ['How much they veer', ['populations', population, 'influences', 'turbulence', 'strength']],
        ['Size', ['populations', population, 'particle', 'radius', 'mean']],
      ],
    }
  },
} // prettier-ignore
