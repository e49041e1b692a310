import { fog } from './bell.ts'
import { float, tar } from './broken.ts'
import { floats, jelly, sand } from './contact.ts'
import { queue } from './crowd.ts'
import { beacon } from './dust.ts'
import { flares } from './flares.ts'
import { moths, morph } from './goals.ts'
import { figureheadHair } from './hair.ts'
import { scan } from './scan.ts'
import type { DemoShot } from './shot.ts'
import { oilOnBrine } from './oilOnBrine.ts'
import { ink, plankton } from './swarms.ts'
import { rivets } from './slip.ts'
import { snow, sparks } from './weather.ts'
import { stormGlassSwings } from './stormGlass.ts'
import { tarKettle } from './tarKettle.ts'
import { tubTips } from './water.ts'
import { sign } from './wipe.ts'

export { slugOf } from './shot.ts'
export const SHOTS: DemoShot[] = [
  beacon,
  sign,
  fog,
  snow,
  sparks,
  flares,
  scan,
  figureheadHair,
  morph,
  moths,
  queue,
  plankton,
  ink,
  sand,
  jelly,
  floats,
  rivets,
  tubTips,
  tarKettle,
  stormGlassSwings,
  oilOnBrine,
  float,
  tar,
]
