/** The schema of attributes that artists add. */
import * as yup from 'yup'
import type { OwnAttribute } from '../document/types.ts'
import { OWN_WIDTHS, type OwnType } from '../state/attribute.ts'
import { ATTRIBUTES } from '../state/attributes.ts'
import { bounded, id, list, object, text } from './yup.ts'

/** Names that files use already. */
export const RESERVED = new Set([
  ...Object.keys(ATTRIBUTES),
  ...Object.values(ATTRIBUTES).flatMap(({ files }) => files?.ply ?? []),
  'instance',
  'scale',
  'width',
  'uv',
])

const TYPES = Object.keys(OWN_WIDTHS) as OwnType[]
const RANGES: Record<OwnType, [number, number]> = {
  number: [-1e9, 1e9],
  whole: [-(2 ** 24), 2 ** 24],
  vector: [-1e9, 1e9],
  colour: [0, 0],
}
const SAYS: Record<OwnType, string> = {
  number: 'must be a number from -1e9 to 1e9',
  whole: `must be a whole number from ${-(2 ** 24)} to ${2 ** 24}`,
  vector: 'must be three numbers from -1e9 to 1e9',
  colour: 'must be a colour: "#rrggbb"',
}

function isValue(type: OwnType, value: unknown): boolean {
  const [low, high] = RANGES[type]
  const fits = (one: unknown): boolean => typeof one === 'number' && one >= low && one <= high
  if (type === 'colour') return /^#[0-9a-f]{6}$/i.test(String(value))
  if (type === 'vector') return Array.isArray(value) && value.length === 3 && value.every(fits)
  return fits(value) && (type !== 'whole' || Number.isInteger(value))
}

const valueOf = (type: OwnType) =>
  yup.mixed().test('value', SAYS[type], (value) => value !== undefined && isValue(type, value))

function birthOf(type: OwnType) {
  const value = valueOf(type)
  const kinds: Record<string, yup.ISchema<unknown>> = {
    list: object({
      list: list(object({ value, weight: bounded([0, 1e6]).required('is missing') }))
        .required('is missing')
        .min(1, 'must have at least one value')
        .max(256, 'must have at most 256 values'),
    }),
    mask: object({ mask: id(), low: value, high: value }),
    data: object({ data: text(80).required('is missing: "uv", "colour" or the name of a property') }),
    low: object({ low: value, high: value }),
    mean: object({ mean: value, spread: bounded([0, 1e9]).required('is missing') }),
  }
  return yup.lazy((written: unknown) => {
    if (written === undefined) return yup.mixed()
    const kind = Object.keys(kinds).find(
      (one) => typeof written === 'object' && written !== null && one in written,
    )
    return (
      kinds[kind ?? ''] ??
      yup.mixed().test('birth', `must be an object with one of ${Object.keys(kinds).join(', ')}`, () => false)
    )
  })
}

/** What is said of an attribute depends on its type. */
export const ownAttribute = yup.lazy((written: unknown) => {
  const type = (written as Partial<OwnAttribute> | null)?.type ?? 'number'
  return object({
    id: id().test(
      'reserved',
      ({ value }: { value?: string }) =>
        `"${value ?? ''}" is the name of an attribute that there is: take another`,
      (value) => !RESERVED.has(value),
    ),
    name: text(80),
    type: yup.string().oneOf(TYPES, `must be one of ${TYPES.join(', ')}`),
    unit: yup.string().max(20, 'must be at most 20 letters'),
    birth: birthOf(TYPES.includes(type) ? type : 'number'),
  })
})
