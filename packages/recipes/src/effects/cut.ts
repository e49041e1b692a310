import type { Vector } from '@tangle/core'
import { acts, densityOf, exact, gridFill, keys, OWN_COLOUR, particle, tidy, tinted } from '../parts.ts'
import type { Recipe } from '../recipe.ts'
import { floorUnder } from '../standing.ts'

/** A soft body is cut by a blade that comes down through it and pulls a part away. */
export const cut: Recipe = {
  id: 'cut',
  label: 'Cut',
  help: 'A blade comes down through a soft body and draws the halves apart.',
  slots: [
    { id: 'body', label: 'What is cut', help: 'Becomes soft: filled with linked grains', sample: 'Jelly', closed: true },
    { id: 'blade', label: 'What cuts', help: 'Any shape: it is made thin and moved', sample: 'Plank' },
  ],
  about: ['body'],
  make({ body, blade }, { id, at }) {
    const { volume, sides, high, middle, size, fall } = body!
    const population = id('soft')
    const phases = ['Soft']
    const spacing = Math.cbrt(volume / 2200)
    const material = 'jelly'
    const smooth = { sticky: 0 }
    const floor = floorUnder(body!)
    // a blade across the body: thinner than two grains, higher and deeper than it
    const wanted: Vector = [spacing * 0.5, sides[1] * 1.5, sides[2] * 1.5]
    const scale = wanted.map((side, k) => tidy(side / Math.max(1e-6, blade!.own.sides[k]!)))
    const middleAt = (x: number, low: number): Vector =>
      [x, low + wanted[1] / 2, middle[2]].map((c, k) => c - blade!.own.middle[k]! * scale[k]!) as Vector
    const [above, down] = [high[1] + size * 0.2, floor + spacing * 0.95]
    const [up, through] = [middleAt(middle[0], above), middleAt(middle[0], down)]
    const aside = middleAt(middle[0] + sides[0] * 0.6, down)[0]
    return {
      seconds: 6,
      given: {
        body: { visible: false },
        blade: {
          place: {
            position: [
              keys([at(0), up[0], 'hold'], [at(2.2), up[0], 'smooth'], [at(4.2), aside]),
              keys([at(0.5), up[1], 'smooth'], [at(2), through[1], 'hold'], [at(4.4), through[1], 'smooth'], [at(5.4), up[1]]),
              exact(up[2]),
            ],
            rotation: [0, 0, 0],
            scale,
          },
        },
      },
      populations: [
        {
          id: population,
          name: 'Soft body',
          phases,
          particle: particle(spacing * 0.45, 0, densityOf(material), null),
          material,
          births: [
            gridFill('Soft', body!.id, spacing, at(0)),
          ],
          influences: [
            acts('gravity', phases),
            acts('link', phases, {
              name: 'Holds together',
              to: 'faces',
              stiffness: 0.85,
              damping: fall * 0.04,
              breaks: 0.9,
              cut: blade!.id,
            }),
            acts('selfCollision', phases, smooth),
            acts('floor', phases, { height: floor, ...smooth, friction: 0.6, sliding: 0.5 }),
            acts('collide', phases, { name: 'Blade', mesh: blade!.id, ...smooth, friction: 0.1, sliding: 0.1 }),
            tinted(phases, [0, '#c23a52'], [1, '#ee7a83']),
          ],
          look: { draw: 'spheres', colour: OWN_COLOUR },
        },
      ],
      share: 1,
      room: 0.5,
      from: [0.5, 0.4, 1],
      tries: [
        ['Distance between grains', ['populations', population, 'births', 'fill', 'spacing']],
        ['Size of grains', ['populations', population, 'particle', 'radius', 'mean']],
        ['Stiffness', ['populations', population, 'influences', 'link', 'stiffness']],
        ['Tears at', ['populations', population, 'influences', 'link', 'breaks']],
      ],
    }
  },
} // prettier-ignore
