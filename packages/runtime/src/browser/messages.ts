import type { Measures, Mesh, MeshFrame, Shot } from '@tangle/core'
import type { PackedPopulation } from './packed.ts'

/** What the page asks of the simulator worker. */
export type Request =
  | { type: 'start'; threads: number; stop: SharedArrayBuffer; budget: number }
  | { type: 'mesh'; asset: string; mesh: Mesh }
  /** Compute this shot; the page still has the frames `have`, of so many bytes. */
  | { type: 'shot'; generation: number; shot: Shot; have: number[]; haveBytes: number }
  | { type: 'births'; request: number; shot: Shot; population: string; birth: string; frame: number }
  /** Fingerprints of the shot at some frames, for comparing engines. */
  | { type: 'fingerprints'; request: number; shot: Shot; frames: number[]; restoreAt: number | null }

/** What the worker answers. */
export type Answer =
  | {
      type: 'frame'
      generation: number
      frame: number
      populations: PackedPopulation[]
      covers: MeshFrame[]
      measures: Measures
      milliseconds: number
      memory: number
    }
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
