import { fog } from './bell.ts'
import { beacon } from './dust.ts'
import type { DemoShot } from './shot.ts'
import { snow, sparks } from './weather.ts'
import { sign } from './wipe.ts'

export { slugOf } from './shot.ts'
export const SHOTS: DemoShot[] = [beacon, sign, fog, snow, sparks]
