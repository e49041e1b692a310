import type { Shot } from '../document/types.ts'
import { variableValues, type VariableValue } from './variableValues.ts'

/** A lifted value as it stands now. */
export interface LiftedValue extends VariableValue {
  label: string
}

/** The values that a shot lifts out, those of them that are still there as single numbers. */
export function liftedValues(shot: Shot): LiftedValue[] {
  if (shot.lifted.length === 0) return []
  const values = new Map(variableValues(shot).map((value) => [value.path.join('\n'), value]))
  return shot.lifted.flatMap(({ label, path }) => {
    const value = values.get(placesIn(shot, path).join('\n'))
    return value ? [{ ...value, label }] : []
  })
}

/** A path with the places of list entries for their ids. */
function placesIn(shot: Shot, path: string[]): (string | number)[] {
  let at: unknown = shot
  return path.map((key) => {
    const place = Array.isArray(at) ? at.findIndex((one: { id?: string }) => one.id === key) : key
    at = (at as Record<string | number, unknown> | undefined)?.[place]
    return place
  })
}
