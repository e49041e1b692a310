/** Attributes that only the solver reads: what it keeps from substep to substep, and what lasts for one. Part of the table in attributes.ts. */
import type { Attribute } from './attribute.ts'

const asked = { role: 'state', exists: 'asked' } as const
const memory = { role: 'memory', exists: 'asked' } as const
const scratchAsked = { role: 'scratch', exists: 'asked' } as const
const scratch = { role: 'scratch', exists: 'always', start: null } as const

export const WORKINGS = {
  goalMotion: {
    type: 'f32',
    width: 5,
    unit: 'm/s',
    does: 'velocity of the goal it settles on, the age at which that was so, and what the goal is on',
    ...memory,
    start: [0, 0, 0, -1, 0],
  },
  sideFlags: {
    type: 'u32',
    width: 1,
    unit: '',
    does: 'by collider: on the wrong side (bits 0–15), and whether that is known (bits 16–31)',
    ...asked,
    start: [0],
  },
  restTime: { type: 'f32', width: 1, unit: 's', does: 'how long it has lain still', ...asked, start: [0] },
  linkHalfKick: {
    type: 'f32',
    width: 3,
    unit: 'm/s',
    does: 'half of the velocity that links gave in the last substep (leapfrog)',
    ...asked,
    start: [0, 0, 0],
  },
  contactNormal: {
    type: 'f32',
    width: 3,
    unit: '',
    does: 'direction off what it touched last in this substep; zeros: it touched nothing',
    ...memory,
    start: [0, 0, 0],
  },
  contactTime: {
    type: 'f32',
    width: 1,
    unit: 's',
    does: 'time from its first contact in the substep to the end of the substep',
    ...scratchAsked,
    start: [0],
  },
  contactCollider: {
    type: 'u32',
    width: 1,
    unit: '',
    does: 'number of the collider of that contact',
    ...scratchAsked,
    start: [0],
  },
  startVelocity: {
    type: 'f32',
    width: 3,
    unit: 'm/s',
    does: 'velocity as the substep began',
    ...scratchAsked,
    start: null,
  },
  acceleration: { type: 'f32', width: 3, unit: 'm/s²', does: 'A of y″ = A − C·y′ − K·y', ...scratch },
  damping: { type: 'f32', width: 1, unit: '1/s', does: 'C of that', ...scratch },
  torque: {
    type: 'f32',
    width: 3,
    unit: 'N·m',
    does: 'turns a rigid body about its middle',
    ...scratchAsked,
    start: null,
  },
  stiffness: { type: 'f32', width: 1, unit: '1/s²', does: 'K of that', ...scratchAsked, start: null },
} as const satisfies Record<string, Attribute>
