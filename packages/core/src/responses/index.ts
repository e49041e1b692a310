import { age } from './age.ts'
import { chance } from './chance.ts'
import { clock } from './clock.ts'
import { crowding } from './crowding.ts'
import { frames } from './frames.ts'
import { goal } from './goal.ts'
import { mask } from './mask.ts'
import { mass } from './mass.ts'
import { mesh } from './mesh.ts'
import { neighbours } from './neighbours.ts'
import { order } from './order.ts'
import { own } from './own.ts'
import { phaseFrames } from './phaseFrames.ts'
import { alongX, alongY, alongZ } from './position.ts'
import { radius } from './radius.ts'
import type { ResponseKind } from './response.ts'
import { slope } from './slope.ts'
import { speed } from './speed.ts'
import { temperature } from './temperature.ts'
import { travelled } from './travelled.ts'

/** Every kind of response, in the order in which the interface offers them. */
export const RESPONSES: ResponseKind[] = [
  age,
  frames,
  phaseFrames,
  clock,
  speed,
  radius,
  mass,
  travelled,
  temperature,
  goal,
  mesh,
  mask,
  slope,
  neighbours,
  crowding,
  chance,
  order,
  alongX,
  alongY,
  alongZ,
  own,
]
