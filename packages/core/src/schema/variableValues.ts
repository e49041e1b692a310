/** The numbers of a shot that may be varied: every one that is written as a single number and changes what is computed. */
import { FRACTURE, SHELL } from '../document/madeMeshes.ts'
import { PARTICLE, PLACE } from '../document/ownParameters.ts'
import type { Amount, Parameter, Parameters } from '../document/parameters.ts'
import type { MeshSource, Shot } from '../document/types.ts'
import { BIRTHS, CUES, DEFORMATIONS, GOALS, INFLUENCES, MASKS } from '../registry.ts'

export interface VariableValue {
  /** Keys and list places from the root of the document. */
  path: (string | number)[]
  /** Whose it is and what, as in "Dust · Turbulence · strength". */
  name: string
  value: number
  unit: string
  /** What is allowed. */
  range: [number, number]
  /** What is usual. */
  usual: [number, number]
  whole: boolean
}
type Path = VariableValue['path']
interface Entry {
  kind: string
  name?: string
  [parameter: string]: unknown
}
type Kinds = { kind: string; label: string; parameters: Parameters }[]

const AXES = ['x', 'y', 'z']
const MOST_BORN = 2e7
const SEED: VariableValue = {
  path: ['seed'],
  name: 'Seed',
  value: 0,
  unit: '',
  range: [0, 2 ** 32 - 1],
  usual: [1, 100],
  whole: true,
}
const WEIGHT: Pick<VariableValue, 'unit' | 'range' | 'usual' | 'whole'> = {
  unit: '',
  range: [-1e6, 1e6],
  usual: [0, 2],
  whole: false,
}

/** The values of a shot, in the order of the work; those that are keyed are left out. */
export function variableValues(shot: Shot): VariableValue[] {
  const { meshes, masks, populations } = shot
  return [
    { ...SEED, value: shot.seed },
    ...meshes.flatMap(({ name, source, place, deform }, m) => [
      ...ofSource(source, ['meshes', m, 'source'], name),
      ...among(PLACE, place as never, ['meshes', m, 'place'], name),
      ...deform.flatMap((one, i) => ofKind(DEFORMATIONS, one, ['meshes', m, 'deform', i], name)),
    ]),
    ...masks.flatMap((mask, i) => ofKind(MASKS, mask, ['masks', i], '')),
    ...populations.flatMap(({ name, particle, births, cues, goals, influences }, p) => {
      const of = (list: string, i: number): Path => ['populations', p, list, i]
      return [
        ...among(PARTICLE, particle as never, ['populations', p, 'particle'], name),
        ...births.flatMap((one, i) => ofKind(BIRTHS, one, of('births', i), name)),
        ...cues.flatMap(({ when }, i) => ofKind(CUES, when, [...of('cues', i), 'when'], name)),
        ...goals.flatMap((one, i) => ofKind(GOALS, one, of('goals', i), name)),
        ...influences.flatMap((one, i) => [
          ...ofKind(INFLUENCES, one, of('influences', i), name),
          ...Object.entries(one.weights).map(([phase, value]): VariableValue => ({
            ...WEIGHT,
            path: [...of('influences', i), 'weights', phase],
            name: `${titleOf(INFLUENCES, one, name)} · weight in ${phase}`,
            value,
          })),
        ]),
      ]
    }),
  ]
}

/** Of what is made of another mesh. */
function ofSource(source: MeshSource, path: Path, name: string): VariableValue[] {
  if ('fracture' in source) return among(FRACTURE, source.fracture as never, [...path, 'fracture'], name)
  return 'shell' in source ? among(SHELL, source.shell as never, [...path, 'shell'], name) : []
}

const titleOf = (kinds: Kinds, { kind, name }: Entry, owner: string): string =>
  [owner, name || kinds.find((one) => one.kind === kind)?.label || kind].filter(Boolean).join(' · ')

function ofKind(kinds: Kinds, entry: Entry, path: Path, owner: string): VariableValue[] {
  const kind = kinds.find((one) => one.kind === entry.kind)
  return kind ? among(kind.parameters, entry, path, titleOf(kinds, entry, owner)) : []
}

function among(
  parameters: Parameters,
  values: Record<string, unknown>,
  path: Path,
  title: string,
): VariableValue[] {
  return Object.entries(parameters).flatMap(([key, parameter]) =>
    numbersIn(parameter, values[key], [...path, key], `${title} · ${parameter.label.toLowerCase()}`),
  )
}

/** The single numbers that a parameter's value consists of. */
function numbersIn(parameter: Parameter, value: unknown, path: Path, name: string): VariableValue[] {
  const one = (at: Path, number: unknown, part = ''): VariableValue[] => {
    if (typeof number !== 'number' || !('range' in parameter)) return []
    const { unit, range, usual } = parameter
    const whole = parameter.type === 'number' && parameter.whole
    return [{ path: [...path, ...at], name: `${name}${part}`, value: number, unit, range, usual, whole }]
  }
  switch (parameter.type) {
    case 'number':
      return one([], value)
    case 'varied':
      return typeof value === 'object' && value !== null
        ? one(['mean'], (value as { mean: unknown }).mean)
        : one([], value)
    case 'vector':
      return AXES.flatMap((axis, k) => one([k], (value as unknown[] | undefined)?.[k], ` ${axis}`))
    case 'amount': {
      const key = ['burst', 'rate', 'swept'].find(
        (word) => typeof (value as Record<string, unknown> | undefined)?.[word] === 'number',
      )
      if (!key) return []
      const born = (value as Amount as Record<string, number>)[key]!
      return [
        { path: [...path, key], name, value: born, unit: key === 'rate' ? '1/s' : '', range: [0, MOST_BORN], usual: [0, 1e5], whole: key !== 'rate' }, // prettier-ignore
      ]
    }
    default:
      return []
  }
}
