import type { Machine } from '@tangle/kernels'
import type { Columns } from '../solver/columns.ts'
import type { Parameters, ValuesOf } from '../shot/parameters.ts'

export const FAMILIES = ['forces', 'steering', 'goals', 'constraints', 'contact', 'change'] as const
export type Family = (typeof FAMILIES)[number]

/** What an influence sees of one substep. */
export interface Substep {
  machine: Machine
  columns: Columns
  /** Seconds since the first frame, at the middle of the substep. */
  time: number
  /** Length of the substep, seconds. */
  h: number
  /** Of this influence. */
  seed: number
  /** Pointer to an f64 per phase: weight × strength. */
  weights: number
  /** A block of the heap that stays this influence's own for the run. */
  scratch(bytes: number): number
}

/**
 * One kind of influence: its words, its parameters and what it does. One file per kind; adding one
 * is that file and a line in index.ts.
 */
export interface InfluenceKind<P extends Parameters = Parameters> {
  kind: string
  family: Family
  label: string
  glyph: string
  help: string
  /** Where the rule comes from. */
  source: string
  /** Always has `strength`, which the weights multiply. */
  parameters: P
  act(values: ValuesOf<P>, substep: Substep): void
}

/** Ties the parameters to the kernel's arguments, then forgets their types for the list of kinds. */
export function influence<P extends Parameters>(kind: InfluenceKind<P>): InfluenceKind {
  return kind as unknown as InfluenceKind
}
