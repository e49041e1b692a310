import * as yup from 'yup'
import { BIRTHS } from '../births/index.ts'
import { INFLUENCES } from '../influences/index.ts'
import { BACKDROPS, RAMPS } from '../look/ramps.ts'
import { completed } from './complete.ts'
import { migrated } from './migrations.ts'
import type {
  NumberParameter,
  Parameter,
  Parameters,
  VariedParameter,
  VectorParameter,
} from './parameters.ts'
import type { Problem } from './problem.ts'
import { PARTICLE, PLACE } from './rules.ts'
import type { Shot } from './types.ts'

export type Read = { shot: Shot; problems?: undefined } | { shot?: undefined; problems: Problem[] }

const MOST_BURST = 20_000_000

/**
 * Checks a document read from JSON and fills in what it leaves out. Never throws: what is wrong
 * comes back with the path of each fault.
 */
export function readShot(json: unknown): Read {
  const current = migrated(json)
  if ('problem' in current) return { problems: [current.problem] }
  try {
    shotSchema.validateSync(current.document, { strict: true, abortEarly: false })
  } catch (error) {
    if (!(error instanceof yup.ValidationError)) throw error
    const faults = error.inner.length > 0 ? error.inner : [error]
    return { problems: faults.map((fault) => ({ path: fault.path ?? '', message: fault.message })) }
  }
  const shot = completed(current.document as Shot)
  const problems = brokenReferences(shot)
  return problems.length > 0 ? { problems } : { shot }
}

const text = (most: number) =>
  yup
    .string()
    .typeError('must be text')
    .min(1, 'must not be empty')
    .max(most, `must be at most ${most} letters`)
const id = () =>
  text(80)
    .required('is missing')
    .matches(/^[\w-]+$/, 'must be letters, digits, - and _ only')
const object = <T extends yup.ObjectShape>(shape: T) =>
  yup
    .object(shape)
    .typeError('must be an object')
    .noUnknown(
      ({ unknown }: { unknown?: string }) =>
        `has no place for "${unknown ?? ''}": take it out or check its spelling`,
    )
const list = (item: yup.ISchema<unknown>) => yup.array().typeError('must be a list').of(item)

function bounded([low, high]: [number, number], whole = false) {
  const message = `must be ${whole ? 'a whole number' : 'a number'} from ${low} to ${high}`
  const schema = yup.number().typeError(message).min(low, message).max(high, message)
  return (whole ? schema.integer(message) : schema).test(
    'finite',
    message,
    (value) => value === undefined || Number.isFinite(value),
  )
}

const EASES = ['linear', 'smooth', 'hold']

/** A number, or keys in order of their frames. */
function keyed(range: [number, number], whole = false) {
  const one = bounded(range, whole)
  const key = yup
    .mixed()
    .test('key', 'must be [frame, value] or [frame, value, ease]', (value) => {
      if (!Array.isArray(value) || value.length < 2 || value.length > 3) return false
      return Number.isFinite(value[0]) && (value.length === 2 || EASES.includes(value[2] as string))
    })
    .test(
      'value',
      `must have a value from ${range[0]} to ${range[1]}`,
      (value) => !Array.isArray(value) || one.isValidSync(value[1], { strict: true }),
    )
  const keys = object({
    keys: list(key)
      .required('is missing')
      .min(1, 'must have at least one key')
      .test(
        'order',
        'must be in order of their frames, each frame once',
        (value) =>
          (value as [number][] | undefined)?.every((k, i, all) => i === 0 || all[i - 1]![0] < k[0]) ?? false,
      ),
  })
  return yup.lazy((value: unknown) => (typeof value === 'object' && value !== null ? keys : one))
}

function vectorOf(p: VectorParameter) {
  return yup.lazy((value: unknown) => {
    if (value === undefined) return yup.mixed()
    return yup
      .tuple([0, 1, 2].map(() => (p.keyable ? keyed(p.range) : bounded(p.range))) as never)
      .typeError('must be three numbers')
      .test(
        'three',
        'must be three numbers',
        (v) => Array.isArray(v) && v.length === 3 && v.every((c) => c !== null && c !== undefined),
      )
      .test(
        'direction',
        'must not be zero: give it a length',
        (v) => !p.direction || !Array.isArray(v) || v.some((c) => c !== 0),
      )
  })
}

function variedOf(p: VariedParameter) {
  const spread: [number, number] = p.spread === 'share' ? [0, 1] : p.range[0] > 0 ? [0, p.range[1]] : p.range
  const pair = object({
    mean: bounded(p.range).required('is missing'),
    spread: bounded(spread).required('is missing'),
  })
  const one = bounded(p.range)
  return yup.lazy((value: unknown) => {
    if (value === null && p.absent) return yup.mixed().nullable()
    return typeof value === 'object' ? pair : one
  })
}

const amount = yup.lazy((value: unknown) => {
  if (value === undefined) return yup.mixed()
  if (typeof value === 'object' && value !== null && 'burst' in value) {
    return object({
      burst: value.burst === 'all' ? yup.mixed() : bounded([0, MOST_BURST], true).required('is missing'),
      at: bounded([-1e6, 1e6], true).required('is missing: the frame of the burst'),
    })
  }
  return object({
    rate: keyed([0, 1e9]),
    from: bounded([-1e6, 1e6]),
    to: bounded([-1e6, 1e6]),
    cap: bounded([0, MOST_BURST], true),
  }).test('kind', 'must have a burst and its frame, or a rate per second', (v) => v?.rate !== undefined)
})

function schemaOf(p: Parameter): yup.ISchema<unknown> {
  switch (p.type) {
    case 'number':
      return numberOf(p)
    case 'vector':
      return vectorOf(p)
    case 'varied':
      return variedOf(p)
    case 'choice':
      return yup.string().oneOf(Object.keys(p.options), `must be one of ${Object.keys(p.options).join(', ')}`)
    case 'reference':
      return id()
    case 'amount':
      return amount
  }
}
const numberOf = (p: NumberParameter) => (p.keyable ? keyed(p.range, p.whole) : bounded(p.range, p.whole))

const shapeOf = (parameters: Parameters): yup.ObjectShape =>
  Object.fromEntries(Object.entries(parameters).map(([name, p]) => [name, schemaOf(p)])) as yup.ObjectShape

/** An entry of a list whose `kind` names which parameters it has. */
function byKind(kinds: { kind: string; parameters: Parameters }[], common: yup.ObjectShape) {
  const names = kinds.map((k) => k.kind).join(', ')
  const schemas = new Map(
    kinds.map((k) => [k.kind, object({ ...common, kind: text(40), ...shapeOf(k.parameters) })]),
  )
  return yup.lazy((value: unknown) => {
    const kind = (value as { kind?: unknown } | null)?.kind
    return (
      schemas.get(kind as string) ??
      yup
        .object({ kind: yup.mixed().test('kind', `must be one of ${names}`, () => false) })
        .typeError('must be an object')
    )
  })
}

const weights = yup
  .mixed()
  .test(
    'weights',
    'must give a number from -100 to 100 per phase',
    (value) =>
      value === undefined ||
      (typeof value === 'object' &&
        value !== null &&
        !Array.isArray(value) &&
        Object.values(value).every((w) => typeof w === 'number' && Math.abs(w) <= 100)),
  )

const place = object(shapeOf(PLACE)).default(undefined)

const mesh = object({
  id: id(),
  name: text(200),
  visible: yup.boolean().typeError('must be true or false'),
  source: yup.lazy((value: unknown) =>
    typeof value === 'object' && value !== null && 'file' in value
      ? object({ file: text(1000).required('is missing') })
      : object({
          asset: text(80)
            .required('is missing: "sha256:…" of a stored mesh, or use "file"')
            .matches(/^sha256:[0-9a-f]{64}$/, 'must be "sha256:" and 64 hexadecimal digits'),
        }),
  ),
  place,
})

const look = object({
  draw: yup.string().oneOf(['points', 'spheres'], 'must be points or spheres'),
  colour: object({
    from: yup.string().oneOf(['age', 'speed', 'travelled'], 'must be age, speed or travelled'),
    range: yup.tuple([bounded([-1e6, 1e6]), bounded([-1e6, 1e6])] as never).typeError('must be two numbers'),
    ramp: yup.string().oneOf(Object.keys(RAMPS), `must be one of ${Object.keys(RAMPS).join(', ')}`),
  }).default(undefined),
}).default(undefined)

const none = (what: string) =>
  yup.array().typeError('must be a list').max(0, `must be empty: this version has no ${what} yet`)

const population = object({
  id: id(),
  name: text(200),
  phases: list(text(40)).min(1, 'must name at least one phase'),
  particle: object(shapeOf(PARTICLE)).default(undefined),
  births: list(byKind(BIRTHS, { id: id(), muted: yup.boolean() })),
  cues: none('cues'),
  influences: list(byKind(INFLUENCES, { id: id(), name: text(200), weights, muted: yup.boolean() })),
  look,
})

const triple = (range: [number, number]) =>
  yup.tuple([bounded(range), bounded(range), bounded(range)] as never).typeError('must be three numbers')

const stage = object({
  camera: object({
    position: triple([-1e6, 1e6]),
    target: triple([-1e6, 1e6]),
    fieldOfView: bounded([5, 120]),
  }).default(undefined),
  light: object({
    bearing: bounded([-360, 360]),
    height: bounded([-90, 90]),
    strength: bounded([0, 100]),
  }).default(undefined),
  backdrop: yup.string().oneOf(Object.keys(BACKDROPS), `must be one of ${Object.keys(BACKDROPS).join(', ')}`),
}).default(undefined)

const shotSchema = object({
  format: yup
    .string()
    .oneOf(['tangle-shot'], 'must be "tangle-shot"')
    .required('is missing: must be "tangle-shot"'),
  version: yup.number().required('is missing'),
  name: text(200).required('is missing'),
  frames: object({
    first: bounded([-100000, 100000], true).required('is missing'),
    last: bounded([-100000, 100000], true)
      .required('is missing')
      .test(
        'after',
        'must not be before the first frame',
        (last, context) => !((last ?? 0) < (context.parent as { first: number }).first),
      ),
    rate: bounded([1, 240]).required('is missing'),
  })
    .required('is missing')
    .default(undefined),
  seed: bounded([-2147483648, 2147483647], true),
  quality: object({
    substeps: bounded([1, 64], true),
    iterations: bounded([1, 256], true),
    previewShare: bounded([0.0001, 1]),
  }).default(undefined),
  meshes: list(mesh),
  masks: none('masks'),
  populations: list(population),
  stage,
}).required('must be an object')

/** Names that point at nothing, and ids used twice. */
function brokenReferences(shot: Shot): Problem[] {
  const problems: Problem[] = []
  const unique = (path: string, ids: string[]): void => {
    ids.forEach((one, i) => {
      if (ids.indexOf(one) < i)
        problems.push({
          path: `${path}[${i}].id`,
          message: `"${one}" is used twice: give it an id of its own`,
        })
    })
  }
  unique(
    'meshes',
    shot.meshes.map((m) => m.id),
  )
  unique(
    'populations',
    shot.populations.map((p) => p.id),
  )
  const meshes = new Set(shot.meshes.map((m) => m.id))
  shot.populations.forEach((population, n) => {
    const path = `populations[${n}]`
    unique(
      `${path}.births`,
      population.births.map((b) => b.id),
    )
    unique(
      `${path}.influences`,
      population.influences.map((i) => i.id),
    )
    const phases = new Set(population.phases)
    if (phases.size < population.phases.length) {
      problems.push({ path: `${path}.phases`, message: 'names a phase twice' })
    }
    const unknownPhase = (where: string, phase: string): void => {
      if (!phases.has(phase)) {
        problems.push({
          path: where,
          message: `there is no phase "${phase}": the phases are ${population.phases.join(', ')}`,
        })
      }
    }
    population.births.forEach((birth, b) => {
      if (!meshes.has(birth.mesh)) {
        problems.push({
          path: `${path}.births[${b}].mesh`,
          message: `there is no mesh "${birth.mesh}": add it or name another`,
        })
      }
      unknownPhase(`${path}.births[${b}].into`, birth.into)
    })
    population.influences.forEach((influence, i) => {
      for (const phase of Object.keys(influence.weights)) {
        unknownPhase(`${path}.influences[${i}].weights.${phase}`, phase)
      }
    })
  })
  return problems
}
