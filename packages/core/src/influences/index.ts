import { airDrag } from './airDrag.ts'
import { colour } from './colour.ts'
import { cover } from './cover.ts'
import { dock } from './dock.ts'
import { drag } from './drag.ts'
import { fade } from './fade.ts'
import { gravity } from './gravity.ts'
import { arrive } from './arrive.ts'
import { attract } from './attract.ts'
import { avoid } from './avoid.ts'
import { blend } from './blend.ts'
import { calm } from './calm.ts'
import { collide } from './collide.ts'
import { flock } from './flock.ts'
import { follow } from './follow.ts'
import { float } from './float.ts'
import { froth } from './froth.ts'
import { floor } from './floor.ts'
import { limits } from './limits.ts'
import { liquid } from './liquid.ts'
import { heat } from './heat.ts'
import { link } from './link.ts'
import { march } from './march.ts'
import { mutual } from './mutual.ts'
import { seek } from './seek.ts'
import { selfCollision } from './selfCollision.ts'
import { settle } from './settle.ts'
import { sleep } from './sleep.ts'
import { stay } from './stay.ts'
import { vortex } from './vortex.ts'
import { wander } from './wander.ts'
import type { InfluenceKind } from './influence.ts'
import { goHome } from './return.ts'
import { bonds } from './bonds.ts'
import { rigid } from './rigid.ts'
import { ride } from './ride.ts'
import { set } from './set.ts'
import { size } from './size.ts'
import { face } from './face.ts'
import { spin } from './spin.ts'
import { thin } from './thin.ts'
import { tumble } from './tumble.ts'
import { turbulence } from './turbulence.ts'
import { warmth } from './warmth.ts'
import { wind } from './wind.ts'

/** Every kind of influence, in the order in which the interface offers them. */
export const INFLUENCES: InfluenceKind[] = [
  gravity,
  wind,
  turbulence,
  drag,
  airDrag,
  attract,
  vortex,
  mutual,
  calm,
  seek,
  arrive,
  settle,
  blend,
  goHome,
  dock,
  flock,
  wander,
  avoid,
  march,
  follow,
  limits,
  ride,
  stay,
  link,
  liquid,
  float,
  froth,
  collide,
  floor,
  selfCollision,
  rigid,
  bonds,
  sleep,
  cover,
  size,
  thin,
  fade,
  colour,
  spin,
  face,
  tumble,
  warmth,
  heat,
  set,
]
