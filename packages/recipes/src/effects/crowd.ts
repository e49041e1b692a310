import { acts, birth, OWN_COLOUR, particle, response } from '../parts.ts'
import type { Recipe } from '../recipe.ts'
import { floorUnder } from '../standing.ts'

/** Two groups walk through each other, past the mesh, and make way in time. */
export const crowd: Recipe = {
  id: 'crowd',
  label: 'Keep a crowd apart',
  help: 'Two groups walk through each other and around it; nobody runs into anybody.',
  slots: [{ id: 'body', label: 'What stands in the way', help: 'They walk around it', sample: 'Bollard' }],
  make({ body }, { id, at }) {
    const { size, sides, middle } = body!
    // they cross where it is narrow
    const along = sides[0] >= sides[2] ? 0 : 2
    const wide = sides[2 - along]!
    const radius = size * 0.03
    const floor = floorUnder(body!)
    const pace = radius * 5.4
    const lane = wide + size * 1.4
    const population = id('people')
    const groups = [
      { phase: 'There', side: -1, stops: [[0, '#5ba3c4'], [1, '#bfe3ee']] },
      { phase: 'Back', side: 1, stops: [[0, '#e08a3c'], [1, '#f6cf94']] },
    ]
    const phases = groups.map(({ phase }) => phase)
    const towards = (side: number): number[] => (along === 0 ? [-side, 0, 0] : [0, 0, -side])
    const start = sides[along]! / 2 + size * 0.9
    return {
      seconds: 18,
      populations: [
        {
          id: population,
          name: 'People',
          phases,
          particle: particle(radius, 0.12, 985, null),
          births: groups.map(({ phase, side }) =>
            birth(phase.toLowerCase(), 'region', phase, {
              mesh: body!.id,
              amount: { burst: 70, at: at(0) },
              size: along === 0 ? [size * 0.9, 0, lane] : [lane, 0, size * 0.9],
              middle: [
                along === 0 ? side * start : 0,
                floor + radius - middle[1],
                along === 2 ? side * start : 0,
              ],
            }),
          ),
          influences: [
            // towards a velocity of their own within half a second: Helbing, Molnár, "Social force model for
            // pedestrian dynamics" (1995)
            ...groups.map(({ phase, side }) =>
              acts('wind', [phase], {
                id: `walk-${phase.toLowerCase()}`,
                name: `Walk ${phase.toLowerCase()}`,
                strength: 2,
                speed: pace,
                direction: towards(side),
                gusts: 0,
                responses: [response('speed', 'random', [[0, 0.85], [1, 1.15]])], // prettier-ignore
              }),
            ),
            acts('wander', phases, { name: 'Stray a little', strength: pace * 0.5, turns: 0.4, moves: 'level' }),
            acts('avoid', phases, {
              name: 'Make way',
              // people have 1.5 m² at a radius of 0.24 m
              strength: 1.5 * (radius / 0.24) ** 2,
              mesh: body!.id,
              reach: radius * 20,
              limit: pace * 11,
              moves: 'level',
            }),
            ...groups.map(({ phase, stops }) =>
              acts('colour', [phase], {
                id: `coats-${phase.toLowerCase()}`,
                name: `Coats ${phase.toLowerCase()}`,
                ramp: { stops },
                responses: [response('at', 'random', [[0, 0], [1, 1]])], // prettier-ignore
              }),
            ),
          ],
          look: { draw: 'spheres', colour: OWN_COLOUR },
        },
      ],
      share: 1,
      room: 1,
      from: [0.3, 0.75, 1],
      tries: [
        ['Walking there', ['populations', population, 'births', 'there', 'amount', 'burst']],
        ['Walking back', ['populations', population, 'births', 'back', 'amount', 'burst']],
        ['Looks ahead', ['populations', population, 'influences', 'avoid', 'ahead']],
        ['Size', ['populations', population, 'particle', 'radius', 'mean']],
      ],
    }
  },
} // prettier-ignore
