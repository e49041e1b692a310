import type { Measures, Mesh, MeshFrame, SeenPlaces, Shot } from '@tangle/core'
import type { PackedPopulation } from './packed.ts'

/** What the page asks of the simulator worker. */
export type Request =
  | { type: 'start'; threads: number; stop: SharedArrayBuffer; budget: number }
  | { type: 'mesh'; asset: string; mesh: Mesh }
  /** Compute this shot; the page still has the frames `have`, of so many bytes, and looks at frame `at`. Answered by a sketch, or that there is none. */
  | { type: 'shot'; generation: number; shot: Shot; have: number[]; haveBytes: number; at: number }
  | { type: 'births'; request: number; shot: Shot; population: string; birth: string; frame: number }
  /** Fingerprints of the shot at some frames, for comparing engines. */
  | { type: 'fingerprints'; request: number; shot: Shot; frames: number[]; restoreAt: number | null }

/** What there is to show of a frame. */
export interface FrameContent {
  frame: number
  populations: PackedPopulation[]
  /** Covers on meshes, in the world. */
  covers: MeshFrame[]
  /** Where rays have met meshes in this frame, for the masks that ask for it. */
  seen: SeenPlaces[]
}

/** What the worker answers. */
export type Answer =
  | (FrameContent & {
      type: 'frame'
      generation: number
      measures: Measures
      milliseconds: number
      memory: number
    })
  /** The frame that the page looks at, of a part of the particles; null: it is soon there anyway, or can't be had so fast. */
  | { type: 'sketch'; generation: number; part: number; content: FrameContent | null }
  | { type: 'done'; generation: number; full: boolean }
  | { type: 'fault'; generation: number; message: string }
  | {
      type: 'births'
      request: number
      positions: Float32Array
      normals: Float32Array
      total: number
      message?: string
    }
  | { type: 'fingerprints'; request: number; fingerprints: string[] }
