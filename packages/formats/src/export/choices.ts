/** How a take is written: which frames, numbered how, in which direction, in which space. What is not said has a sound default. */
import type { Mesh, Shot } from '@tangle/core'
import type { CachedFrame } from '../frames/cachedFrame.ts'
import { turnedRound } from './backward.ts'
import { betweenFrames } from './between.ts'
import { FRAME_DIGITS, type ExportedFile, type ExportKind, type Frames } from './kind.ts'
import { SCENERIES, sceneryOf, type Scenery } from './scenery.ts'
import { frameIn, OUR_SPACE, shotIn, UNITS, UPS, type Space } from './space.ts'

export interface ExportChoices {
  /** Frames of the shot that are written. */
  first: number
  last: number
  /** The number that the first of them has in the files. */
  number: number
  digits: number
  backward: boolean
  space: Space
  /** Which meshes are written beside those that frames hold. */
  scenery: Scenery
  /** How many times a frame is written: 1 at itself, 2 also half-way to the next, and so on. */
  samples: number
  /** Length of voxels in the unit of the files; null: by the radii of particles. */
  voxel: number | null
}
/** The frames that there are, whatever is chosen of them. */
export interface AllFrames {
  first: number
  last: number
  read(frame: number): Promise<CachedFrame>
}

/** Words by which choices are given, on the command line and in an address. */
export const CHOICES = [
  'from',
  'to',
  'number',
  'digits',
  'backward',
  'unit',
  'up',
  'meshes',
  'samples',
  'voxel',
] as const
export type GivenChoices = Partial<Record<(typeof CHOICES)[number], string>>

export class ChoiceFault extends Error {}

/** What a format says of what may be chosen. */
type Told = Pick<ExportKind, 'label' | 'fixedSpace' | 'between' | 'volumes'> &
  Partial<Pick<ExportKind, 'meshes'>>

const MOST_DIGITS = 10
const MOST_SAMPLES = 16
const [LEAST_VOXEL, MOST_VOXEL] = [1e-6, 1e6]

/** Reads choices for frames from `first` to `last`. @throws ChoiceFault that says what is wrong and what may be. */
export function readChoices(
  given: GivenChoices,
  { first, last }: { first: number; last: number },
  { label, fixedSpace = false, between = false, meshes = true, volumes = false }: Told,
): ExportChoices {
  const whole = (name: (typeof CHOICES)[number], low: number, high: number, otherwise: number): number => {
    const text = given[name]
    if (text === undefined) return otherwise
    const value = Number(text)
    if (text.trim() === '' || !Number.isInteger(value) || value < low || value > high)
      throw new ChoiceFault(`${name} must be a whole number from ${low} to ${high}, not "${text}"`)
    return value
  }
  const oneOf = <T extends string>(name: 'unit' | 'up' | 'meshes', words: readonly T[], otherwise: T): T => {
    const text = given[name] ?? otherwise
    if (!words.includes(text as T))
      throw new ChoiceFault(`${name} must be one of ${words.join(', ')}, not "${text}"`)
    if (name === 'meshes' && !meshes && given[name])
      throw new ChoiceFault(`meshes can’t be chosen: ${label} has particles only`)
    if (name !== 'meshes' && fixedSpace && text !== otherwise)
      throw new ChoiceFault(
        `${label} is always in metres with Y up: leave ${name} out, or choose another format`,
      )
    return text as T
  }
  const from = whole('from', first, last, first)
  const samples = whole('samples', 1, MOST_SAMPLES, 1)
  if (samples > 1 && !between)
    throw new ChoiceFault(`samples must be 1: ${label} has no place for what is between frames, USD does`)
  return {
    first: from,
    last: whole('to', from, last, last),
    number: whole('number', -1e6, 1e6, from),
    digits: whole('digits', 1, MOST_DIGITS, FRAME_DIGITS),
    backward: given.backward === '1',
    space: {
      unit: oneOf('unit', Object.keys(UNITS) as (keyof typeof UNITS)[], OUR_SPACE.unit),
      up: oneOf('up', UPS, OUR_SPACE.up),
    },
    scenery: oneOf('meshes', SCENERIES, 'changing'),
    samples,
    voxel: voxelIn(given.voxel, volumes, label),
  }
}

function voxelIn(text: string | undefined, volumes: boolean, label: string): number | null {
  if (text === undefined) return null
  if (!volumes) throw new ChoiceFault(`voxel can’t be chosen: ${label} has none`)
  const value = Number(text)
  if (text.trim() === '' || !(value >= LEAST_VOXEL && value <= MOST_VOXEL))
    throw new ChoiceFault(`voxel must be a length from ${LEAST_VOXEL} to ${MOST_VOXEL}, not "${text}"`)
  return value
}

/** What frames that are chosen are written from, and as. */
interface Written {
  shot: Shot
  /** By `sourceKey`. */
  meshes: Map<string, Mesh>
  kind: Pick<ExportKind, 'meshes'>
}

/** The frames that are chosen, as they are written. */
export function framesChosen(
  frames: AllFrames,
  choices: ExportChoices,
  { shot, meshes, kind }: Written,
): Frames {
  const { first, last, number, digits, space, backward, samples } = choices
  const { rate } = shot.frames
  const scenery = sceneryOf(shot, meshes, kind.meshes ? choices.scenery : 'none')
  const wholes = keepingTwo(frames.read)
  /** At a time of the shot; who is there is settled by the frame before it, backward by the one after it. */
  async function at(time: number): Promise<CachedFrame> {
    const from = backward ? Math.ceil(time) : Math.floor(time)
    const frame = await wholes(from)
    if (time === from) return frame
    const to = from + (backward ? -1 : 1)
    return betweenFrames(frame, await wholes(to), (time - from) / rate, (to - from) / rate)
  }
  const count = (last - first) * samples + 1
  return {
    first: number,
    last: number + last - first,
    times: Array.from({ length: count }, (_, k) => number + k / samples),
    digits,
    space,
    voxel: choices.voxel,
    async read(time) {
      const place = time - number
      const then = backward ? last - place : first + place
      const { populations, meshes: own } = await at(then)
      const all = { frame: time, populations, meshes: kind.meshes ? [...own, ...scenery(then)] : [] }
      const there = frameIn(space, all)
      return backward ? turnedRound(there, time) : there
    },
  }
}

/** Frames that are asked for again and again, two at a time, are read once. */
function keepingTwo(read: AllFrames['read']): AllFrames['read'] {
  const kept = new Map<number, Promise<CachedFrame>>()
  return (frame) => {
    const found = kept.get(frame) ?? read(frame)
    kept.delete(frame)
    kept.set(frame, found)
    for (const one of kept.keys()) if (kept.size > 2) kept.delete(one)
    return found
  }
}

/** The files of a take as chosen. */
export const filesOf = (
  kind: ExportKind,
  shot: Shot,
  frames: AllFrames,
  meshes: Map<string, Mesh>,
  choices: ExportChoices,
): AsyncIterable<ExportedFile> =>
  kind.files(shotIn(choices.space, shot), framesChosen(frames, choices, { shot, meshes, kind }), meshes)
