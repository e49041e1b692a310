/**
 * The world of rigid bodies in Rapier: one body for each particle, and one for each mesh or plane that they hit. Lengths are times a power of two, so that pieces are about half a unit wide, which the engine is made for, and not a
 * bit is lost on the way.
 */
import type { Collider, RigidBody, World as RapierWorld } from '@dimforge/rapier3d-deterministic-compat'
import { principalAxes, rotate, type Quaternion } from '../math/quaternion.ts'
import { add, length, scale, subtract, type Vector } from '../math/vector.ts'
import type { BodyShape } from './bodyShape.ts'
import { rapierModule } from './rapier.ts'

/** What pieces are made of. */
export interface RigidMaterial {
  bounce: number
  friction: number
}

/** Where a body is, m, and how it is turned. */
export interface Pose {
  place: Vector
  turned: Quaternion
}

/** What is kept between substeps, as plain data. */
export interface RigidMemory {
  /** Units per metre. */
  unit: number
  /** Seconds of the engine in one of ours: small bodies live fast. In its time they fall like those it is made for. */
  pace: number
  /** Masses are times a power of two, too: those of crumbs are nothing to the engine. */
  heft: number
  /** Bytes of the engine's state, brought up to date for snapshots. */
  state: Uint8Array | null
  /** Nobody was free in the last substep: the engine was not asked, and its held bodies and obstacles stand as of before. */
  rested: boolean
  bodies: BodyMemory[]
  /** Bodies of what they hit, by a name that says what it is. */
  obstacles: Kept[]
}

/** What is hit: its bodies, one or one for each patch, with the colliders that are their shapes, and how these rub. */
interface Kept {
  name: string
  parts: { handle: number; shape: number }[]
  friction: number
  bounce: number
}

/** A body of the engine: one particle, or several that bonds hold together. */
export interface BodyMemory {
  handle: number
  /** Whose it is: number of the population. */
  population: number
  parts: PartMemory[]
  /** Centre of mass in the body's frame, m; of one particle it is where that is. */
  centre: Vector
  mass: number
  /** Moments about the principal axes, kg·m², and the turn from these to the body's. */
  inertia: Vector
  axes: Quaternion
  /** What acted on it when it fell asleep, m/s². */
  restedUnder: Vector
  /** Where it lies asleep, as its particle was told; null: it is awake, or not known. */
  lies: Pose | null
  /** Loads on parts as they last, N and N·m in its frame, 6 each (bondLoads.ts); empty until there are any. */
  loads: Float64Array
  /** What its bonds bear (bondBreaking.ts); null: not known. */
  stress: StressMemory | null
  /** Whether a held piece carried it in the last substep. */
  carried: boolean
  /** Farthest point from its centre, m. */
  reach: number
  /** By what its friction is times: below 1 it slides (rigidFriction.ts). */
  slides: number
}

/** What was found when bonds were last asked what they bear. */
export interface StressMemory {
  /** Which bonds of the table, and what they bore then, Pa. */
  bonds: Int32Array
  strengths: Float64Array
  /** Under which loads, 6 a part, and the displacements that balance them. */
  loads: Float64Array
  moved: Float64Array
  /** Highest share of what a bond bears, and that for each newton of the loads. */
  peak: number
  perNewton: number
}

/** A particle of a body. */
export interface PartMemory {
  id: number
  /** Handles; one for each hull. */
  colliders: number[]
  /** What it collides with, as the engine has it. */
  groups: number
  /** Its centre of mass in the body's frame, m. */
  offset: Vector
  mass: number
  /** Inertia about that, kg·m²: xx, yy, zz, xy, yz, zx. */
  tensor: number[]
  /** Farthest point from that, m. */
  reach: number
}

export interface RigidWorld {
  memory: RigidMemory
  rapier: RapierWorld
}

/** @param width median width of bodies, m @param mass median mass, kg */
export function createRigidWorld(width: number, mass: number): RigidWorld {
  const { World } = rapierModule()
  const unit = 2 ** Math.round(Math.log2(0.5 / Math.max(1e-9, width)))
  return {
    memory: {
      unit,
      pace: 2 ** Math.max(0, Math.floor(Math.log2(unit) / 2)),
      heft: 2 ** Math.round(-Math.log2(Math.max(1e-30, mass))),
      state: null,
      rested: false,
      bodies: [],
      obstacles: [],
    },
    rapier: new World({ x: 0, y: 0, z: 0 }),
  }
}

/** The world as it was kept. */
export function restoreRigidWorld(memory: RigidMemory): RigidWorld {
  const { World } = rapierModule()
  return { memory, rapier: World.restoreSnapshot(memory.state!) }
}

export const asVector = ([x, y, z]: Vector, unit = 1) => ({ x: x * unit, y: y * unit, z: z * unit })
export const asQuaternion = ([x, y, z, w]: Quaternion) => ({ x, y, z, w })
export const fromVector = ({ x, y, z }: { x: number; y: number; z: number }, unit = 1): Vector => [
  x / unit,
  y / unit,
  z / unit,
]
export const fromQuaternion = ({
  x,
  y,
  z,
  w,
}: {
  x: number
  y: number
  z: number
  w: number
}): Quaternion => [x, y, z, w]

export const velocityOf = ({ memory: { unit, pace } }: RigidWorld, body: RigidBody): Vector =>
  fromVector(body.linvel(), unit / pace)
export const spinOf = ({ memory: { pace } }: RigidWorld, body: RigidBody): Vector =>
  fromVector(body.angvel(), 1 / pace)
export const setVelocity = (
  { memory: { unit, pace } }: RigidWorld,
  body: RigidBody,
  velocity: Vector,
  wakes: boolean,
): void => body.setLinvel(asVector(velocity, unit / pace), wakes)
export const setSpin = (
  { memory: { pace } }: RigidWorld,
  body: RigidBody,
  spin: Vector,
  wakes: boolean,
): void => body.setAngvel(asVector(spin, 1 / pace), wakes)

/** Puts a body somewhere, without a way there. */
export function setPose(
  { memory: { unit } }: RigidWorld,
  body: RigidBody,
  { place, turned }: Pose,
  wakes: boolean,
): void {
  body.setTranslation(asVector(place, unit), wakes)
  body.setRotation(asQuaternion(turned), wakes)
}

export const placeOf = ({ memory: { unit } }: RigidWorld, body: RigidBody): Vector =>
  fromVector(body.translation(), unit)

/** Where its centre of mass is when its frame is there. */
export const centreAt = ({ centre }: BodyMemory, { place, turned }: Pose): Vector =>
  add(place, rotate(turned, centre))

export const bodyOf = ({ rapier }: RigidWorld, { handle }: { handle: number }): RigidBody =>
  rapier.getRigidBody(handle)

/** Colliders of particles feel one another and whatever their population hits: a bit for each of that. */
export const groupsOf = (member: number, filter: number): number => ((member << 16) | filter) >>> 0
export const PARTICLES = 1
export const obstacleBit = (n: number): number => 1 << (n + 1)

/** Gives a body the shape of a part, its centre at an offset, m. */
export function addShape(
  { rapier, memory }: RigidWorld,
  body: RigidBody,
  { hulls, reach }: BodyShape,
  offset: Vector,
  { bounce, friction }: RigidMaterial,
): Collider[] {
  const { ColliderDesc, CoefficientCombineRule } = rapierModule()
  const { unit } = memory
  const { x, y, z } = asVector(offset, unit)
  const solid = hulls.flatMap((points) => ColliderDesc.convexHull(points.map((x) => x * unit)) ?? [])
  // what is too flat has no hull
  const shapes = solid.length > 0 ? solid : [ColliderDesc.ball(reach * unit)]
  return shapes.map((shape) =>
    rapier.createCollider(
      shape
        .setTranslation(x, y, z)
        .setFriction(friction)
        .setRestitution(bounce)
        // of two the smoother: who slides on what stands rubs less
        .setFrictionCombineRule(CoefficientCombineRule.Min)
        .setRestitutionCombineRule(CoefficientCombineRule.Average)
        // the body has the mass of all its parts
        .setDensity(0),
      body,
    ),
  )
}

/** Gives a body the mass of its parts. */
export function weigh({ memory: { unit, heft } }: RigidWorld, body: RigidBody, memory: BodyMemory): void {
  const { parts } = memory
  const mass = parts.reduce((sum, one) => sum + one.mass, 0)
  const centre = scale(parts.reduce((sum, one) => add(sum, scale(one.offset, one.mass)), [0, 0, 0] as Vector), 1 / mass) // prettier-ignore
  const { values, axes } = principalAxes(inertiaAbout(parts, centre))
  const reach = Math.max(...parts.map((one) => one.reach + length(subtract(one.offset, centre))))
  Object.assign(memory, { mass, centre, inertia: values, axes, reach } satisfies Partial<BodyMemory>)
  body.setAdditionalMassProperties(
    mass * heft,
    asVector(centre, unit),
    asVector(values, heft * unit * unit),
    asQuaternion(axes),
    false,
  )
  body.recomputeMassPropertiesFromColliders()
}

/** Of values with six numbers a part, those of some parts. */
export const sixesOf = (parts: number[], values: Float64Array): Float64Array =>
  Float64Array.from(parts.flatMap((k) => [...values.subarray(k * 6, k * 6 + 6)]))

/** Inertia of parts about a point of the body's frame, kg·m²: xx, yy, zz, xy, yz, zx (Steiner). */
export function inertiaAbout(
  parts: Pick<PartMemory, 'mass' | 'offset' | 'tensor'>[],
  centre: Vector,
): number[] {
  const sum = [0, 0, 0, 0, 0, 0]
  for (const { mass, offset, tensor } of parts) {
    const [x, y, z] = subtract(offset, centre)
    const moved = [y * y + z * z, z * z + x * x, x * x + y * y, -x * y, -y * z, -z * x]
    for (let k = 0; k < 6; k++) sum[k] = sum[k]! + tensor[k]! + mass * moved[k]!
  }
  return sum
}
