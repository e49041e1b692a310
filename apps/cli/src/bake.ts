import { rowsOf, type PopulationEvents, type Shot } from '@tangle/core'
import {
  ChoiceFault,
  codecReady,
  EVENT_FORMATS,
  EXPORTS,
  readChoices,
  type ExportChoices,
  type ExportKind,
} from '@tangle/formats'
import { bake, createNodeMachine, defaultThreads, type BakedFrame } from '@tangle/runtime/node'
import { createCache } from './cache.ts'
import { InputFault, UsageFault } from './fault.ts'
import { loadShot } from './load.ts'

export interface BakeFlags {
  frames?: string
  out?: string
  format: string
  threads?: string
  share?: string
  json?: boolean
  backward?: boolean
  unit?: string
  up?: string
  number?: string
  digits?: string
  meshes?: string
  samples?: string
  voxel?: string
  /** Tells the events of each frame with --json, else writes them. */
  events?: boolean
}

/** Computes frames of a shot and writes them, if told where. */
export async function bakeCommand(source: string, flags: BakeFlags): Promise<void> {
  const { kind, threads, share } = optionsIn(flags)
  const { shot, meshes } = await loadShot(source)
  const { first, last } = frameRange(flags.frames, shot)
  const { out } = flags
  if (flags.events && !flags.json) eventsCanBeWritten(flags)
  const choices = choicesIn(flags, kind, first, last)
  const cache = out === undefined ? null : await createCache(out, { kind, shot, meshes, choices })
  await codecReady()
  const machine = createNodeMachine(threads)
  const total = { frames: 0, particles: 0, milliseconds: 0, threads, files: 0 }
  try {
    for (const { populations, meshes: eaten, events, ...facts } of bake(machine, shot, meshes, {
      first,
      last,
      share,
    })) {
      const frame = { frame: facts.frame, populations, meshes: eaten }
      await cache?.add(frame, facts.fingerprint, flags.events && !flags.json ? events() : [])
      total.frames++
      total.particles = facts.particles
      total.milliseconds += facts.milliseconds
      report(flags, flags.events ? { ...facts, events: events().map(rowsIn) } : facts)
    }
    if (cache) total.files = await cache.finish()
  } finally {
    machine.dispose()
    await cache?.close()
  }
  total.milliseconds = Math.round(total.milliseconds)
  if (flags.json) print({ total })
  else {
    const written = out === undefined ? '' : `, ${total.files} files in ${out}`
    console.log(`${total.frames} frames in ${total.milliseconds} ms${written}`)
  }
}

/** Into tables, forward: time has one direction for what happens. */
function eventsCanBeWritten({ format, out, backward }: BakeFlags): void {
  if (out === undefined || !(EVENT_FORMATS as readonly string[]).includes(format))
    throw new UsageFault(`--events needs --json, or --out with --format ${EVENT_FORMATS.join(' or ')}`)
  if (backward) throw new UsageFault('--events can’t be written backward: leave one of them out')
}

function choicesIn(
  { backward, unit, up, number, digits, meshes, samples, voxel }: BakeFlags,
  kind: ExportKind,
  first: number,
  last: number,
): ExportChoices {
  const given = { unit, up, number, digits, meshes, samples, voxel, backward: backward ? '1' : undefined }
  const known = Object.entries(given).filter(([, text]) => text !== undefined)
  try {
    return readChoices(Object.fromEntries(known), { first, last }, kind)
  } catch (error) {
    if (error instanceof ChoiceFault) throw new UsageFault(`--${error.message}`)
    throw error
  }
}

function optionsIn({ format, threads, share = '1' }: BakeFlags): {
  kind: ExportKind
  threads: number
  share: number
} {
  const kind = EXPORTS.find((one) => one.kind === format)
  const formats = EXPORTS.map((one) => one.kind).join(', ')
  if (!kind) throw new UsageFault(`--format must be one of ${formats}, not "${format}"`)
  const part = Number(share)
  if (!(part > 0 && part <= 1)) throw new UsageFault(`--share must be above 0 and at most 1, not "${share}"`)
  return {
    kind,
    share: part,
    threads: threads === undefined ? defaultThreads() : wholeNumber('--threads', threads, 1, 16),
  }
}

type Facts = Omit<BakedFrame, 'populations' | 'meshes' | 'events'> & { events?: unknown }
function report(flags: BakeFlags, facts: Facts): void {
  const { frame, particles, milliseconds, fingerprint } = facts
  if (flags.json) print(facts)
  else console.log(`frame ${frame}: ${particles} particles, ${milliseconds} ms, ${fingerprint}`)
}
/** The events of a population as rows. */
const rowsIn = ({ id, ...table }: PopulationEvents) => ({ id, counts: table.counts, rows: rowsOf(table) })

const print = (value: unknown): void => console.log(JSON.stringify(value))

/** "1-48", or one frame, or all of the shot. */
function frameRange(text: string | undefined, shot: Shot): { first: number; last: number } {
  const { first, last } = shot.frames
  if (text === undefined) return { first, last }
  const found = /^(-?\d+)(?:-(-?\d+))?$/.exec(text)
  if (!found) throw new UsageFault(`--frames must look like 1-48, not "${text}"`)
  const from = Number(found[1])
  const to = Number(found[2] ?? found[1])
  if (to < from) throw new UsageFault(`--frames ${text}: the last is before the first`)
  if (from < first || to > last)
    throw new InputFault(`--frames ${text} is outside the shot, which has frames ${first} to ${last}`)
  return { first: from, last: to }
}

function wholeNumber(name: string, text: string, low: number, high: number): number {
  const value = Number(text)
  if (!Number.isInteger(value) || value < low || value > high)
    throw new UsageFault(`${name} must be a whole number from ${low} to ${high}, not "${text}"`)
  return value
}
