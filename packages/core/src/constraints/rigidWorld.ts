/**
 * The world of rigid bodies in Rapier: one body for each particle, and one for each mesh or plane that they hit. Lengths are times a power of two, so that pieces are about half a unit wide, which the engine is made for, and not a
 * bit is lost on the way.
 */
import type { RigidBody, World as RapierWorld } from '@dimforge/rapier3d-deterministic-compat'
import type { Quaternion } from '../math/quaternion.ts'
import type { Vector } from '../math/vector.ts'
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
  bodies: BodyMemory[]
  /** Bodies of what they hit, by a name that says what it is. */
  obstacles: { name: string; handle: number; shape: number }[]
}

export interface BodyMemory {
  handle: number
  /** Whose it is: number of the population, and id. */
  population: number
  id: number
  /** What it collides with, as the engine has it. */
  groups: number
  /** Moments about the principal axes, kg·m², and the turn from these to the body's. */
  inertia: Vector
  axes: Quaternion
  /** What acted on it when it fell asleep, m/s². */
  restedUnder: Vector
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

export const placeOf = ({ memory: { unit } }: RigidWorld, body: RigidBody): Vector =>
  fromVector(body.translation(), unit)

export const bodyOf = ({ rapier }: RigidWorld, { handle }: { handle: number }): RigidBody =>
  rapier.getRigidBody(handle)

/** Colliders of particles feel one another and whatever their population hits: a bit for each of that. */
export const groupsOf = (member: number, filter: number): number => ((member << 16) | filter) >>> 0
export const PARTICLES = 1
export const obstacleBit = (n: number): number => 1 << (n + 1)

/** Gives a body its shape and mass, kg. */
export function addShape(
  { rapier, memory }: RigidWorld,
  body: RigidBody,
  { hull, inertia, axes, reach }: BodyShape,
  mass: number,
  { bounce, friction }: RigidMaterial,
): void {
  const { ColliderDesc, CoefficientCombineRule } = rapierModule()
  const { unit, heft } = memory
  // what is too flat has no hull
  const shape =
    (hull && ColliderDesc.convexHull(hull.map((x) => x * unit))) ?? ColliderDesc.ball(reach * unit)
  rapier.createCollider(
    shape
      .setFriction(friction)
      .setRestitution(bounce)
      .setFrictionCombineRule(CoefficientCombineRule.Average)
      .setRestitutionCombineRule(CoefficientCombineRule.Average)
      .setMassProperties(
        mass * heft,
        asVector([0, 0, 0]),
        asVector(inertia, mass * heft * unit * unit),
        asQuaternion(axes),
      ),
    body,
  )
}
