/** Calls of kernels over blocks of numbers, for comparing their two forms. The numbers in the blocks are set by the test. */
import { CALLS_OF_CODEC } from './callsOfCodec.ts'
import { CALLS_OF_FIELDS } from './callsOfFields.ts'
import { CALLS_OF_SURFACES } from './callsOfSurfaces.ts'
import { CALLS_OF_SWARMS } from './callsOfSwarms.ts'

export const CALLS = { ...CALLS_OF_FIELDS, ...CALLS_OF_SWARMS, ...CALLS_OF_SURFACES, ...CALLS_OF_CODEC }
