import { acts, densityOf, gridFill, keys, OWN_COLOUR, particle, tinted } from '../parts.ts'
import type { Recipe } from '../recipe.ts'
import { floorUnder, G } from '../standing.ts'

/** Linked grains in the shape of the mesh give way and run out to a heap. */
export const sand: Recipe = {
  id: 'sand',
  label: 'Collapse to sand',
  help: 'It stands for a moment, gives way, and runs out to a heap of sand.',
  slots: [
    { id: 'body', label: 'What collapses', help: 'Filled with grains, so it should be closed', sample: 'Sandbox crate', closed: true },
  ],
  make({ body }, { id, at }) {
    const { volume, fall } = body!
    const population = id('sand')
    const phases = ['Sand']
    const spacing = Math.cbrt(volume / 3000)
    const material = 'dry-sand'
    const gives = Math.max(0.8, fall)
    return {
      seconds: Math.min(20, gives + Math.max(4, 8 * fall)),
      given: { body: { visible: false } },
      populations: [
        {
          id: population,
          name: 'Sand',
          phases,
          particle: particle(spacing * 0.41, 0.2, densityOf(material), null),
          material,
          births: [
            gridFill('Sand', body!.id, spacing, at(0)),
          ],
          influences: [
            acts('gravity', phases),
            acts('link', phases, {
              name: 'Damp',
              reach: 4.2,
              varies: 0.18,
              stiffness: 0.9,
              damping: fall * 0.04,
              breaks: keys([at(0), 0.6], [at(gives), 0.6], [at(gives + Math.max(0.5, fall)), 0.0004]),
              spread: 0.9,
            }),
            acts('selfCollision', phases),
            acts('floor', phases, { height: floorUnder(body!), friction: 0.7, sliding: 0.6 }),
            acts('sleep', phases, { speed: 0.05 * Math.sqrt(G * spacing) }),
            tinted(phases, [0, '#8f6d45'], [0.5, '#c49a62'], [1, '#ead2a0']),
          ],
          look: { draw: 'spheres', colour: OWN_COLOUR },
        },
      ],
      share: 1,
      room: 0.4,
      tries: [
        ['Distance between grains', ['populations', population, 'births', 'fill', 'spacing']],
        ['Size of grains', ['populations', population, 'particle', 'radius', 'mean']],
        ['Friction of grains', ['populations', population, 'influences', 'selfCollision', 'friction']],
        ['Friction of the floor', ['populations', population, 'influences', 'floor', 'friction']],
      ],
    }
  },
} // prettier-ignore
