/** Particles as a table: a row each, one number a column, under the names that PLY gives them. */
import {
  ATTRIBUTES,
  ownAttribute,
  ownName,
  TOLD,
  type OwnAttribute,
  type PopulationFrame,
  type Shot,
} from '@tangle/core'
import { FormatFault } from '../fault.ts'
import { coloursOf, emissionOf, srgbBytes } from './colours.ts'
import { numbersOf, type WrittenInstances } from './instances.ts'

export interface TableColumn {
  name: string
  values: Float32Array | Uint32Array | Int32Array | Uint8Array
}

const EMISSION = ['emission_red', 'emission_green', 'emission_blue']

/** One property per component of a column. */
export function parts(values: TableColumn['values'] | undefined, names: readonly string[]): TableColumn[] {
  if (!values) return []
  const width = names.length
  if (width === 1) return [{ name: names[0]!, values }]
  return names.map((name, k) => ({
    name,
    values: Float32Array.from({ length: values.length / width }, (_, i) => values[i * width + k]!),
  }))
}

/** Attributes under the names that the table gives them in PLY. */
const inFiles = (columns: PopulationFrame['columns'], names: (keyof typeof ATTRIBUTES)[]): TableColumn[] =>
  names.flatMap((name) => parts(columns[name], ATTRIBUTES[name].files?.ply ?? []))

/** An attribute of the artist's own; whole numbers as such. */
function ownParts(attribute: OwnAttribute, columns: PopulationFrame['columns']): TableColumn[] {
  const values = columns[ownName(attribute.id)]
  const names = ownAttribute(attribute).files?.ply ?? []
  return parts(attribute.type === 'whole' ? values && Int32Array.from(values, Math.round) : values, names)
}

/**
 * x y z (m), id, red green blue (0 to 255) and, where they are kept, vx vy vz (m/s), radius (m), age (s), phase, parent, parent_population, generation, travelled (m), alpha, qx qy qz qw, wx wy wz (rad/s), piece, temperature (°C), pressure (Pa), compression, stress and the
 * artist's own attributes by id; of particles that glow emission_red … (linear, above 1 as well); of particles drawn as instances the number of their mesh, and their scale.
 */
export function tableOf(
  shot: Shot,
  population: PopulationFrame,
  instances: WrittenInstances | null,
): TableColumn[] {
  const { look, attributes } = shot.populations.find((p) => p.id === population.id)!
  const { columns: c } = population
  const colours = srgbBytes(coloursOf(look, population, attributes))
  return [
    ...inFiles(c, ['position', 'velocity', 'radius', 'age', 'id']),
    ...(c.phase ? [{ name: 'phase', values: Uint8Array.from(c.phase) }] : []),
    ...inFiles(c, [
      'parent',
      'parentPopulation',
      'generation',
      'travelled',
      'orientation',
      'angularVelocity',
      'piece',
      ...TOLD,
    ]),
    ...attributes.flatMap((one) => ownParts(one, c)),
    ...(instances ? [{ name: 'instance', values: numbersOf(instances, population) }] : []),
    ...parts(instances?.scales(population), ['scale']),
    ...['red', 'green', 'blue'].map((name, k) => ({ name, values: colours.filter((_, i) => i % 3 === k) })),
    ...parts(emissionOf(look, population, attributes) ?? undefined, EMISSION),
    ...(c.opacity ? [{ name: 'alpha', values: Uint8Array.from(c.opacity, (a) => Math.round(a * 255)) }] : []),
  ]
}

/** A column of numbers by its name, where there is one. */
type Columns = (name: string) => ArrayLike<number> | undefined

function need(file: string, name: string, column: Columns): ArrayLike<number> {
  const values = column(name)
  if (!values) throw new FormatFault(file, `has no column "${name}"`)
  return values
}
/** Three columns side by side. @throws FormatFault where one is missing. */
export function weave(file: string, names: readonly string[], count: number, column: Columns): Float32Array {
  const woven = names.map((name) => need(file, name, column))
  return Float32Array.from({ length: count * 3 }, (_, i) => woven[i % 3]![Math.floor(i / 3)]!)
}
/** What files are compared by, from the columns of a table. @throws FormatFault where one is missing. */
export const populationOf = (file: string, id: string, count: number, column: Columns): PopulationFrame => ({
  id,
  count,
  columns: {
    id: Uint32Array.from(need(file, 'id', column)),
    position: weave(file, ['x', 'y', 'z'], count, column),
    ...(column('vx') ? { velocity: weave(file, ['vx', 'vy', 'vz'], count, column) } : {}),
    ...(column('radius') ? { radius: Float32Array.from(need(file, 'radius', column)) } : {}),
  },
})
