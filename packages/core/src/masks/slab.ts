import { unit } from '../math/vector.ts'
import { direction, number, vector } from '../document/parameters.ts'
import { followed } from './follow.ts'
import { FOLLOW, mask, SOFT } from './mask.ts'

/** With d = n·(x − c): 1 where d ≤ 0, falling to 0 at d = soft; with a thickness also on the other side. */
export const slab = mask({
  kind: 'slab',
  label: 'Slab',
  glyph: '▌',
  help: 'Full behind a plane, or between two; key its position to let it travel',
  pitfall:
    'Nothing is in it: the plane stands elsewhere. Show the mask on the mesh and move it by the stage.',
  source: '',
  parameters: {
    position: vector({
      label: 'Position',
      unit: 'm',
      help: 'A point of the plane',
      default: [0, 1, 0],
      range: [-1e6, 1e6],
      usual: [-10, 10],
      step: 0.01,
      keyable: true,
    }),
    direction: direction({
      label: 'Direction',
      help: 'Where the plane faces: ahead of it the mask is 0',
      default: [1, 0, 0],
      keyable: true,
    }),
    thickness: number({
      label: 'Thickness',
      unit: 'm',
      help: 'How far back it is full; 0 is without end',
      default: 0,
      range: [0, 1e6],
      usual: [0, 5],
      step: 0.01,
      keyable: true,
    }),
    soft: SOFT,
    follow: FOLLOW,
  },
  write({ position, direction, thickness, soft, follow }, places, out, context) {
    const n = unit(direction, [1, 0, 0])
    followed(follow, places, context, (points) =>
      context.machine.run('maskSlab', places.count, {
        points,
        out,
        cx: position[0]!,
        cy: position[1]!,
        cz: position[2]!,
        nx: n[0]!,
        ny: n[1]!,
        nz: n[2]!,
        soft,
        thickness,
      }),
    )
  },
})
