import { airDrag } from './airDrag.ts'
import { colour } from './colour.ts'
import { drag } from './drag.ts'
import { fade } from './fade.ts'
import { gravity } from './gravity.ts'
import type { InfluenceKind } from './kind.ts'
import { goHome } from './return.ts'
import { ride } from './ride.ts'
import { size } from './size.ts'
import { spin } from './spin.ts'
import { turbulence } from './turbulence.ts'
import { wind } from './wind.ts'

/** Every kind of influence, in the order in which the interface offers them. */
export const INFLUENCES: InfluenceKind[] = [
  gravity,
  wind,
  turbulence,
  drag,
  airDrag,
  ride,
  goHome,
  size,
  fade,
  colour,
  spin,
]
