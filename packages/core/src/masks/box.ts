import { affine, inverse } from '../math/vector.ts'
import { PLACE } from '../document/ownParameters.ts'
import { vector } from '../document/parameters.ts'
import { followed } from './follow.ts'
import { CENTRE, FOLLOW, mask, SOFT } from './mask.ts'

/** 1 inside the box, falling to 0 at a distance of `soft` from it. */
export const boxMask = mask({
  kind: 'box',
  label: 'Box',
  glyph: '■',
  help: 'Full inside a box, soft around it',
  pitfall: 'Nothing is in it: its centre is in the world, unless it follows a mesh.',
  source: '',
  parameters: {
    centre: CENTRE,
    size: vector({
      label: 'Size',
      unit: 'm',
      help: 'From side to side',
      default: [1, 1, 1],
      range: [0, 1e6],
      usual: [0, 10],
      step: 0.01,
      keyable: true,
    }),
    rotation: PLACE.rotation,
    soft: SOFT,
    follow: FOLLOW,
  },
  write({ centre, size, rotation, soft, follow }, places, out, context) {
    const { machine } = context
    const map = context.keep('map', 96)
    machine.heap.f64(map, 12).set(inverse(affine(centre, rotation, [1, 1, 1])))
    const half = size.map((s) => s / 2)
    followed(follow, places, context, (points) =>
      machine.run('maskBox', places.count, {
        points,
        out,
        map,
        hx: half[0]!,
        hy: half[1]!,
        hz: half[2]!,
        soft,
      }),
    )
  },
})
