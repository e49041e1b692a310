import { acts, birth, cue, mask, OWN_COLOUR, particle, response, tinted } from '../parts.ts'
import type { Recipe } from '../recipe.ts'
import { floorUnder, G } from '../standing.ts'

/** A crust around the mesh breaks, falls away bit by bit, and shows what is underneath. */
export const shell: Recipe = {
  id: 'shell',
  label: 'Shell away',
  help: 'A crust around it cracks, falls away bit by bit, and shows what is underneath.',
  slots: [{ id: 'body', label: 'What is underneath', help: 'A crust is laid around it', sample: 'Bollard' }],
  make({ body }, { id, at }) {
    const { size, fall, low, middle, sides } = body!
    const [population, crust, flakes, base] = [id('flakes'), id('crust'), id('crust-in-pieces'), id('base')]
    const phases = ['Held', 'Loose']
    const speed = Math.sqrt(G * size)
    const touch = { bounce: 0.25, friction: 0.15 }
    return {
      seconds: 4.5 + Math.max(1.5, 4 * fall),
      meshes: [
        { id: crust, name: `Crust of ${body!.name}`, source: { shell: { mesh: body!.id, gap: size * 0.004, thickness: size * 0.035, detail: 2 } }, visible: false },
        { id: flakes, name: 'Crust in pieces', source: { fracture: { mesh: crust, pieces: 160, seeds: 'even', seed: 2 } }, visible: false },
      ],
      // what it stands on cannot fall: those pieces go unseen
      masks: [mask(base, 'slab', 'Under it', { position: [middle[0], low[1] + 0.1 * sides[1], middle[2]], direction: [0, 1, 0], soft: 0 })],
      populations: [
        {
          id: population,
          name: 'Flakes',
          phases,
          particle: particle(size * 0.03, 0, 1200, null),
          births: [birth('pieces', 'pieces', 'Held', { mesh: flakes, amount: { burst: 'all', at: at(0) } })],
          cues: [cue('under', 'Held', 'dies', { kind: 'mask', mask: base, above: 0.5 }), cue('lets-go', 'Held', 'Loose', { kind: 'frame', frame: at(2.2), spread: at(1.8) - at(0) })],
          influences: [
            acts('ride', ['Held']),
            acts('gravity', ['Loose'], {}, 0.5),
            acts('attract', ['Loose'], {
              id: 'pop',
              name: 'Cracks off',
              point: middle,
              falloff: 'none',
              core: size * 0.02,
              strength: (-0.45 * speed) / (2 / 24),
              responses: [response('strength', 'phaseFrames', [[0, 1, 'hold'], [2, 0]])], // prettier-ignore
            }),
            acts('wind', ['Loose'], { strength: 0.55 / fall, speed, direction: [1, 0.05, 0.25], gustSize: size }),
            acts('turbulence', ['Loose'], { name: 'Gusts', strength: 0.2 * G, scale: size * 0.7 }),
            acts('rigid', ['Loose'], touch),
            acts('collide', ['Loose'], { mesh: body!.id, ...touch }),
            acts('floor', ['Loose'], { height: floorUnder(body!), ...touch, friction: 0.5 }),
            tinted(phases, [0, '#7d6a5c'], [1, '#c2a88c']),
          ],
          look: { draw: 'pieces', colour: OWN_COLOUR },
        },
      ],
      share: 1,
      room: 0.5,
      tries: [
        ['Pieces', ['meshes', flakes, 'source', 'fracture', 'pieces']],
        ['Thickness', ['meshes', crust, 'source', 'shell', 'thickness']],
        ['They let go at', ['populations', population, 'cues', 'lets-go', 'when', 'frame']],
        ['Wind', ['populations', population, 'influences', 'wind', 'speed']],
      ],
    }
  },
} // prettier-ignore
