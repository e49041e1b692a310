/** A row of the score in words. */
import { isKeyed } from './document/keys.ts'
import type { Keyed, NumberParameter, Parameter } from './document/parameters.ts'
import type { Influence, Population } from './document/types.ts'
import { INFLUENCES, RESPONSES } from './registry.ts'

/** So many parameters that are not as usual are named. */
const MOST_NAMED = 3

/**
 * What an influence does, to whom and when: "Loose: wind 0.8 1/s, fading out from frame 120 to 210; air speed 8 m/s; by age".
 * @param nameOf the name of what has an id: a mesh, a mask, a goal …
 */
export function influenceInWords(
  influence: Influence,
  { phases, attributes }: Population,
  nameOf: (id: string) => string,
): string {
  const kind = INFLUENCES.find((one) => one.kind === influence.kind)!
  const { strength, ...others } = kind.parameters
  const acts = kind.label.toLowerCase() + strengthInWords(influence.strength, strength as NumberParameter)
  const changed = Object.entries(others)
    .filter(([, parameter]) => isShown(parameter, influence, kind.parameters))
    .map(([name, parameter]) => parameterInWords(parameter, influence[name], nameOf))
    .filter((words) => words !== null)
  const readBy = influence.responses?.map(({ from, to, attribute }) => {
    const of = kind.parameters[to]!.label.toLowerCase()
    const own = attributes.find(({ id }) => id === attribute)?.name
    return `${of} by ${own ?? RESPONSES.find((one) => one.from === from)!.label}`
  })
  const words = [acts, ...changed.slice(0, MOST_NAMED), ...(readBy ?? [])].join('; ')
  return `${phasesInWords(influence.weights, phases)}: ${words}${influence.muted ? ' (muted)' : ''}`
}

function phasesInWords(weights: Influence['weights'], phases: string[]): string {
  const acts = phases.filter((phase) => (weights[phase] ?? 0) !== 0)
  if (acts.length === 0) return 'Nowhere'
  const shares = new Set(acts.map((phase) => weights[phase]))
  const [share] = shares
  const times = (weight: number): string => (weight === 1 ? '' : ` × ${weight}`)
  if (shares.size > 1) return acts.map((phase) => `${phase}${times(weights[phase]!)}`).join(', ')
  return `${acts.length === phases.length && phases.length > 1 ? 'All phases' : acts.join(', ')}${times(share!)}`
}

/** Its strength, and how that changes over frames. */
function strengthInWords(strength: Keyed, { unit, default: usual }: NumberParameter): string {
  const written = (value: number): string => `${digits(value)}${unit ? ` ${unit}` : ''}`
  if (!isKeyed(strength)) return strength === usual ? '' : ` ${written(strength)}`
  const { keys, repeat } = strength
  const [[from, first], [to, last]] = [keys[0]!, keys.at(-1)!]
  const again = repeat ? ', again and again' : ''
  const during = `from frame ${digits(from)} to ${digits(to)}${again}`
  const values = keys.map((key) => key[1])
  const rises = values.every((value, k) => k === 0 || value >= values[k - 1]!)
  const falls = values.every((value, k) => k === 0 || value <= values[k - 1]!)
  if (rises && falls) return ` ${written(first)}`
  if (rises) return first === 0 ? `, fading in to ${written(last)} ${during}` : `, rising from ${digits(first)} to ${written(last)} ${during}` // prettier-ignore
  if (falls) return last === 0 ? ` ${written(first)}, fading out ${during}` : `, falling from ${digits(first)} to ${written(last)} ${during}` // prettier-ignore
  return `, between ${digits(Math.min(...values))} and ${written(Math.max(...values))} ${during}`
}

/** Whether a parameter counts, as others stand. */
const isShown = ({ when }: Parameter, influence: Influence, parameters: Record<string, Parameter>): boolean =>
  Object.entries(when ?? {}).every(([key, values]) => {
    const other = parameters[key]!
    const value = influence[key] ?? ('default' in other ? other.default : undefined)
    return other.type === 'reference' || values.split(' ').includes(String(value))
  })

/** A parameter that is not as usual, or null. */
function parameterInWords(
  parameter: Parameter,
  value: unknown,
  nameOf: (id: string) => string,
): string | null {
  if (value === undefined) return null
  const label = parameter.label.toLowerCase()
  switch (parameter.type) {
    case 'reference':
      return `${label} ${nameOf(value as string)}`
    case 'choice':
      return value === parameter.default ? null : `${label} ${parameter.options[value as string]!}`
    case 'number':
      if (isKeyed(value)) return `${label} keyed`
      return value === parameter.default ? null : `${label} ${digits(value as number)} ${parameter.unit ?? ''}`.trimEnd() // prettier-ignore
    default:
      return null
  }
}

const digits = (value: number): string => String(Number(value.toPrecision(4)))
