import { number } from '../document/parameters.ts'
import { followed } from './follow.ts'
import { CENTRE, FOLLOW, mask, SOFT } from './mask.ts'

/** 1 within the radius, falling smoothly (3t² − 2t³) to 0 over `soft` beyond it. */
export const ball = mask({
  kind: 'ball',
  label: 'Ball',
  glyph: '●',
  help: 'Full inside a ball, soft around it',
  pitfall: 'Nothing is in it: its centre is in the world, unless it follows a mesh.',
  source: '',
  parameters: {
    centre: CENTRE,
    radius: number({
      label: 'Radius',
      unit: 'm',
      help: 'Full within it',
      default: 0.5,
      range: [0, 1e6],
      usual: [0, 10],
      step: 0.01,
      keyable: true,
    }),
    soft: SOFT,
    follow: FOLLOW,
  },
  write({ centre, radius, soft, follow }, places, out, context) {
    followed(follow, places, context, (points) =>
      context.machine.run('maskBall', places.count, {
        points,
        out,
        cx: centre[0]!,
        cy: centre[1]!,
        cz: centre[2]!,
        radius,
        soft,
      }),
    )
  },
})
