import { airDrag } from './airDrag.ts'
import { drag } from './drag.ts'
import { gravity } from './gravity.ts'
import type { InfluenceKind } from './kind.ts'
import { turbulence } from './turbulence.ts'
import { wind } from './wind.ts'

/** Every kind of influence, in the order in which the interface offers them. */
export const INFLUENCES: InfluenceKind[] = [gravity, wind, turbulence, drag, airDrag]
