/**
 * Parameter declarations. A parameter is declared once, beside the kernel that uses it; its
 * TypeScript type, Yup schema, form control, `describe` output and reference page come from here.
 */
import type { Vector } from '../math/vector.ts'

/** The way from one key to the next. */
export type Ease = (typeof EASES)[number]
/** In the order of their codes in the kernels (assembly/amounts.ts). */
export const EASES = ['linear', 'smooth', 'hold', 'in', 'out', 'smoother'] as const
/** [frame, value] or [frame, value, ease towards the next key]. */
export type Key = [frame: number, value: number] | [frame: number, value: number, ease: Ease]
/** Beyond its last key or point a curve begins again, or swings back and forth; without a word it keeps its last value. */
export type Repeat = (typeof REPEATS)[number]
export const REPEATS = ['loop', 'swing'] as const
export type Keyed = number | { keys: Key[]; repeat?: Repeat }
/** A value of its own for every particle: mean ± spread, even between the two ends. */
export type Varied = number | { mean: number; spread: number }
export const meanOf = (varied: Varied): number => (typeof varied === 'number' ? varied : varied.mean)

interface Common {
  label: string
  /** One line that says what it does. */
  help: string
  /** Shown only when another parameter has one of these values; of an attribute, when its type is one of these words. */
  when?: Record<string, string>
}
interface Numeric extends Common {
  /** As shown: m, m/s, 1/s, °, frames … Empty for plain numbers. */
  unit: string
  /** What is allowed. */
  range: [number, number]
  /** What the slider covers; typing goes beyond it. */
  usual: [number, number]
  step: number
}
export interface NumberParameter extends Numeric {
  type: 'number'
  default: number
  whole: boolean
  keyable: boolean
  /** Takes responses: a factor of its own for every particle. */
  responsive: boolean
  /** May be left out, which means what this says. */
  absent?: string
  /** Is a frame of the shot, and goes along when that is renumbered. */
  moment?: true
}
export interface VectorParameter extends Numeric {
  type: 'vector'
  default: Vector
  keyable: boolean
  /** A direction: any length but zero. */
  direction: boolean
}
export interface VariedParameter extends Numeric {
  type: 'varied'
  default: Varied | null
  /** The spread as a share of the mean (0–1), or in the parameter's unit. */
  spread: 'share' | 'unit'
  /** What leaving it out means, where it may be left out. */
  absent?: string
}
export interface ChoiceParameter extends Common {
  type: 'choice'
  default: string
  options: Record<string, string>
}
export interface ReferenceParameter extends Common {
  type: 'reference'
  /** A parent's phase is one of the population that the parameter "from" names. */
  to: 'mesh' | 'phase' | 'parentPhase' | 'mask' | 'combing' | 'goal' | 'population' | 'attribute'
  /** May be left out, which means what this says. */
  absent?: string
  /** May name the population that it stands in. */
  itself?: true
}
/** A curve by points: [x, y] or [x, y, ease towards the next]. */
export interface CurveParameter extends Common {
  type: 'curve'
  default: Key[]
  x: { label: string; range: [number, number] }
  y: { label: string; range: [number, number] }
}
export interface RampParameter extends Common {
  type: 'ramp'
  default: RampChoice
}
/** A ramp by name, or with stops of its own: [place from 0 to 1, "#rrggbb"]. */
export type RampChoice = string | { stops: [number, string][] }
/** Where a spreading front starts. Places in metres, where the mesh stands at the first frame. */
export interface OriginParameter extends Common {
  type: 'origin'
  default: Origin
}
export type Origin =
  | { ball: Vector; radius: number }
  | { plane: Vector; normal: Vector }
  | { points: Vector[] }
  | { mask: string }
/** A path through points, in metres. */
export interface PathParameter extends Common {
  type: 'path'
  default: Vector[]
}
/** Strokes of a brush on a mesh. */
export interface StrokesParameter extends Common {
  type: 'strokes'
  default: Stroke[]
  /** What strokes can do, by the word that the document has for it. */
  brushes: Record<string, string>
}
export interface Stroke {
  brush: string
  /** Metres. */
  radius: number
  /** 0–1. */
  strength: number
  /** Where the brush went, on the mesh in its own space and size. */
  points: Vector[]
  /** 0–1 at each of them: how hard a pen was pressed, which its strength goes with; absent: fully. */
  pressures?: number[]
  /** The axis of the mesh along which it has a twin on the other side. */
  mirror?: (typeof MIRRORS)[number]
  /** Degrees off the surface, of a brush that lifts. */
  lift?: number
}
export const MIRRORS = ['x', 'y', 'z'] as const

/** 0–1: how strong a stroke is at one of its places, or at that of its twin. */
export const strengthAt = ({ strength, points, pressures }: Stroke, place: number): number =>
  strength * (pressures?.[place % points.length] ?? 1)

/** Where a stroke went, and then its twin. */
export function placesOf({ points, mirror }: Pick<Stroke, 'points' | 'mirror'>): Vector[] {
  const axis = mirror === undefined ? -1 : MIRRORS.indexOf(mirror)
  if (axis < 0) return points
  return [...points, ...points.map((point) => point.map((x, k) => (k === axis ? -x : x)) as Vector)]
}
/** "#rrggbb", sRGB. */
export interface ColourParameter extends Common {
  type: 'colour'
  default: string
}
export interface TextParameter extends Common {
  type: 'text'
  default: string
  most: number
  /** A regular expression that it must match, and what to say where it does not. */
  pattern?: { of: string; says: string }
}
export interface AmountParameter extends Common {
  type: 'amount'
  default: Amount
  /** May be as much as a mask sweeps. */
  sweeps?: boolean
  /** How many each parent bears: by the way it goes, by time, or at an event. */
  perParent?: boolean
}
export type Parameter =
  | NumberParameter
  | VectorParameter
  | VariedParameter
  | ChoiceParameter
  | ReferenceParameter
  | AmountParameter
  | CurveParameter
  | RampParameter
  | OriginParameter
  | StrokesParameter
  | PathParameter
  | ColourParameter
  | TextParameter
export type Parameters = Record<string, Parameter>

/** What happens to particles. In the order of their numbers in a table of events. */
export const EVENT_KINDS = ['birth', 'death', 'touch', 'break', 'phase', 'hit', 'splash'] as const
export type EventKind = (typeof EVENT_KINDS)[number]

/**
 * How many are born: all at once at a frame; at a rate per second between two frames; or as the level of
 * a mask sweeps over the mesh, `swept` for its whole surface, each stretch giving its share. Of particles each parent bears
 * at a rate, one each `spacing` metres of its way, or `count` at an event, where a draw is below `chance`. `cap` is for all, there for each parent.
 */
export type Amount =
  | { burst: number | 'all'; at: number }
  | { rate: Keyed; from?: number; to?: number; cap?: number }
  | { swept: number; mask: string; level?: number; from?: number; to?: number }
  | { spacing: Keyed; from?: number; to?: number; cap?: number }
  | { count: number; event: EventKind; chance?: number; from?: number; to?: number; cap?: number }

/** The document's value of a parameter. */
export type Written<P extends Parameter> = P extends NumberParameter
  ? Keyed
  : P extends VectorParameter
    ? [Keyed, Keyed, Keyed]
    : P extends VariedParameter
      ? Varied | null
      : P extends { default: infer D }
        ? D extends string
          ? string
          : D
        : string
/** The value at a moment, as kernels take it. */
export type Valued<P extends Parameter> = P extends NumberParameter
  ? number
  : P extends VectorParameter
    ? Vector
    : Written<P>
export type ValuesOf<P extends Parameters> = { [K in keyof P]: Valued<P[K]> }

type NumericOptions<T> = Omit<Numeric, 'usual' | 'step'> &
  Partial<Pick<Numeric, 'usual' | 'step'>> & { default: T }

function usualOf(options: NumericOptions<unknown>): [number, number] {
  return options.usual ?? options.range
}
function stepOf(options: NumericOptions<unknown>): number {
  const [low, high] = usualOf(options)
  return options.step ?? 10 ** Math.floor(Math.log10((high - low) / 100))
}

export function number(
  options: NumericOptions<number> & {
    keyable?: boolean
    whole?: boolean
    responsive?: boolean
    absent?: string
    moment?: true
  },
): NumberParameter {
  const { keyable = false, whole = false, responsive = false, ...rest } = options
  const step = whole ? 1 : stepOf(rest)
  return { type: 'number', ...rest, keyable, whole, responsive, usual: usualOf(rest), step }
}
export function vector(
  options: NumericOptions<Vector> & { keyable?: boolean; direction?: boolean },
): VectorParameter {
  const { keyable = false, direction = false, ...rest } = options
  return { type: 'vector', ...rest, keyable, direction, usual: usualOf(rest), step: stepOf(rest) }
}

/** A direction: a vector of any length but zero. */
export const direction = (
  options: Pick<NumericOptions<Vector>, 'label' | 'help' | 'default' | 'when'> & { keyable?: boolean },
): VectorParameter =>
  vector({ ...options, unit: '', range: [-1e6, 1e6], usual: [-1, 1], step: 0.01, direction: true })
export function varied(
  options: NumericOptions<Varied | null> & { spread: 'share' | 'unit'; absent?: string },
): VariedParameter {
  return { type: 'varied', ...options, usual: usualOf(options), step: stepOf(options) }
}
export const choice = (options: Omit<ChoiceParameter, 'type'>): ChoiceParameter => ({
  type: 'choice',
  ...options,
})
export const reference = (options: Omit<ReferenceParameter, 'type'>): ReferenceParameter => ({
  type: 'reference',
  ...options,
})
export const curve = (options: Omit<CurveParameter, 'type'>): CurveParameter => ({
  type: 'curve',
  ...options,
})
export const ramp = (options: Omit<RampParameter, 'type'>): RampParameter => ({ type: 'ramp', ...options })
export const origin = (options: Omit<OriginParameter, 'type'>): OriginParameter => ({
  type: 'origin',
  ...options,
})
export const strokes = (options: Omit<StrokesParameter, 'type'>): StrokesParameter => ({
  type: 'strokes',
  ...options,
})
export const path = (options: Omit<PathParameter, 'type'>): PathParameter => ({ type: 'path', ...options })
export const colour = (options: Omit<ColourParameter, 'type'>): ColourParameter => ({
  type: 'colour',
  ...options,
})
export const text = (options: Omit<TextParameter, 'type'>): TextParameter => ({ type: 'text', ...options })
export const amount = (options: Omit<AmountParameter, 'type'>): AmountParameter => ({
  type: 'amount',
  ...options,
})

/** The defaults of a set of parameters, as the document writes them; references are left out. */
export function defaultsOf(parameters: Parameters): Record<string, unknown> {
  const out: Record<string, unknown> = {}
  for (const [name, parameter] of Object.entries(parameters)) {
    const optional = 'absent' in parameter && parameter.absent !== undefined && parameter.type !== 'varied'
    if ('default' in parameter && parameter.default !== null && !optional)
      out[name] = structured(parameter.default)
  }
  return out
}
const structured = <T>(value: T): T => JSON.parse(JSON.stringify(value)) as T
