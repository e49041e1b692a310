import { ball } from './ball.ts'
import { boxMask } from './box.ts'
import { front } from './front.ts'
import { inside } from './inside.ts'
import type { MaskKind } from './mask.ts'
import { mixMask } from './mix.ts'
import { noise } from './noise.ts'
import { painted } from './painted.ts'
import { seen } from './seen.ts'
import { slab } from './slab.ts'
import { uv } from './uv.ts'
import { spread } from './spread.ts'

/** Every kind of mask, in the order in which the interface offers them. */
export const MASKS: MaskKind[] = [
  spread,
  slab,
  ball,
  boxMask,
  noise,
  inside,
  painted,
  seen,
  uv,
  front,
  mixMask,
]
