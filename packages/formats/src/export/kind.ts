import type { Mesh, Shot } from '@tangle/core'
import type { Space } from './space.ts'
import type { CachedFrame } from '../frames/cachedFrame.ts'

/** The frames of a take, which a writer may go through more than once. */
export interface Frames {
  first: number
  last: number
  /** All times that there are, in frames, in order: those between frames as well, where they were asked for. */
  times: number[]
  /** What there is at one of those times. */
  read(time: number): Promise<CachedFrame>
  /** The space that they are in. */
  space: Space
  /** Length of voxels in that space, where it was chosen. */
  voxel?: number | null
  /** Digits of their numbers in names of files, at least. */
  digits: number
}

export interface ExportedFile {
  name: string
  /** The bytes in pieces, made as they are asked for. */
  pieces: AsyncIterable<Uint8Array>
}

/** One format that takes are written in. One file per format. */
export interface ExportKind {
  kind: string
  label: string
  help: string
  /** Many files, which are sent as one ZIP; otherwise one file, sent as it is. */
  sequence: boolean
  /** Whether it has a place for meshes that are eaten. */
  meshes: boolean
  /** The standard says what its unit is and which way is up: nothing else can be chosen. */
  fixedSpace?: boolean
  /** Particles are not told apart: they fill voxels, whose length can be chosen. */
  volumes?: boolean
  /** It has a place for what there is between frames. */
  between?: boolean
  /** `meshes` are those of the shot by `sourceKey`; what is drawn as instances needs them. */
  files(shot: Shot, frames: Frames, meshes: Map<string, Mesh>): AsyncIterable<ExportedFile>
  /** Reads back what `files` wrote: per frame and population the ids, positions, velocities and radii. */
  readBack(read: (name: string) => Promise<Uint8Array>, names: string[]): AsyncIterable<CachedFrame>
}

/** A name that file systems and USD accept. */
export const plainName = (text: string): string => {
  const plain = text
    .normalize('NFKD')
    .replace(/[^A-Za-z0-9_]+/g, '_')
    .replace(/^_+|_+$/g, '')
  return /^[A-Za-z_]/.test(plain) ? plain : `_${plain}`
}

/** Digits of a frame where nobody says how many. */
export const FRAME_DIGITS = 4
/** A frame in the name of a file: so many digits at least, so that names sort, and the sign before them. */
export const frameNumber = (frame: number, digits = FRAME_DIGITS): string =>
  `${frame < 0 ? '-' : ''}${String(Math.abs(frame)).padStart(digits, '0')}`

/** Names of files by the frame that a pattern finds in them; others are left out. */
export function byFrame(names: string[], pattern: RegExp): Map<number, string[]> {
  const frames = new Map<number, string[]>()
  for (const name of names) {
    const found = pattern.exec(name)
    if (found) frames.set(Number(found[1]), [...(frames.get(Number(found[1])) ?? []), name])
  }
  return frames
}

/** Bytes as the pieces of a file. */
export async function* inOnePiece(bytes: Uint8Array | Promise<Uint8Array>): AsyncGenerator<Uint8Array> {
  yield await bytes
}

/** From one frame to the one before the next: all times of a frame. */
export const timesOf = ({ times }: Frames, frame: number): number[] =>
  times.filter((time) => Math.floor(time) === frame)

/** Frames that are asked for by several, one after the other, are read once. */
export function keepingLast({ read, ...frames }: Frames): Frames {
  let kept: { frame: number; read: ReturnType<Frames['read']> } | null = null
  return {
    ...frames,
    read(frame) {
      if (kept?.frame !== frame) kept = { frame, read: read(frame) }
      return kept.read
    },
  }
}
