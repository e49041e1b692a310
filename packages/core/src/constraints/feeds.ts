/** What influences say to the solver: what is solid, and how particles touch, hold one another, rest and lie. */
import type { Vector } from '../math/vector.ts'
import type { Body } from '../scene/bodies.ts'

/** How a surface takes what hits it. */
export interface Grip {
  /** Restitution e, 0–1. */
  bounce: number
  /** Coefficients of friction, at rest and sliding. */
  friction: number
  sliding: number
  /** A pull on the surface, m/s². */
  sticky: number
}

/** What particles run into. */
export interface Collider extends Grip {
  /** A mesh, or a plane at both ends of the substep: n·x = level, metres. */
  of: Body | { normal: Vector; from: number; to: number }
  /** On which side they belong: 1 outside, −1 inside, 0 on whichever they are. */
  side: number
  /** Degrees. */
  deflection: number
  /** Metres between the particle's own surface and this one. */
  offset: number
  /** m/s at which who is inside comes out; 0: it is left there. */
  out: number
}

/** How particles of a population touch one another, or those of another population. */
export interface TouchRule extends Grip {
  with?: string
  /** Most contacts that a particle looks for. */
  most: number
}

/** Slower than `speed` (m/s) for `wait` seconds. */
export interface SleepRule {
  speed: number
  wait: number
}

/** How particles are linked. */
export interface LinkRule {
  /** When they are made: as particles are born, or as they touch. */
  made: string
  /** To whom: near neighbours, those on the grid of a birth, those along the edges of the mesh. */
  to: string
  /** Radii within which neighbours are looked for, how much that varies (a share), and how many of them count. */
  reach: number
  varies: number
  most: number
  /** m/N beside what the stiffness says. */
  compliance: number
  /** σ/2g; see the kernel. */
  soft: number
  /** Seconds. */
  damping: number
  /** Stretch at which it breaks (0: never), and how much that varies, a share. */
  breaks: number
  spread: number
  /** Stretch from which it stays stretched, and the share of the excess that stays each 1/24 s. */
  yields: number
  creep: number
  /** A mesh whose surface cuts them. */
  cut?: string
}

/** How a mesh is covered by the particles of a population. */
export interface CoverRule {
  mesh: string
  /** Metres of cover that stay as particles. */
  depth: number
  /** Volume of cover from a volume of particles. */
  gathers: number
  /** Angle of repose, degrees. */
  repose: number
  /** m/s at which it melts, and the mask that says where. */
  melt: number
  meltMask?: string
}
