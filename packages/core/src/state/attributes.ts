/**
 * The attributes of particles: what every particle of a population carries. This table is the only place that lists
 * them: columns, snapshots, fingerprints, frames, files, tables and charts read it. SI units; the order is that in
 * which columns are hashed and saved.
 */

import { layouts } from '@tangle/kernels'
import { told, type Attribute, type OffspringName, type OwnName } from './attribute.ts'
import { WORKINGS } from './workings.ts'

const state = { role: 'state', exists: 'always', start: null } as const
const asked = { role: 'state', exists: 'asked' } as const
const memory = { role: 'memory', exists: 'asked' } as const

const goalPlace = {
  type: 'u32',
  width: 2,
  unit: '',
  does: 'what the goal is on (0: none) and where, as `anchor`',
  ...asked,
  start: [0, 0],
} as const
const goalWeights = {
  type: 'f32',
  width: 3,
  unit: 'm',
  does: 'where on it the goal is, as `anchorAt`',
  ...asked,
  start: [0, 0, 0],
} as const

const BUILT_IN = {
  id: {
    type: 'u32',
    width: 1,
    unit: '',
    does: 'who it is; ascends in every column',
    ...state,
    frames: 'exact',
    files: { ply: ['id'], usd: 'int64[] ids', vtk: 'id' },
    shown: ['id'],
  },
  phase: {
    type: 'u32',
    width: 1,
    unit: '',
    does: 'number of its phase',
    ...state,
    frames: 'exact',
    keep: 'phase',
    files: { ply: ['phase'], usd: 'int[] primvars:phase', vtk: 'phase' },
    shown: ['phase'],
  },
  position: {
    type: 'f32',
    width: 3,
    unit: 'm',
    does: 'where it is',
    ...state,
    frames: 'place',
    files: { ply: ['x', 'y', 'z'], usd: 'point3f[] points', vtk: 'Points' },
    shown: ['x', 'y', 'z'],
  },
  startPosition: { type: 'f32', width: 3, unit: 'm', does: 'where it was as the substep began', ...state },
  velocity: {
    type: 'f32',
    width: 3,
    unit: 'm/s',
    does: 'how fast it goes',
    ...state,
    frames: 'velocity',
    keep: 'velocity',
    files: { ply: ['vx', 'vy', 'vz'], usd: 'vector3f[] velocities', vtk: 'velocity' },
  },
  age: {
    type: 'f32',
    width: 1,
    unit: 's',
    does: 'time since birth; negative: it is born within this substep',
    ...state,
    frames: 'time',
    keep: 'age',
    files: { ply: ['age'], usd: 'float[] primvars:age', vtk: 'age' },
  },
  lifespan: {
    type: 'f32',
    width: 1,
    unit: 's',
    does: 'age at which it dies',
    ...state,
    frames: { share: 2 ** -12 },
    keep: 'age',
  },
  radius: {
    type: 'f32',
    width: 1,
    unit: 'm',
    does: 'half its width',
    ...state,
    frames: { share: 2 ** -12 },
    keep: 'radius',
    files: { ply: ['radius'], usd: 'float[] widths', vtk: 'radius' },
    shown: ['radius'],
  },
  inverseMass: { type: 'f32', width: 1, unit: '1/kg', does: 'how it gives way', ...state },
  phaseAge: { type: 'f32', width: 1, unit: 's', does: 'time in its phase', ...state },
  parent: {
    type: 'u32',
    width: 1,
    unit: '',
    does: 'id of the particle that bore it; 2³² − 1: none did',
    ...asked,
    start: [0xffffffff],
    frames: 'exact',
    keep: 'parent',
    files: { ply: ['parent'], usd: 'int[] primvars:parent', vtk: 'parent' },
    shown: ['parent'],
  },
  parentPopulation: {
    type: 'u32',
    width: 1,
    unit: '',
    does: 'number of the population that bore it, from 0 in the order of the shot, where several do; 2³² − 1: none did',
    ...asked,
    start: [0xffffffff],
    frames: 'exact',
    keep: 'parent',
    files: { ply: ['parent_population'], usd: 'int[] primvars:parentPopulation', vtk: 'parentPopulation' },
    shown: ['parentPopulation'],
  },
  generation: {
    type: 'u32',
    width: 1,
    unit: '',
    does: 'how many bore one another before it: 0 for whoever is of no particle',
    ...asked,
    start: [0],
    frames: 'exact',
    keep: 'parent',
    files: { ply: ['generation'], usd: 'int[] primvars:generation', vtk: 'generation' },
    shown: ['generation'],
  },
  randomKey: {
    type: 'u32',
    width: 1,
    unit: '',
    does: 'what its random numbers follow from where that is not its id: its parent and its number among the children of that',
    ...memory,
    start: null,
  },
  travelled: {
    type: 'f32',
    width: 1,
    unit: 'm',
    does: 'length of its way since birth',
    ...asked,
    start: [0],
    frames: 'distance',
    keep: 'travelled',
    files: { ply: ['travelled'], usd: 'float[] primvars:travelled', vtk: 'travelled' },
    shown: ['travelled'],
  },
  anchor: {
    type: 'u32',
    width: 2,
    unit: '',
    does: 'body (0 none) and triangle (2³² − 1: rigidly with the body) on which it was born',
    ...asked,
    start: null,
  },
  anchorAt: {
    type: 'f32',
    width: 3,
    unit: 'm',
    does: 'weights of the second and third corner and the height above them; or the rigid place',
    ...asked,
    start: null,
  },
  surfaceVelocity: {
    type: 'f32',
    width: 3,
    unit: 'm/s',
    does: 'part of its velocity that a surface gave which carries it',
    ...asked,
    start: null,
  },
  birthRadius: { type: 'f32', width: 1, unit: 'm', does: 'radius at its birth', ...asked, start: null },
  opacity: {
    type: 'f32',
    width: 1,
    unit: '',
    does: 'how much of it is seen',
    ...asked,
    start: [1],
    frames: { share: 2 ** -10 },
    keep: 'opacity',
    files: { ply: ['alpha'], usd: 'float[] primvars:displayOpacity', vtk: 'opacity' },
    shown: ['opacity'],
  },
  colour: {
    type: 'f32',
    width: 3,
    unit: '',
    does: 'linear RGB of its own',
    ...asked,
    start: [1, 1, 1],
    frames: { share: 2 ** -10 },
    keep: 'colour',
    files: { ply: ['red', 'green', 'blue'], usd: 'color3f[] primvars:displayColor', vtk: 'colour' },
  },
  orientation: {
    type: 'f32',
    width: 4,
    unit: '',
    does: 'unit quaternion x, y, z, w',
    ...asked,
    start: [0, 0, 0, 1],
    frames: { error: 2 ** -14 },
    keep: 'orientation',
    files: { ply: ['qx', 'qy', 'qz', 'qw'], usd: 'quatf[] primvars:orientation', vtk: 'orientation' },
  },
  piece: {
    type: 'u32',
    width: 1,
    unit: '',
    does: 'number of its broken mesh among the meshes, times 65,536, and of its piece, from 1; 0: it is no piece',
    ...state,
    exists: 'asked',
    start: null,
    frames: 'exact',
    keep: 'orientation',
    files: { ply: ['piece'], usd: 'int[] primvars:piece', vtk: 'piece' },
  },
  angularVelocity: {
    type: 'f32',
    width: 3,
    unit: 'rad/s',
    does: 'how fast it turns about which axis',
    ...asked,
    start: [0, 0, 0],
    frames: { error: 2 ** -10 },
    keep: 'orientation',
    files: { ply: ['wx', 'wy', 'wz'], usd: 'vector3f[] angularVelocities', vtk: 'angularVelocity' },
  },
  stress: told(
    'stress',
    '',
    'of what its bonds bear, the highest share that one of them bears',
    { error: 2 ** -10 },
    'bonds',
  ),
  bonds: {
    type: 'u32',
    width: 1,
    unit: '',
    does: 'which of its bonds with pieces of higher numbers hold: a bit for each of the first 32, in the order of their mesh',
    ...asked,
    start: [0],
    frames: 'exact',
    keep: 'bonds',
  },
  pressure: told('pressure', 'Pa', 'pressure of a liquid at it', { share: 2 ** -10 }, 'liquid'),
  compression: told(
    'compression',
    '',
    'how much denser a liquid is at it than at rest: 0.01 is a hundredth; below 0 at its surface',
    { error: 2 ** -12 },
    'liquid',
  ),
  // emission gives it
  temperature: {
    ...told('temperature', '°C', 'how warm it is', { error: 2 ** -7 }, 'temperature'),
    start: null,
  },
  goal1: goalPlace,
  goalAt1: goalWeights,
  goal2: goalPlace,
  goalAt2: goalWeights,
  goal3: goalPlace,
  goalAt3: goalWeights,
  goal4: goalPlace,
  goalAt4: goalWeights,
  ...WORKINGS,
} as const satisfies Record<string, Attribute>

export type BuiltInName = keyof typeof BUILT_IN
export type AttributeName = BuiltInName | OwnName | OffspringName

export const ATTRIBUTES: Record<BuiltInName, Attribute> = BUILT_IN
export const BUILT_IN_NAMES = Object.keys(BUILT_IN) as BuiltInName[]

/** Most meshes and planes that a population collides with: as many as `sideFlags` has bits for. */
export const MOST_COLLIDERS = layouts.collider.MOST
/** Most goals of a population: each has two attributes. */
export const MOST_GOALS = 4
/** The attributes of the n-th goal of a population. */
export const goalAttributes = (n: number): ['goal1', 'goalAt1'] =>
  [`goal${n + 1}`, `goalAt${n + 1}`] as ['goal1', 'goalAt1']
