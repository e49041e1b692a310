/** What a value does: the example of an influence, a mask or a cue with less of it and with more, or with each of its choices. */
import { CUES, INFLUENCES, MASKS, readShot, type Parameter, type Shot } from '@tangle/core'
import type { Example } from './examples.ts'
import type { Loose } from './recipe.ts'

export interface Variant {
  /** What the value is here: "3 m/s", or the words of a choice. */
  label: string
  example: Example
}

/** Times more and less. */
const FACTOR = 3
const KINDS = { influence: INFLUENCES, mask: MASKS, cue: CUES }

/** What an example shows, and which of its values. */
export interface Told {
  sort: 'influence' | 'mask' | 'cue'
  kind: string
  parameter: string
}

/** Numbers and choices of a value to show; none where the example does not use it, or where it is neither. */
function shownValues({ shot }: Example, told: Told): { label: string; value: unknown }[] {
  const parameter = KINDS[told.sort].find(({ kind }) => kind === told.kind)?.parameters[told.parameter]
  if (!parameter) return []
  const holder = holderIn(shot, told)
  const isUsed = Object.entries(parameter.when ?? {}).every(([key, words]) =>
    words.split(' ').includes(String(holder[key])),
  )
  const values = isUsed ? valuesOf(parameter, holder[told.parameter]) : []
  return values.length > 1 ? values : []
}

export const hasVariants = (example: Example, told: Told): boolean => shownValues(example, told).length > 0

/** @param example of what is told */
export const variantsOf = (example: Example, told: Told): Variant[] =>
  shownValues(example, told).flatMap(({ label, value }): Variant[] => {
    const shot = JSON.parse(JSON.stringify(example.shot)) as Shot
    holderIn(shot, told)[told.parameter] = value
    const read = readShot(shot)
    return read.problems ? [] : [{ label, example: { ...example, shot: read.shot } }]
  })

/** What an example is about, as the document has it. */
function holderIn({ populations, masks }: Shot, { sort, kind }: Told): Loose {
  const { influences, cues } = populations[0]!
  if (sort === 'influence') return influences.findLast((one) => one.kind === kind)!
  return sort === 'mask' ? masks.find(({ id }) => id === 'shown')! : (cues[0]!.when as unknown as Loose)
}

function valuesOf(parameter: Parameter, now: unknown): { label: string; value: unknown }[] {
  if (parameter.type === 'choice')
    return Object.entries(parameter.options).map(([value, label]) => ({ label, value }))
  if (parameter.type !== 'number' || (now !== undefined && typeof now !== 'number')) return []
  const { usual, range, unit, whole } = parameter
  const own = now ?? parameter.default
  const [low, high] = own > 0 ? [own / FACTOR, own * FACTOR] : [own, own + (usual[1] - usual[0]) / 2]
  const rounded = (x: number): number => {
    const within = Math.min(Math.max(x, range[0]), range[1])
    return whole ? Math.round(within) : Number(within.toPrecision(2))
  }
  return [...new Set([rounded(low), rounded(high)])].map((value) => ({
    label: `${value}${unit === '°' ? '' : ' '}${unit}`.trim(),
    value,
  }))
}
