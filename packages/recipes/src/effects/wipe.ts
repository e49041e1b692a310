import { acts, birth, cue, keys, mask, OWN_COLOUR, particle, response, tinted } from '../parts.ts'
import type { Recipe } from '../recipe.ts'

/** A plane travels over the mesh and takes it away; as it comes back, so does the mesh. */
export const wipe: Recipe = {
  id: 'wipe',
  label: 'Wipe away and back',
  help: 'A front passes over it and blows it away; later the grains come home, and it is whole.',
  slots: [
    { id: 'body', label: 'What is wiped away', help: 'It comes back in the end', sample: 'Sign board' },
  ],
  make({ body }, { id, at }) {
    const { size, low, high, middle, area, closed } = body!
    const [population, front] = [id('grains'), id('wipe')]
    const phases = ['Held', 'Loose', 'Homing', 'Home']
    const [before, behind] = [low[0] - size * 0.15, high[0] + size * 0.15]
    const count = 60000
    // grains are seen where the mesh is not
    const seen = response('opacity', 'mask', [[0.45, 0], [0.5, 1]], { mask: front }) // prettier-ignore
    return {
      seconds: 11,
      given: {
        body: { eaten: { mask: front, level: 0.5, thickness: closed ? size * 0.01 : 0, crumble: 0 } },
      },
      masks: [
        mask(front, 'slab', 'Wipe', {
          position: [
            keys([at(0.5), before], [at(4), behind, 'hold'], [at(7.5), behind, 'smooth'], [at(10), before]),
            middle[1],
            middle[2],
          ],
          direction: [1, -0.25, 0],
          soft: size * 0.06,
        }),
      ],
      populations: [
        {
          id: population,
          name: 'Grains',
          phases,
          particle: particle(0.55 * Math.sqrt(area / count), 0.35, 900, null),
          births: [
            birth('cover', 'surface', 'Held', { mesh: body!.id, amount: { burst: count, at: at(0) } }),
          ],
          cues: [
            cue('wiped', 'Held', 'Loose', { kind: 'mask', mask: front, above: 0.5 }),
            cue('turn', 'Loose', 'Homing', { kind: 'frame', frame: at(5), spread: at(0.8) - at(0) }),
            cue('there', 'Homing', 'Home', { kind: 'goal', distance: size * 0.003 }),
          ],
          influences: [
            acts('ride', ['Held', 'Home']),
            acts('wind', ['Loose'], {
              strength: 1.1,
              speed: size * 0.5,
              direction: [1, 0.15, 0.25],
              gusts: 0.8,
              gustSize: size * 0.3,
              responses: [response('strength', 'phaseFrames', [[0, 0.15, 'smooth'], [20, 1]])], // prettier-ignore
            }),
            acts('turbulence', ['Loose', 'Homing'], {
              strength: size * 1.2,
              scale: size * 0.13,
              octaves: 3,
              change: 0.7,
              responses: [response('strength', 'goal', [[0, 0, 'smooth'], [size * 0.3, 1]])], // prettier-ignore
            }),
            acts('drag', ['Loose'], { strength: 0.6 }),
            acts('return', ['Homing'], { halfLife: 0.35 }),
            acts('fade', ['Held', 'Home'], { name: 'Seen where the mesh is gone', responses: [seen] }),
            tinted(phases, [0, '#efe8dc'], [0.5, '#e8b97a'], [1, '#c9785a']),
          ],
          look: { draw: 'spheres', colour: OWN_COLOUR },
        },
      ],
      share: 0.4,
      room: 0.5,
      tries: [
        ['Grains', ['populations', population, 'births', 'cover', 'amount', 'burst']],
        ['Wind', ['populations', population, 'influences', 'wind', 'speed']],
        ['Turbulence', ['populations', population, 'influences', 'turbulence', 'strength']],
        ['They turn round at', ['populations', population, 'cues', 'turn', 'when', 'frame']],
      ],
    }
  },
}
