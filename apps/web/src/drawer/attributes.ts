import type { Population } from '@tangle/core'
import type { PackedPopulation } from '@tangle/runtime/browser'
import { DataUtils } from 'three'

/** What can be read of a particle in the preview, as a number. */
export interface Attribute {
  label: string
  unit: string
  read(population: PackedPopulation, i: number): number
}

const half = (k: number) => (p: PackedPopulation, i: number) => DataUtils.fromHalfFloat(p.values[i * 4 + k]!)

/** In the order of the table's columns. */
export const ATTRIBUTES: Record<string, Attribute> = {
  id: { label: 'id', unit: '', read: (p, i) => p.ids[i]! },
  phase: { label: 'phase', unit: '', read: (p, i) => p.traits[i * 4]! },
  x: { label: 'x', unit: 'm', read: (p, i) => p.positions[i * 3]! },
  y: { label: 'y', unit: 'm', read: (p, i) => p.positions[i * 3 + 1]! },
  z: { label: 'z', unit: 'm', read: (p, i) => p.positions[i * 3 + 2]! },
  speed: { label: 'speed', unit: 'm/s', read: half(2) },
  age: { label: 'age', unit: 'of life, or s', read: half(1) },
  radius: { label: 'radius', unit: 'm', read: half(0) },
  travelled: { label: 'travelled', unit: 'm', read: half(3) },
  opacity: { label: 'opacity', unit: '', read: (p, i) => p.traits[i * 4 + 1]! / 255 },
}
/** Attributes worth a histogram: those that spread. */
export const SPREAD = Object.keys(ATTRIBUTES).filter((name) => name !== 'id' && name !== 'phase')

/** An attribute in words, as the table shows it. */
export function shownAs(
  name: string,
  population: PackedPopulation,
  i: number,
  rules: Population | undefined,
): string {
  const value = ATTRIBUTES[name]!.read(population, i)
  if (name === 'id') return String(value)
  if (name === 'phase') return rules?.phases[value] ?? String(value)
  return Number(value.toPrecision(4)).toString()
}

export interface Histogram {
  /** Middles of the bins. */
  middles: number[]
  counts: number[]
}

/** How many particles have which value of an attribute. */
export function histogram(population: PackedPopulation, name: string, bins = 40): Histogram {
  const { read } = ATTRIBUTES[name]!
  let low = Infinity
  let high = -Infinity
  const values = new Float64Array(population.count)
  for (let i = 0; i < population.count; i++) {
    const value = (values[i] = read(population, i))
    if (value < low) low = value
    if (value > high) high = value
  }
  const counts = new Array<number>(bins).fill(0)
  if (population.count === 0) return { middles: [], counts: [] }
  const width = (high - low) / bins || 1
  for (const value of values) counts[Math.min(bins - 1, Math.floor((value - low) / width))]!++
  return { middles: counts.map((_, k) => Number((low + (k + 0.5) * width).toPrecision(4))), counts }
}

const FILTER = /^\s*(\w+)\s*(<=|>=|<|>|=)\s*(-?[\d.]+(?:e-?\d+)?|\w+)\s*$/

/** A filter such as "speed > 2" or "phase = Loose"; null when it can't be read, and for an empty one all pass. */
export function filterOf(
  text: string,
  rules: Population | undefined,
): ((population: PackedPopulation, i: number) => boolean) | null {
  if (text.trim() === '') return () => true
  const found = FILTER.exec(text)
  const attribute = found && ATTRIBUTES[found[1]!]
  if (!attribute) return null
  const [, name, sign, right] = found
  const place = name === 'phase' ? (rules?.phases.indexOf(right!) ?? -1) : -1
  const bound = place >= 0 ? place : Number(right)
  if (Number.isNaN(bound)) return null
  const test: Record<string, (v: number) => boolean> = {
    '<': (v) => v < bound,
    '>': (v) => v > bound,
    '<=': (v) => v <= bound,
    '>=': (v) => v >= bound,
    '=': (v) => v === bound,
  }
  return (population, i) => test[sign!]!(attribute.read(population, i))
}
