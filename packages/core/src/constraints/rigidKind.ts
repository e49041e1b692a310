/** Rigid bodies as a kind of constraint: what influences feed to them, and what snapshots keep. rigidBodies.ts solves them. */
import type { ConstraintKind, Memory } from './constraint.ts'
import type { RigidWorld } from './rigidWorld.ts'

/** What a Rigid body influence says. */
export interface RigidRule {
  bounce: number
  /** Coefficients at rest and sliding. */
  friction: number
  sliding: number
  /** 1/s at which spin dies away. */
  spinDamping: number
}

/** The engine's worlds, by the memory that tells of them. */
export const WORLDS = new WeakMap<Memory, RigidWorld>()

export const RIGID_BODIES: ConstraintKind<RigidRule> = {
  name: 'rigidBodies',
  does: 'bodies with a shape push, rub, topple, roll and rest',
  couples: false,
  pace: 'bodies',
  // they are solved before all others, in a stage of their own
  prepare: () => null,
  store(memory) {
    const live = WORLDS.get(memory)
    if (live) live.memory.state = live.rapier.takeSnapshot()
  },
  release(memory) {
    WORLDS.get(memory)?.rapier.free()
    WORLDS.delete(memory)
  },
}
