import { beacon, fog, sign } from './dust.ts'
import type { DemoShot } from './shot.ts'
import { snow, sparks } from './weather.ts'

export { slugOf } from './shot.ts'
export const SHOTS: DemoShot[] = [beacon, sign, fog, snow, sparks]
