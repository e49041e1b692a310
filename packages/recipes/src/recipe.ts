import type { Standing } from './standing.ts'

/** A part of a document, as it is written: what is left out has its default. */
export type Loose = Record<string, unknown>

/** A mesh that a recipe asks for. */
export interface Slot {
  id: string
  label: string
  help: string
  /** What is offered first: a ready-made shape by its name, or lettering. */
  sample: string | { text: string }
  /** Whether it must enclose a volume: an open mesh is offered with a warning. */
  closed?: boolean
}

/** The shot that a recipe is written into. */
export interface Place {
  /** An id like this one that the shot does not have yet. */
  id(wanted: string): string
  rate: number
  /** The frame so many seconds after the first. */
  at(seconds: number): number
  /** A ramp that stands off the backdrop at both ends. */
  ramp: string
}

/** What a recipe makes. */
export interface Made {
  /** How long the shot is to last. */
  seconds: number
  /** What becomes of the meshes that were given, by slot. */
  given?: Record<string, Loose>
  meshes?: Loose[]
  masks?: Loose[]
  populations: Loose[]
  /** Part of the particles that the preview computes. */
  share?: number
  backdrop?: string
  light?: Loose
  bloom?: Loose
  /** How far around its meshes the camera sees, as a share of their size, and from where: the default is 0.25 around, from the front. */
  room?: number
  from?: [number, number, number]
  /** Values to try first: a label, and where the value stands, entries of lists by their ids. */
  tries: [label: string, path: string[]][]
}

/** A ready shot for one kind of effect, sized to the meshes that it is given. One file each. */
export interface Recipe {
  id: string
  label: string
  /** What it looks like, in a sentence. */
  help: string
  slots: Slot[]
  /** The slots that the camera looks at; all without it. */
  about?: string[]
  make(given: Record<string, Standing>, place: Place): Made
}
