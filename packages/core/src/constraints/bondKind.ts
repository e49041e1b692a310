/** Bonds as a kind of constraint: what an influence feeds, and the table of them that is kept. bonds.ts makes and breaks them. */
import type { ConstraintKind, Memory } from './constraint.ts'

/** What a Bonds influence says. */
export interface BondRule {
  /** Tension at which a bond breaks, kPa. */
  bears: number
  /** As a share of that, either way. */
  varies: number
  /** Mask that takes strength away: where it is 1 they bear nothing. */
  weak?: string
  /** A mesh whose surface cuts them. */
  cut?: string
  /** How far both ends may part, as a share of the way between their centres. */
  stretch: number
  /** Seconds over which a blow is borne. */
  blow: number
  /** Whether they hold again when both are back in place. */
  mends: 'never' | 'inPlace'
}

/** Of a bond: it holds; it broke and both ends are still in place; they have parted. */
export const BOND = { broken: 0, whole: 1, parted: 2 } as const

/** The bonds of a population as columns. */
export interface BondTable {
  /** Ids of both pieces, that of the lower-numbered piece first. */
  a: Uint32Array
  b: Uint32Array
  /** Number of their mesh in the shot, and which of its shared faces. */
  mesh: Uint16Array
  face: Uint32Array
  /** Times the strength. */
  factor: Float32Array
  /** BOND */
  state: Uint8Array
  /** Of the strength, the share that it bears. */
  load: Float32Array
  /** Ids below this have been looked at. */
  seen: number
  /** How many there have been, and have broken. */
  made: number
  broken: number
  /** The highest share of its strength that one has borne since the start. */
  most: number
}

export const BONDS: ConstraintKind<BondRule> = {
  name: 'bonds',
  does: 'pieces that share a face move as one until tension, a cut or a phase parts them',
  couples: false,
  // rigid bodies are solved before all others, and bonds with them
  prepare: () => null,
}

/** The bonds of a population; part of snapshots. */
export const bondTables = (memory: Memory): Record<string, BondTable> =>
  (memory[BONDS.name] ??= {}) as Record<string, BondTable>
