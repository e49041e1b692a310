import { ATTRIBUTES, TOLD, type OwnAttribute, type Population } from '@tangle/core'
import { fromHalf, type PackedPopulation } from '@tangle/runtime/browser'
import type { Column, Columns } from './columns.ts'

/** Parts of an attribute that has three. */
const PARTS: Partial<Record<OwnAttribute['type'], string>> = { vector: 'xyz', colour: 'rgb' }

/** What can be read of each particle, in the order of the table: what all have, and the population's own. */
export function particleColumns(packed: PackedPopulation, { phases, attributes }: Population): Columns {
  const { ids, traits, positions, values } = packed
  const half = (label: string, unit: string, k: number): Column => ({
    label,
    unit,
    read: (i) => fromHalf(values[i * 4 + k]!),
    words: (i) => Number(fromHalf(values[i * 4 + k]!).toPrecision(4)).toString(),
  })
  const place = (label: string, k: number): Column => ({
    label,
    unit: 'm',
    read: (i) => positions[i * 3 + k]!,
    words: (i) => Number(positions[i * 3 + k]!.toPrecision(4)).toString(),
  })
  return {
    id: { label: 'id', unit: '', read: (i) => ids[i]! },
    phase: {
      label: 'phase',
      unit: '',
      read: (i) => traits[i * 4]!,
      words: (i) => phases[traits[i * 4]!] ?? String(traits[i * 4]),
    },
    x: place('x', 0),
    y: place('y', 1),
    z: place('z', 2),
    speed: half('speed', 'm/s', 2),
    age: half('age', 'of life, or s', 1),
    radius: half('radius', 'm', 0),
    travelled: half('travelled', 'm', 3),
    opacity: {
      label: 'opacity',
      unit: '',
      read: (i) => traits[i * 4 + 1]! / 255,
      words: (i) => (traits[i * 4 + 1]! / 255).toFixed(2),
    },
    ...toldColumns(packed),
    ...Object.assign({}, ...attributes.map((one) => ownColumns(one, packed.own[one.id]))),
  }
}

const toldColumns = ({ told }: PackedPopulation): Columns =>
  Object.fromEntries(
    TOLD.flatMap((name): [string, Column][] => {
      const values = told[name]
      return values ? [[name, { label: name, unit: ATTRIBUTES[name].unit, read: (i) => values[i]! }]] : []
    }),
  )

function ownColumns({ id, name, type, unit }: OwnAttribute, values: Float32Array | undefined): Columns {
  // frames from before it was added have none
  if (!values) return {}
  const parts = PARTS[type]
  if (!parts) return { [id]: { label: name, unit, read: (i) => values[i]! } }
  return Object.fromEntries(
    [...parts].map((part, k) => [
      `${id}.${part}`,
      { label: `${name} ${part}`, unit, read: (i: number) => values[i * 3 + k]! },
    ]),
  )
}

/** Columns worth a histogram: those that spread. */
export const spreading = (columns: Columns): string[] =>
  Object.keys(columns).filter((name) => name !== 'id' && name !== 'phase')
