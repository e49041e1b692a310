import type { Machine } from '@tangle/kernels'
import type { Response } from '../document/types.ts'
import type { Body } from '../scene/body.ts'
import type { Masks } from '../scene/masks.ts'
import type { TargetPointers } from '../scene/points.ts'
import type { AttributeName } from '../state/attributes.ts'
import { attributeOf, view, type Columns } from '../state/columns.ts'

/** What a response sees of a substep. */
export interface ResponseContext {
  machine: Machine
  columns: Columns
  bodies: Map<string, Body>
  masks: Masks
  /** Frames at both ends of the substep, the first of the shot, and frames per second. */
  from: number
  to: number
  first: number
  rate: number
  /** Seconds from the moment of the columns' ages to the one in question. */
  ahead: number
  seed: number
  targets(goal?: string): TargetPointers
  /** For each phase whether particles are held in it where they were born on a mesh. */
  rides: readonly boolean[]
  /** Ids of all populations. */
  others: string[]
  /** A grid over one of them; see influences/influence.ts. */
  neighbours(reach: number, most: number, of?: string): { cells: number; own: number } | null
}

/** One kind of value that responses read of a particle, in the unit that the curve's x has. One file per kind. */
export interface ResponseKind {
  /** The word in the document. */
  from: string
  label: string
  unit: string
  /** What the curve usually spans. */
  usual: [number, number]
  /** Attributes that it reads, beside those that every particle has. */
  attributes?: AttributeName[]
  /** Names one of these besides. */
  needs?: 'mesh' | 'mask' | 'attribute'
  /** May name one of the goals besides. */
  offers?: 'goal'
  /** It asks where other particles are: those have to be computed together. */
  interacts?: true
  /** Writes a value (f32) per particle; `pointer` is where `out` lies in the heap. */
  write(out: Float32Array, context: ResponseContext, response: Response, pointer: number): void
}

/** What is read of a column: the number at `axis` of a row, plus, times, over that of another column, no less than `least`. */
interface Reading {
  of: AttributeName
  axis?: number
  plus?: number
  times?: number
  over?: AttributeName
  least?: number
}

/** Writes a value that is but a number of the particle's own, in another measure. */
export const read =
  (reading: (context: ResponseContext) => Reading): ResponseKind['write'] =>
  (out, context, _, pointer) => {
    const { columns, machine } = context
    const { of, axis = 0, plus = 0, times = 1, over, least = -Infinity } = reading(context)
    machine.run('readColumn', out.length, {
      column: columns.at[of]!,
      width: attributeOf(columns, of).width,
      at: axis,
      plus,
      times,
      over: over ? columns.at[over]! : 0,
      least,
      out: pointer,
    })
  }

type Read = (name: AttributeName) => Float32Array

/** Writes a value that follows from attributes of the particle alone. */
export const each =
  (value: (context: ResponseContext, read: Read) => (i: number) => number): ResponseKind['write'] =>
  (out, context) => {
    // no attribute that is read here holds whole numbers beyond f32
    const of = value(context, (name) => view(context.columns, name) as Float32Array)
    for (let i = 0; i < out.length; i++) out[i] = of(i)
  }
