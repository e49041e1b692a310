/** The shot: the document as it is written, version 1. See docs/document.md. */
import type { Amount, Keyed, Varied } from './parameters.ts'

export type KeyedVector = [Keyed, Keyed, Keyed]

export interface Shot {
  format: 'tangle-shot'
  version: 1
  name: string
  frames: { first: number; last: number; rate: number }
  seed: number
  quality: {
    substeps: number
    iterations: number
    /** Part of the particles that the preview computes, 0–1. Takes compute all. */
    previewShare: number
  }
  meshes: ShotMesh[]
  masks: never[]
  populations: Population[]
  stage: Stage
}

export interface Place {
  position: KeyedVector
  /** Degrees, about x, then y, then z. */
  rotation: KeyedVector
  scale: KeyedVector
}

export interface ShotMesh {
  id: string
  name: string
  /** `file` only in shots on disk: a path relative to the shot, made an asset when it is read. */
  source: { asset: string } | { file: string }
  place: Place
  visible: boolean
}

export interface Population {
  id: string
  name: string
  phases: string[]
  particle: ParticleRules
  births: Birth[]
  cues: never[]
  influences: Influence[]
  look: Look
}

export interface ParticleRules {
  /** Metres; the spread is a share of the mean. */
  radius: Varied
  /** kg/m³; the spread is a share of the mean. */
  density: Varied
  /** Frames; null: they live to the end of the shot. */
  lifespan: Varied | null
  /** m/s */
  speedLimit: number
}

/** One rule by which particles are born. The other keys are the parameters of its kind. */
export interface Birth {
  id: string
  kind: string
  mesh: string
  into: string
  amount: Amount
  muted?: boolean
  [parameter: string]: unknown
}

/** Anything that acts on particles. The other keys are the parameters of its kind. */
export interface Influence {
  id: string
  kind: string
  name?: string
  /** Weight per phase; a phase that is not named has weight 0. */
  weights: Record<string, number>
  strength: Keyed
  muted?: boolean
  [parameter: string]: unknown
}

export interface Look {
  draw: 'points' | 'spheres'
  colour: { from: ColourSource; range: [number, number]; ramp: string }
}
export type ColourSource = 'age' | 'speed' | 'travelled'

export interface Stage {
  camera: { position: [number, number, number]; target: [number, number, number]; fieldOfView: number }
  light: { bearing: number; height: number; strength: number }
  backdrop: string
}
