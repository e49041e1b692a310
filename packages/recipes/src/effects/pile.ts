import { acts, birth, mask, OWN_COLOUR, particle, tinted } from '../parts.ts'
import type { Recipe } from '../recipe.ts'
import { floorUnder, G } from '../standing.ts'

/** Balls come out of the mesh, fall, roll and heap up. */
export const pile: Recipe = {
  id: 'pile',
  label: 'Pile up',
  help: 'Coloured balls tumble out of it, roll and heap up on the floor.',
  slots: [{ id: 'body', label: 'What they come out of', help: 'Lettering is good', sample: { text: 'QUAY' } }],
  make({ body }, { id, at }) {
    const { size, area, fall, low, middle, sides } = body!
    const [population, source] = [id('balls'), id('source')]
    const phases = ['Loose']
    // 600 of them beside one another would cover a third of it
    const radius = Math.min(size * 0.03, Math.sqrt(area / (3 * Math.PI * 600)))
    const pours = Math.min(8, Math.max(3, 7 * fall))
    const touch = { bounce: 0.3, friction: 0.4, sliding: 0.35 }
    return {
      seconds: pours + Math.max(2, 3 * fall),
      // not from below, where there is no room for them
      masks: [
        mask(source, 'slab', 'Where they come out', {
          position: [middle[0], low[1] + 0.35 * sides[1], middle[2]],
          direction: [0, -1, 0],
          soft: sides[1] * 0.05,
        }),
      ],
      populations: [
        {
          id: population,
          name: 'Balls',
          phases,
          particle: particle(radius, 0.4, 250, null),
          births: [
            birth('out', 'surface', 'Loose', {
              mesh: body!.id,
              density: source,
              amount: { rate: Math.round(1000 / pours), from: at(0), to: at(pours), cap: 1000 },
              offset: radius * 1.5,
              speed: 0.6 * Math.sqrt(G * radius),
              speedSpread: 0.5,
            }),
          ],
          influences: [
            acts('gravity', phases),
            acts('selfCollision', phases, touch),
            acts('floor', phases, { height: floorUnder(body!), ...touch }),
            acts('collide', phases, { mesh: body!.id, deflection: 8, ...touch }),
            acts('sleep', phases, { speed: 0.05 * Math.sqrt(G * radius) }),
            tinted(phases, [0, '#1f9a88'], [0.3, '#5fd0b5'], [0.55, '#efe8dc'], [0.8, '#f2b04a'], [1, '#e0634f']),
          ],
          look: { draw: 'spheres', colour: OWN_COLOUR },
        },
      ],
      share: 1,
      room: 0.5,
      tries: [
        ['How many a second', ['populations', population, 'births', 'out', 'amount', 'rate']],
        ['Size', ['populations', population, 'particle', 'radius', 'mean']],
        ['Bounce', ['populations', population, 'influences', 'floor', 'bounce']],
        ['How fast they come out', ['populations', population, 'births', 'out', 'speed']],
      ],
    }
  },
} // prettier-ignore
