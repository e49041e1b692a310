import { acts, birth, cue, keys, OWN_COLOUR, particle, tinted } from '../parts.ts'
import type { Recipe } from '../recipe.ts'
import { floorUnder, G } from '../standing.ts'

/** The mesh bursts, its pieces lie about, fly home one after the other, and it is whole. */
export const mend: Recipe = {
  id: 'mend',
  label: 'Break and mend',
  help: 'It bursts, the pieces fall and lie about; then they fly home, and it is whole.',
  slots: [{ id: 'body', label: 'What breaks', help: 'It is cut into pieces, so it should be closed', sample: 'Net float', closed: true }],
  make({ body }, { id, at }) {
    const { size, middle, fall, low } = body!
    const [population, pieces] = [id('pieces'), id('broken')]
    const phases = ['Whole', 'Loose', 'Homing', 'Home']
    const burst = at(1)
    const lies = Math.max(2.5, 3 * fall)
    // in two frames it gives them the speed with which they fall by half their height
    const kick = (0.7 * Math.sqrt(G * size)) / ((2 * 1) / 24)
    return {
      seconds: 1 + lies * 1.6 + 4.5,
      given: { body: { visible: false } },
      meshes: [
        { id: pieces, name: `${body!.name} in pieces`, source: { fracture: { mesh: body!.id, pieces: 90, seeds: 'random', seed: 4 } }, visible: false },
      ],
      populations: [
        {
          id: population,
          name: 'Pieces',
          phases,
          particle: particle(size * 0.05, 0, 2000, null),
          births: [birth('pieces', 'pieces', 'Whole', { mesh: pieces, amount: { burst: 'all', at: at(0) } })],
          cues: [
            cue('bursts', 'Whole', 'Loose', { kind: 'frame', frame: burst }),
            cue('leaves', 'Loose', 'Homing', { kind: 'after', frames: { mean: at(lies) - at(0), spread: Math.round((at(lies) - at(0)) * 0.5) } }),
            cue('there', 'Homing', 'Home', { kind: 'goal', distance: Math.max(1e-6, size * 1e-4) }),
          ],
          influences: [
            acts('ride', ['Whole', 'Home']),
            acts('gravity', ['Loose']),
            acts('attract', ['Loose'], {
              id: 'burst',
              name: 'Burst',
              point: [middle[0], low[1] + 0.35 * (middle[1] - low[1]), middle[2]],
              falloff: 'none',
              core: size * 0.02,
              strength: keys([burst, -kick, 'hold'], [burst + 2, 0]),
            }),
            acts('rigid', ['Loose'], { bounce: 0.25, friction: 0.5, spinDamping: 1.5 }),
            acts('floor', ['Loose'], { height: floorUnder(body!), bounce: 0.25, friction: 0.6 }),
            acts('dock', ['Homing'], { speed: size * 2, ease: 0.6, turn: 200, within: size * 0.007 }),
            tinted(phases, [0, '#3f9d80'], [1, '#8fd6b8']),
          ],
          look: { draw: 'pieces', colour: OWN_COLOUR },
        },
      ],
      share: 1,
      room: 0.6,
      tries: [
        ['Pieces', ['meshes', pieces, 'source', 'fracture', 'pieces']],
        ['They burst at', ['populations', population, 'cues', 'bursts', 'when', 'frame']],
        ['They lie for', ['populations', population, 'cues', 'leaves', 'when', 'frames', 'mean']],
        ['How fast they fly home', ['populations', population, 'influences', 'dock', 'speed']],
      ],
    }
  },
} // prettier-ignore
