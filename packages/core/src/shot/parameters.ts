/**
 * Parameter declarations. A parameter is declared once, beside the kernel that uses it; its
 * TypeScript type, Yup schema, form control, `describe` output and reference page come from here.
 */
import type { Vector } from '../math/vector.ts'

/** [frame, value] or [frame, value, ease towards the next key]. */
export type Ease = 'linear' | 'smooth' | 'hold'
export type Key = [frame: number, value: number] | [frame: number, value: number, ease: Ease]
export type Keyed = number | { keys: Key[] }
/** A value of its own for every particle: mean ± spread, even between the two ends. */
export type Varied = number | { mean: number; spread: number }

interface Common {
  label: string
  /** One line that says what it does. */
  help: string
  /** Shown only when another parameter has this value. */
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
  to: 'mesh' | 'phase'
}
export interface AmountParameter extends Common {
  type: 'amount'
  default: Amount
}
export type Parameter =
  NumberParameter | VectorParameter | VariedParameter | ChoiceParameter | ReferenceParameter | AmountParameter
export type Parameters = Record<string, Parameter>

/** How many are born: all at once at a frame, or at a rate per second between two frames. */
export type Amount =
  { burst: number | 'all'; at: number } | { rate: Keyed; from?: number; to?: number; cap?: number }

/** The document's value of a parameter. */
export type Written<P extends Parameter> = P extends NumberParameter
  ? Keyed
  : P extends VectorParameter
    ? [Keyed, Keyed, Keyed]
    : P extends VariedParameter
      ? Varied | null
      : P extends AmountParameter
        ? Amount
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
  options: NumericOptions<number> & { keyable?: boolean; whole?: boolean },
): NumberParameter {
  const { keyable = false, whole = false, ...rest } = options
  return { type: 'number', ...rest, keyable, whole, usual: usualOf(rest), step: whole ? 1 : stepOf(rest) }
}
export function vector(
  options: NumericOptions<Vector> & { keyable?: boolean; direction?: boolean },
): VectorParameter {
  const { keyable = false, direction = false, ...rest } = options
  return { type: 'vector', ...rest, keyable, direction, usual: usualOf(rest), step: stepOf(rest) }
}
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
export const amount = (options: Omit<AmountParameter, 'type'>): AmountParameter => ({
  type: 'amount',
  ...options,
})

/** The defaults of a set of parameters, as the document writes them; references are left out. */
export function defaultsOf(parameters: Parameters): Record<string, unknown> {
  const out: Record<string, unknown> = {}
  for (const [name, parameter] of Object.entries(parameters)) {
    if ('default' in parameter && parameter.default !== null) out[name] = structured(parameter.default)
  }
  return out
}
const structured = <T>(value: T): T => JSON.parse(JSON.stringify(value)) as T
