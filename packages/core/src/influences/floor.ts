import { direction, number } from '../document/parameters.ts'
import { valuesAt } from '../document/keys.ts'
import { unit } from '../math/vector.ts'
import { SOLID } from './contactParameters.ts'
import { MESH_CONTACTS } from '../constraints/meshContacts.ts'
import { APPLIED, influence } from './influence.ts'

/** An endless plane: the floor, or a wall. */
export const floor = influence({
  kind: 'floor',
  family: 'contact',
  surrounds: true,
  label: 'Floor',
  glyph: '▁',
  help: 'They hit an endless plane: a floor, or turned, a wall or a slope',
  pitfall: 'They hover or sink: its height is in metres along the way it faces, and their radius counts.',
  source: 'Coulomb friction; Newton’s restitution',
  isPlane: true,
  attributes: ['startVelocity', 'sideFlags', 'contactNormal', 'contactTime', 'contactCollider'],
  parameters: {
    strength: { ...APPLIED, help: 'Above 0 it is there, at 0 it is not' },
    height: number({
      label: 'Height',
      unit: 'm',
      help: 'Distance of the plane from the origin, along its direction',
      default: 0,
      range: [-1e6, 1e6],
      usual: [-2, 2],
      step: 0.01,
      keyable: true,
    }),
    direction: direction({
      label: 'Faces',
      help: 'Which way it faces; the length does not matter',
      default: [0, 1, 0],
    }),
    ...SOLID,
  },
  constraint: MESH_CONTACTS,
  rule: ({ direction, inside, out, ...material }, { from, to, written }) => {
    const heightAt = (frame: number): number => valuesAt({ height: HEIGHT }, written, frame).height as number
    const of = { normal: unit(direction), from: heightAt(from), to: heightAt(to) }
    return { ...material, of, side: 1, out: inside === 'out' ? out : 0 }
  },
})
const HEIGHT = floor.parameters.height!
