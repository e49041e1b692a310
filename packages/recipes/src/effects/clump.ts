import { acts, birth, keys, OWN_COLOUR, particle, response } from '../parts.ts'
import type { Recipe } from '../recipe.ts'

/** A living clump goes after a point that moves, the small ones outside. */
export const clump: Recipe = {
  id: 'clump',
  label: 'Living clump',
  help: 'A clump that lives and breathes goes after a light that moves.',
  slots: [{ id: 'body', label: 'Where it begins', help: 'They fill it at the start', sample: 'Net float' }],
  make({ body }, { id, at }) {
    const { size, middle, volume } = body!
    const population = id('clump')
    const phases = ['Alive']
    // so many of them take about half of the size together
    const count = 3000
    const near = size * 0.045
    const radius = size * 0.012
    const [small, large] = [radius * 0.45, radius * 1.5]
    const byRadius = (to: string, at0: number, at1: number) =>
      response(to, 'radius', [[small, at0, 'smooth'], [large, at1]]) // prettier-ignore
    const path = (k: number, ...way: number[]) =>
      keys(...way.map((x, n): [number, number, 'smooth'] => [at(n * 2.5), middle[k]! + x * size, 'smooth']))
    return {
      seconds: 10,
      given: { body: { visible: false } },
      populations: [
        {
          id: population,
          name: 'Clump',
          phases,
          particle: particle(radius, 0.6, 1030, null),
          births: [birth('start', 'volume', 'Alive', { mesh: body!.id, amount: { burst: 'all', at: at(0) }, fill: 'grid', spacing: Math.cbrt(volume / count) })],
          influences: [
            acts('mutual', phases, {
              name: 'Hold together',
              attraction: size * 1.2,
              far: near * 1.8,
              repulsion: size * 9,
              near,
              neighbours: 14,
              responses: [byRadius('attraction', 0.4, 1.6)],
            }),
            acts('attract', phases, {
              name: 'To the light',
              strength: size * 3.2,
              falloff: 'none',
              point: [path(0, 0, 0.7, -0.6, 0.4, 0), path(1, 0, 0.3, -0.15, 0.2, 0), path(2, 0, -0.3, 0.3, 0, 0)],
              core: size * 0.3,
              responses: [byRadius('strength', 0.6, 1.3)],
            }),
            acts('turbulence', phases, {
              name: 'Stir',
              strength: size * 3,
              pattern: 'cells',
              scale: size * 0.45,
              change: 0.8,
              responses: [byRadius('strength', 1.4, 0.4)],
            }),
            acts('calm', phases, { strength: 2.5, radius: near * 1.5, neighbours: 10 }),
            acts('drag', phases, { name: 'Water', strength: 1.6 }),
            acts('colour', phases, {
              name: 'Tint by size',
              ramp: { stops: [[0, '#e6fff4'], [0.5, '#6cd6bd'], [1, '#4a93c4']] },
              responses: [byRadius('at', 0, 1)],
            }),
          ],
          look: { draw: 'spheres', colour: OWN_COLOUR },
        },
      ],
      share: 1,
      backdrop: 'night',
      room: 0.9,
      tries: [
        ['Distance at the start', ['populations', population, 'births', 'start', 'spacing']],
        ['Hold together', ['populations', population, 'influences', 'mutual', 'attraction']],
        ['Keep apart within', ['populations', population, 'influences', 'mutual', 'near']],
        ['Stir', ['populations', population, 'influences', 'turbulence', 'strength']],
      ],
    }
  },
} // prettier-ignore
