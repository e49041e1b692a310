import { acts, birth, keys, particle, tidy } from '../parts.ts'
import type { Recipe } from '../recipe.ts'
import { G } from '../standing.ts'

/** A vessel is filled with water, rocks, and comes to rest. */
export const fill: Recipe = {
  id: 'fill',
  label: 'Fill and settle',
  help: 'Water fills it to a level; it rocks, the water swings, and settles.',
  slots: [{ id: 'vessel', label: 'What is filled', help: 'A vessel with walls, or anything closed', sample: 'Tub' }],
  make({ vessel }, { id, at }) {
    const { sides, volume, size, fall, place } = vessel!
    const population = id('water')
    const phases = ['Flowing']
    const box = sides[0] * sides[1] * sides[2]
    // walls take little of the room that they enclose: then it is their hollow that is filled
    const hollow = volume < 0.35 * box
    const level = 0.6
    const room = (hollow ? 0.6 * box : volume) * level
    const radius = Math.cbrt(room / 4500) / 2
    const [x, y, z] = place.rotation
    // it rocks about as fast as water swings in it: deep water, a half wave as long as the vessel
    const period = 2 * Math.PI * Math.sqrt(size / (Math.PI * G))
    const rocks = Math.max(0.5, period)
    const turns = keys(
      [at(0.5), z, 'smooth'],
      [at(0.5 + rocks * 0.5), z + 7, 'smooth'],
      [at(0.5 + rocks), z - 7, 'smooth'],
      [at(0.5 + rocks * 1.5), z + 5, 'smooth'],
      [at(0.5 + rocks * 2), z],
    )
    return {
      seconds: Math.min(15, Math.max(4, 0.5 + 5 * rocks, 6 * fall)),
      given: { vessel: { place: { ...place, rotation: [x, y, turns] } } },
      populations: [
        {
          id: population,
          name: 'Water',
          phases,
          particle: particle(radius, 0, 998, null),
          births: [
            birth('fill', 'fill', 'Flowing', {
              mesh: vessel!.id,
              holds: hollow ? 'hollow' : 'inside',
              level,
              amount: { burst: 'all', at: at(0) },
            }),
          ],
          influences: [
            acts('gravity', phases),
            acts('liquid', phases, { viscosity: 0.001 }),
            acts('collide', phases, { name: vessel!.name, mesh: vessel!.id, side: hollow ? 'outside' : 'inside' }),
          ],
          look: {
            draw: 'spheres',
            colour: { from: 'speed', range: [0, tidy(Math.sqrt(G * size))], ramp: { stops: [[0, '#bdeee4'], [1, '#4fa5bd']] } },
            skin: {},
          },
        },
      ],
      share: 1,
      room: 0.4,
      from: [0.4, 1.1, 1],
      tries: [
        ['Level', ['populations', population, 'births', 'fill', 'level']],
        ['Fineness (radius)', ['populations', population, 'particle', 'radius', 'mean']],
        ['Viscosity', ['populations', population, 'influences', 'liquid', 'viscosity']],
      ],
    }
  },
} // prettier-ignore
