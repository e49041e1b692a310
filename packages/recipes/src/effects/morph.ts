import { acts, birth, cue, keys, mask, OWN_COLOUR, particle, response } from '../parts.ts'
import type { Recipe } from '../recipe.ts'

/** Grains of one mesh leave it in patches, stray on the way, and settle as another. */
export const morph: Recipe = {
  id: 'morph',
  label: 'Morph into',
  help: 'Grains leave one shape in patches, stray on the way, and settle as another.',
  slots: [
    { id: 'body', label: 'What it is', help: 'Where the grains begin', sample: 'Paper boat' },
    { id: 'target', label: 'What it becomes', help: 'Where they settle', sample: 'Paper heron' },
  ],
  make({ body, target }, { id, at }) {
    const apart = Math.hypot(...body!.middle.map((x, k) => x - target!.middle[k]!))
    const size = Math.max(body!.size, target!.size)
    const way = size + apart
    const count = 60000
    const [population, release] = [id('grains'), id('release')]
    const phases = ['Held', 'Going']
    const goal = 'shape'
    const seconds = 9
    // those that are let go last have half of the time
    const speed = (way * 3.2) / seconds
    return {
      seconds,
      given: { body: { visible: false }, target: { visible: false } },
      masks: [
        mask(release, 'noise', 'Release', {
          scale: body!.size * 0.33,
          octaves: 3,
          follow: body!.id,
          level: keys([at(0.5), 1.3, 'smooth'], [at(4.2), -0.2]),
        }),
      ],
      populations: [
        {
          id: population,
          name: 'Grains',
          phases,
          particle: particle(0.5 * Math.sqrt(Math.min(body!.area, target!.area) / count), 0.4, 800, null),
          births: [birth('body', 'surface', 'Held', { mesh: body!.id, amount: { burst: count, at: at(0) } })],
          cues: [cue('release', 'Held', 'Going', { kind: 'mask', mask: release, above: 0.5 })],
          goals: [{ id: goal, name: target!.name, kind: 'surface', mesh: target!.id, pairing: 'least', arrived: size * 0.005 }],
          influences: [
            acts('ride', ['Held']),
            acts('turbulence', ['Going'], {
              name: 'Stray on the way',
              strength: speed * 4,
              scale: size * 0.45,
              octaves: 3,
              change: 0.6,
              responses: [response('strength', 'goal', [[size * 0.04, 0, 'smooth'], [way * 0.4, 1]], { goal })], // prettier-ignore
            }),
            acts('arrive', ['Going'], { goal, speed, slowing: size * 0.45 }),
            acts('settle', ['Going'], { goal, within: size * 0.12, halfLife: 0.16 }),
            acts('colour', phases, {
              name: 'By the way that is left',
              ramp: { stops: [[0, '#cfe0ec'], [0.35, '#6fa9d6'], [0.8, '#e8b07a'], [1, '#f6ead2']] },
              responses: [response('at', 'goal', [[0, 0], [Math.max(apart, size * 0.5), 1]], { goal })], // prettier-ignore
            }),
          ],
          look: { draw: 'spheres', colour: OWN_COLOUR },
        },
      ],
      share: 0.25,
      tries: [
        ['Grains', ['populations', population, 'births', 'body', 'amount', 'burst']],
        ['How fast they fly', ['populations', population, 'influences', 'arrive', 'speed']],
        ['How far they stray', ['populations', population, 'influences', 'turbulence', 'strength']],
        ['Size of patches', ['masks', release, 'scale']],
      ],
    }
  },
} // prettier-ignore
