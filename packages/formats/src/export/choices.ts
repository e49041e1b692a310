/** How a take is written: which frames, numbered how, in which direction, in which space. What is not said has a sound default. */
import type { Mesh, Shot } from '@tangle/core'
import type { CachedFrame } from '../frames/cachedFrame.ts'
import { turnedRound } from './backward.ts'
import { FRAME_DIGITS, type ExportedFile, type ExportKind, type Frames } from './kind.ts'
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
}
/** The frames that there are, whatever is chosen of them. */
export type AllFrames = Pick<Frames, 'first' | 'last' | 'read'>

/** Words by which choices are given, on the command line and in an address. */
export const CHOICES = ['from', 'to', 'number', 'digits', 'backward', 'unit', 'up'] as const
export type GivenChoices = Partial<Record<(typeof CHOICES)[number], string>>

export class ChoiceFault extends Error {}

const MOST_DIGITS = 10

/** Reads choices for frames from `first` to `last`. @throws ChoiceFault that says what is wrong and what may be. */
export function readChoices(
  given: GivenChoices,
  { first, last }: { first: number; last: number },
  { label, fixedSpace = false }: Pick<ExportKind, 'label' | 'fixedSpace'>,
): ExportChoices {
  const whole = (name: (typeof CHOICES)[number], low: number, high: number, otherwise: number): number => {
    const text = given[name]
    if (text === undefined) return otherwise
    const value = Number(text)
    if (text.trim() === '' || !Number.isInteger(value) || value < low || value > high)
      throw new ChoiceFault(`${name} must be a whole number from ${low} to ${high}, not "${text}"`)
    return value
  }
  const oneOf = <T extends string>(name: 'unit' | 'up', words: readonly T[], otherwise: T): T => {
    const text = given[name] ?? otherwise
    if (!words.includes(text as T))
      throw new ChoiceFault(`${name} must be one of ${words.join(', ')}, not "${text}"`)
    if (fixedSpace && text !== otherwise)
      throw new ChoiceFault(
        `${label} is always in metres with Y up: leave ${name} out, or choose another format`,
      )
    return text as T
  }
  const from = whole('from', first, last, first)
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
  }
}

/** A frame of the shot as it is written. */
export function frameChosen(
  frame: CachedFrame,
  { first, last, number, space, ...choices }: ExportChoices,
): CachedFrame {
  const place = frame.frame - first
  const forward = { ...frameIn(space, frame), frame: number + place }
  return choices.backward ? turnedRound(forward, number + last - first - place) : forward
}

/** The frames that are chosen, as they are written. */
export function framesChosen(frames: AllFrames, choices: ExportChoices): Frames {
  const { first, last, number, digits, space } = choices
  return {
    first: number,
    last: number + last - first,
    digits,
    space,
    async read(frame) {
      const place = frame - number
      return frameChosen(await frames.read(choices.backward ? last - place : first + place), choices)
    },
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
  kind.files(shotIn(choices.space, shot), framesChosen(frames, choices), meshes)
