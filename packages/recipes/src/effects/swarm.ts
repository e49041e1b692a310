import { acts, birth, cue, particle, response } from '../parts.ts'
import type { Recipe } from '../recipe.ts'

/** A cloud of them flies to the mesh, sits down on it, and leaves at a frame. */
export const swarm: Recipe = {
  id: 'swarm',
  label: 'Swarm to and leave',
  help: 'A cloud flies in, sits down all over it, and takes off again at a frame.',
  slots: [{ id: 'perch', label: 'Where they land', help: 'They spread over its surface', sample: 'Lantern' }],
  make({ perch }, { id, at, ramp }) {
    const { size, area } = perch!
    const count = 4000
    // as far as they are from one another once all sit
    const room = Math.sqrt(area / count)
    const population = id('swarm')
    const phases = ['Coming', 'Leaving']
    const goal = 'perch'
    return {
      seconds: 10,
      populations: [
        {
          id: population,
          name: 'Swarm',
          phases,
          particle: particle(room * 0.24, 0.3, 300, null),
          births: [
            birth('cloud', 'region', 'Coming', {
              mesh: perch!.id,
              amount: { burst: count, at: at(0) },
              size: [size * 0.6, size * 0.6, size * 0.6],
              middle: [-size * 1.6, size * 0.7, size * 0.2],
            }),
          ],
          cues: [cue('leave', 'Coming', 'Leaving', { kind: 'frame', frame: at(5.5), spread: at(0.7) - at(0) })],
          goals: [{ id: goal, name: perch!.name, kind: 'surface', mesh: perch!.id, pairing: 'least', height: room * 0.24, arrived: room }],
          influences: [
            acts('flock', phases, {
              separation: size * 2,
              separationRadius: room * 0.5,
              alignment: 0.6,
              cohesion: 0.4,
              radius: room * 2.8,
              neighbours: 6,
            }),
            acts('wander', phases, { name: 'Flutter', strength: size * 4, turns: 3.5 }),
            acts('arrive', ['Coming'], {
              goal,
              speed: size * 1.1,
              slowing: size * 0.25,
              responses: [response('speed', 'random', [[0, 0.7], [1, 1.4]])], // prettier-ignore
            }),
            acts('settle', ['Coming'], { goal, within: size * 0.1, halfLife: 0.1 }),
            acts('wind', ['Leaving'], {
              name: 'Away',
              strength: 1.4,
              speed: size * 1.2,
              direction: [1, 0.7, -0.3],
              gusts: 0.6,
              gustSize: size * 0.5,
            }),
            acts('limits', phases, { most: size * 2 }),
          ],
          look: { draw: 'spheres', colour: { from: 'speed', range: [0, size * 1.5], ramp } },
        },
      ],
      share: 1,
      backdrop: 'night',
      room: 0.9,
      tries: [
        ['How many', ['populations', population, 'births', 'cloud', 'amount', 'burst']],
        ['How fast they come', ['populations', population, 'influences', 'arrive', 'speed']],
        ['They leave at', ['populations', population, 'cues', 'leave', 'when', 'frame']],
        ['Flutter', ['populations', population, 'influences', 'wander', 'strength']],
      ],
    }
  },
} // prettier-ignore
