import type { BirthKind } from './birth.ts'
import { onCut } from './cut.ts'
import { particles } from './particles.ts'
import { pieces } from './pieces.ts'
import { region } from './region.ts'
import { surface } from './surface.ts'
import { vertices } from './vertices.ts'
import { volume } from './volume.ts'

/** Every kind of birth, in the order in which the interface offers them. */
export const BIRTHS: BirthKind[] = [surface, vertices, volume, region, onCut, pieces, particles]
