import type { BirthKind } from './birth.ts'
import { fill } from './fill.ts'
import { onCut } from './cut.ts'
import { particles } from './particles.ts'
import { pieces } from './pieces.ts'
import { pour } from './pour.ts'
import { region } from './region.ts'
import { surface } from './surface.ts'
import { vertices } from './vertices.ts'
import { volume } from './volume.ts'

/** Every kind of birth, in the order in which the interface offers them. */
export const BIRTHS: BirthKind[] = [surface, vertices, volume, fill, pour, region, onCut, pieces, particles]
