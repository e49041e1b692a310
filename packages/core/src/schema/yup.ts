/** Yup schemas made from parameter declarations. */
import * as yup from 'yup'
import { RAMPS } from '../look/ramps.ts'
import { EASES, EVENT_KINDS, MIRRORS, REPEATS } from '../document/parameters.ts'
import type {
  CurveParameter,
  Ease,
  NumberParameter,
  Parameter,
  Parameters,
  StrokesParameter,
  VariedParameter,
  VectorParameter,
} from '../document/parameters.ts'

const MOST_BURST = 20_000_000

export const text = (most: number) =>
  yup
    .string()
    .typeError('must be text')
    .min(1, 'must not be empty')
    .max(most, `must be at most ${most} letters`)
const name = () => text(80).matches(/^[\w-]+$/, 'must be letters, digits, - and _ only')
export const id = () =>
  text(80)
    .required('is missing')
    .matches(/^[\w-]+$/, 'must be letters, digits, - and _ only')
export const object = <T extends yup.ObjectShape>(shape: T) =>
  yup
    .object(shape)
    .typeError('must be an object')
    .nonNullable('must be an object')
    .noUnknown(
      ({ unknown }: { unknown?: string }) =>
        `has no place for "${unknown ?? ''}": take it out or check its spelling`,
    )
export const list = (item: yup.ISchema<unknown>) =>
  yup.array().typeError('must be a list').nonNullable('must be a list').of(item)

export function bounded([low, high]: [number, number], whole = false) {
  const message = `must be ${whole ? 'a whole number' : 'a number'} from ${low} to ${high}`
  const schema = yup.number().typeError(message).min(low, message).max(high, message)
  return (whole ? schema.integer(message) : schema).test(
    'finite',
    message,
    (value) => value === undefined || Number.isFinite(value),
  )
}

/** What a curve does beyond its end. */
export const repeat = yup.string().oneOf(REPEATS, `must be ${REPEATS.join(' or ')}`)

/** A number, or keys in order of their frames. */
function keyed(range: [number, number], whole = false) {
  const one = bounded(range, whole)
  const key = yup
    .mixed()
    .test('key', 'must be [frame, value] or [frame, value, ease]', (value) => {
      if (!Array.isArray(value) || value.length < 2 || value.length > 3) return false
      return Number.isFinite(value[0]) && (value.length === 2 || EASES.includes(value[2] as Ease))
    })
    .test(
      'value',
      `must have a value from ${range[0]} to ${range[1]}`,
      (value) => !Array.isArray(value) || one.isValidSync(value[1], { strict: true }),
    )
  const keys = object({
    repeat,
    keys: list(key)
      .required('is missing')
      .min(1, 'must have at least one key')
      .test('order', 'must be in order of their frames, each frame once', (value) => rises(value, true)),
  })
  return yup.lazy((value: unknown) => (typeof value === 'object' && value !== null ? keys : one))
}

const THREE_KEYED =
  'must be three numbers, each or all with keys: [x, y, z] or {"keys": [[frame, [x, y, z]], …]}'

function vectorOf(p: VectorParameter) {
  return yup.lazy((value: unknown) => {
    if (value === undefined) return yup.mixed()
    return yup
      .tuple([0, 1, 2].map(() => (p.keyable ? keyed(p.range) : bounded(p.range))) as never)
      .typeError(p.keyable ? THREE_KEYED : 'must be three numbers')
      .test(
        'three',
        p.keyable ? THREE_KEYED : 'must be three numbers',
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
  if (typeof value === 'object' && value !== null && 'swept' in value) {
    return object({
      swept: bounded([0, MOST_BURST]).required('is missing'),
      mask: id(),
      level: bounded([0.0001, 1]),
      from: bounded([-1e6, 1e6]),
      to: bounded([-1e6, 1e6]),
    })
  }
  const bounds = {
    from: bounded([-1e6, 1e6]),
    to: bounded([-1e6, 1e6]),
    cap: bounded([0, MOST_BURST], true),
  }
  if (typeof value === 'object' && value !== null && 'spacing' in value)
    return object({ spacing: keyed([1e-6, 1e6]), ...bounds })
  if (typeof value === 'object' && value !== null && 'event' in value) {
    return object({
      count: bounded([1, 100_000], true).required('is missing: how many are born at the event'),
      event: yup.string().oneOf(EVENT_KINDS, `must be one of ${EVENT_KINDS.join(', ')}`),
      chance: bounded([0, 1]),
      ...bounds,
    })
  }
  return object({ rate: keyed([0, 1e9]), ...bounds }).test(
    'kind',
    'must have a burst and its frame, a rate per second, or swept with its mask; of particles a rate, a spacing in metres, or an event and a count',
    (v) => v?.rate !== undefined,
  )
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
      return p.absent === undefined ? id() : name()
    case 'amount':
      return amount
    case 'curve':
      return curveOf(p)
    case 'ramp':
      return rampOf
    case 'origin':
      return originOf
    case 'strokes':
      return strokesOf(p)
    case 'path':
      return list(somewhere())
        .min(2, 'must have at least two points')
        .max(1000, 'must have at most 1000 points')
    case 'colour':
      return yup.string().matches(/^#[0-9a-f]{6}$/i, 'must be a colour as "#rrggbb"')
    case 'text':
      return p.pattern ? text(p.most).matches(new RegExp(p.pattern.of), p.pattern.says) : text(p.most)
  }
}

/** [x, y, ease?] in order of x, each x once. */
export const points = ([lowX, highX]: [number, number], [lowY, highY]: [number, number]) =>
  list(
    yup.mixed().test('point', `must be [x, y] or [x, y, ease], y from ${lowY} to ${highY}`, (value) => {
      if (!Array.isArray(value) || value.length < 2 || value.length > 3) return false
      const [x, y, ease] = value as [number, number, Ease?]
      if (!Number.isFinite(x) || !Number.isFinite(y) || y < lowY || y > highY) return false
      return x >= lowX && x <= highX && (ease === undefined || EASES.includes(ease))
    }),
  )
    .min(1, 'must have at least one point')
    .max(64, 'must have at most 64 points')
    .test('order', 'must be in order of x, each x once', (value) => rises(value, true))
const curveOf = (p: CurveParameter) => points(p.x.range, p.y.range)

/** Whether the first numbers of rows rise, or stay where that is allowed. Rows that are none are told of elsewhere. */
function rises(rows: unknown, strictly: boolean): boolean {
  const first = (row: unknown): number => (Array.isArray(row) && typeof row[0] === 'number' ? row[0] : NaN)
  const falls = (row: unknown, before: unknown): boolean =>
    strictly ? first(before) >= first(row) : first(before) > first(row)
  return !Array.isArray(rows) || !rows.some((row, i) => i > 0 && falls(row, rows[i - 1]))
}

const stop = yup
  .mixed()
  .test(
    'stop',
    'must be [place from 0 to 1, "#rrggbb"]',
    (value) =>
      Array.isArray(value) &&
      value.length === 2 &&
      typeof value[0] === 'number' &&
      value[0] >= 0 &&
      value[0] <= 1 &&
      /^#[0-9a-f]{6}$/i.test(String(value[1])),
  )
const ownRamp = object({
  stops: list(stop)
    .required('is missing')
    .min(2, 'must have at least two stops')
    .max(32, 'must have at most 32 stops')
    .test('order', 'must be in order of their places', (value) => rises(value, false)),
})
const namedRamp = yup
  .string()
  .typeError('must be the name of a ramp, or {"stops": …}')
  .oneOf(Object.keys(RAMPS), `must be one of ${Object.keys(RAMPS).join(', ')}`)
/** The name of a ramp, or stops. */
export const rampOf = yup.lazy((value: unknown) =>
  typeof value === 'object' && value !== null ? ownRamp : namedRamp,
)

export const triple = (range: [number, number]) =>
  yup.tuple([bounded(range), bounded(range), bounded(range)] as never).typeError('must be three numbers')
const somewhere = () =>
  triple([-1e6, 1e6]).test(
    'three',
    'must be three numbers',
    (v) => v === undefined || (Array.isArray(v) && v.length === 3 && v.every((c) => Number.isFinite(c))),
  )
const ORIGINS: Record<string, yup.ISchema<unknown>> = {
  ball: object({ ball: somewhere(), radius: bounded([0, 1e6]).required('is missing') }),
  plane: object({
    plane: somewhere(),
    normal: somewhere()
      .required('is missing')
      .test('direction', 'must not be zero: give it a length', (v) =>
        ((v ?? [1]) as number[]).some((c) => c !== 0),
      ),
  }),
  points: object({
    points: list(somewhere()).min(1, 'must have at least one point').max(1000, 'must be at most 1000 points'),
  }),
  mask: object({ mask: id() }),
}
const originOf = yup.lazy((value: unknown) => {
  if (value === undefined) return yup.mixed()
  const kind = Object.keys(ORIGINS).find((one) => typeof value === 'object' && value !== null && one in value)
  return (
    ORIGINS[kind ?? ''] ??
    yup
      .mixed()
      .test('origin', `must be an object with one of ${Object.keys(ORIGINS).join(', ')}`, () => false)
  )
})

const strokesOf = ({ brushes }: StrokesParameter) => {
  const names = Object.keys(brushes)
  return list(
    object({
      brush: yup
        .string()
        .oneOf(names, `must be one of ${names.join(', ')}`)
        .required('is missing'),
      radius: bounded([1e-6, 1e5]).required('is missing'),
      strength: bounded([0, 1]).required('is missing'),
      points: list(somewhere()).required('is missing').max(20000, 'must have at most 20000 points'),
      pressures: list(bounded([0, 1])).max(20000, 'must have at most 20000 numbers'),
      mirror: yup.string().oneOf(MIRRORS, `must be one of ${MIRRORS.join(', ')}`),
      lift: bounded([-90, 90]),
    }).test(
      'pressures',
      'must have as many pressures as points',
      ({ points, pressures }) => !pressures || pressures.length === points.length,
    ),
  ).max(5000, 'must have at most 5000 strokes')
}

const numberOf = (p: NumberParameter) => (p.keyable ? keyed(p.range, p.whole) : bounded(p.range, p.whole))

export const shapeOf = (parameters: Parameters): yup.ObjectShape =>
  Object.fromEntries(Object.entries(parameters).map(([name, p]) => [name, schemaOf(p)])) as yup.ObjectShape

/** An entry of a list whose `kind` names which parameters it has. */
export function byKind(kinds: { kind: string; parameters: Parameters }[], common: yup.ObjectShape) {
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
        .default(undefined)
        .required('is missing')
    )
  })
}
