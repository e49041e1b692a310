/**
 * Records that kernels and the core share: the number of each field, in f64 unless it says otherwise, and how many a
 * record has (SIZE). Declared here only; both sides read them by name.
 */

/**
 * Solver bodies stand in tables of rows, four f32 each: `starts` x y z and radius as the substep begins, `moved` how far each
 * has gone in it and its inverse mass (1/kg; 0: it does not give way), `speeds` velocity (m/s) and inverse mass again. Behind
 * the last one stands one that is nobody, for lanes that have none.
 */
export namespace bodyRow {
  export const x = 0
  export const y = 1
  export const z = 2
  /** Of `starts`. */
  export const radius = 3
  /** Of `moved` and `speeds`. */
  export const inverseMass = 3
  export const SIZE = 4
}

/** Whether a solver body sleeps. */
export namespace sleepState {
  export const AWAKE = 0
  export const ASLEEP = 1
  /** Woken in this substep. */
  export const WOKEN = 2
}

/** Four pairs of particles without a common one, which may touch, side by side; f32 but for the bodies (i32). */
export namespace contactStep {
  /** a is the one with the lower number. */
  export const bodyA = 0
  export const bodyB = 4
  /** From b to a as the substep began. */
  export const startX = 8
  export const startY = 12
  export const startZ = 16
  /** Sum of the radii. */
  export const reach = 20
  /** n, from b to a. */
  export const normalX = 24
  export const normalY = 28
  export const normalZ = 32
  /** How far they may come nearer along n in this substep, metres. */
  export const gap = 36
  /** 1/(wa + wb); 0 where neither gives way. */
  export const mass = 40
  /** Speed at which they part before constraints, m/s. */
  export const partingSpeed = 44
  /** λ: an impulse times h, so that w·λ is the way that a body is pushed. */
  export const normalImpulse = 48
  /** λ of friction. */
  export const tangentX = 52
  export const tangentY = 56
  export const tangentZ = 60
  /** λ as the substep began: what it bore in the last one. */
  export const bore = 64
  /** Of the rule: e, μₛ, μ, and the stickiness S in m/s². */
  export const bounce = 68
  export const staticFriction = 72
  export const friction = 76
  export const stickiness = 80
  export const SIZE = 84
}

/** Batches of contacts whose particles lie in one slab of space, i32: the first batch, how many, and in how many of those any may touch in this substep. */
export namespace slab {
  export const first = 0
  export const batches = 1
  export const active = 2
  export const SIZE = 3
}

/** Colours of the contacts in a slab; those of the last one may have a body in common. */
export const PAIR_COLOURS = 32

/** What a contact bore, i32 and f32; those of one particle, the lower one, stand side by side. */
export namespace storedImpulse {
  /** Id and population of the other one. */
  export const id = 0
  export const population = 1
  export const normalImpulse = 2
  export const tangentX = 3
  export const tangentY = 4
  export const tangentZ = 5
  export const SIZE = 6
}

/** How two populations touch. */
export namespace contactRule {
  export const bounce = 0
  /** μₛ and μ. */
  export const staticFriction = 1
  export const friction = 2
  /** S, m/s². */
  export const stickiness = 3
  export const SIZE = 4
}

/** A plane of a particle's contact manifold. */
export namespace contactPlane {
  export const normalX = 0
  export const normalY = 1
  export const normalZ = 2
  /** n·x at contact. */
  export const level = 3
  /** Velocity of the surface. */
  export const velocityX = 4
  export const velocityY = 5
  export const velocityZ = 6
  /** Number of the collider; −1: no more planes. */
  export const collider = 7
  export const SIZE = 8
  /** Planes of one particle. */
  export const COUNT = 4
}

/** Four particles that are pressed on planes, side by side: i32, then the planes (planeStep). */
export namespace planeGroup {
  export const body = 0
  /** Planes of the one that has most. */
  export const planes = 4
  /** 1: one has planes that face one another. */
  export const opposed = 5
  /** Of the first of four planes (contactPlane.COUNT × planeStep.SIZE). */
  export const FIRST = 8
  export const SIZE = 248
}
/** The same plane of each of the four, f32. */
export namespace planeStep {
  export const normalX = 0
  export const normalY = 4
  export const normalZ = 8
  /** How far a particle may go into the surface in this substep, metres: as deep as it was, where the surface has since gone on. */
  export const gap = 12
  /** Of its place as the substep began above the surface at its end, metres. */
  export const height = 16
  /** How far the surface goes in this substep. */
  export const carryX = 20
  export const carryY = 24
  export const carryZ = 28
  /** w·λ and w·λₜ. */
  export const normalImpulse = 32
  export const tangentX = 36
  export const tangentY = 40
  export const tangentZ = 44
  export const staticFriction = 48
  export const friction = 52
  /** S·h². */
  export const pull = 56
  export const SIZE = 60
}

/** A link between two particles. */
export namespace link {
  export const idA = 0
  export const idB = 1
  /** Places among the bodies; −1: that particle is gone. */
  export const bodyA = 2
  export const bodyB = 3
  /** Length at rest L now, and as it was made, metres. */
  export const restLength = 4
  export const madeLength = 5
  /** Of the stretch at which links break. */
  export const breakFactor = 6
  /** λ. */
  export const impulse = 7
  /** d/L − 1. */
  export const stretch = 8
  /** 1 holds, 0 broke by stretch, 2 was cut. */
  export const holds = 9
  /** 1: it goes on from the end b of the link before it, as one path. */
  export const joined = 10
  export const SIZE = 11
}

/** Links that go on from one another: its first record, how many it has, and its colour. i32. */
export namespace linkPath {
  export const first = 0
  export const length = 1
  export const colour = 2
  export const SIZE = 3
  /** Paths of one colour have no particle in common. Those that find none free have the last, and are solved one by one. */
  export const COLOURS = 63
  /** Longer ones are cut. */
  export const MOST = 4096
  /** Lengths that are told apart as paths are sorted. */
  export const LENGTHS = 256
}

/** Up to four paths of one colour, i32: its first step, and how many. */
export namespace pathBatch {
  export const first = 0
  export const steps = 1
  export const SIZE = 2
}

/** A step of four paths at a time: a link of each, f32 but for bodies and numbers (i32). */
export namespace pathStep {
  export const bodyA = 0
  export const bodyB = 4
  /** D, from b to a as the substep began. */
  export const startX = 8
  export const startY = 12
  export const startZ = 16
  /** D² − L². */
  export const excess = 20
  /** L. */
  export const rest = 24
  /** α̃ = α/h². */
  export const compliance = 28
  /** λ. */
  export const impulse = 32
  /** Numbers of the links; −1: nobody. */
  export const number = 36
  /** Of a round: n, what elimination leaves above the diagonal, Δλ, and the inverse mass of b. */
  export const normalX = 40
  export const normalY = 44
  export const normalZ = 48
  export const upper = 52
  export const change = 56
  /** What stands while no link comes or goes: L as it was made, and the factor of its stretch at breaking. */
  export const madeLength = 60
  export const breakFactor = 64
  /** d/L − 1 now, and the most that there was. */
  export const stretch = 68
  export const mostStretch = 72
  export const weight = 76
  export const SIZE = 80
}

/** What particles run into. */
export namespace collider {
  /** 0 plane, 1 mesh. */
  export const shape = 0
  /** Pointer: f32 per particle. */
  export const amount = 1
  /** Pointers of its tree. */
  export const quads = 2
  export const vertices = 3
  export const stack = 4
  /** Map of the world at the end of the substep into the tree's frame, 12. */
  export const intoTree = 5
  /** Map of where a place goes in the substep, 12. */
  export const carry = 17
  /** Or a pointer to a shift per particle, 3 × f32; 0: none. */
  export const shift = 29
  /** 1 outside, −1 inside, 0 either. */
  export const side = 30
  export const bounce = 31
  export const staticFriction = 32
  export const friction = 33
  export const stickiness = 34
  /** Radians. */
  export const deflection = 35
  /** Between the particle's own surface and this one, metres. */
  export const offset = 36
  export const seed = 37
  /** Of a plane: its normal, and n·x on it. */
  export const normalX = 38
  export const normalY = 39
  export const normalZ = 40
  export const level = 41
  /** Speed at which who is inside is pushed out, m/s. */
  export const pushOut = 42
  /** Pointers to factors (f32 per particle; 0: none). */
  export const bounceFactor = 43
  export const frictionFactor = 44
  export const stickinessFactor = 45
  /** Pointer to its field of distances; 0: none. */
  export const field = 46
  export const SIZE = 47
  /** Most colliders of a population: as many as `sideFlags` has bits for. */
  export const MOST = 16
}

/** The head of a field of distances; its cells follow, f32 each, negative inside where sides are told. */
export namespace distanceField {
  export const lowX = 0
  export const lowY = 1
  export const lowZ = 2
  /** Side of a cell, metres. */
  export const cellSize = 3
  /** Cells along x, y and z. */
  export const across = 4
  export const up = 5
  export const deep = 6
  /** Least distance of what is outside of it. */
  export const beyond = 7
  /** What is taken off every distance. */
  export const slack = 8
  /** Whether sides are told: 1, of closed surfaces; else 0. */
  export const sided = 9
  export const SIZE = 10
}

/** A grid of cells over particles; in a crowd the finest of several over the same ones, each twice as wide as the one before. */
export namespace grid {
  /** 1/width of a cell. */
  export const perMetre = 0
  /** Buckets − 1. */
  export const mask = 1
  /** Pointers: u32 per bucket and one more; u32 per entry; entries; lists of neighbours. */
  export const first = 2
  export const order = 3
  export const entries = 4
  export const lists = 5
  /** Pointer to x, y and z of the entries, and the rows of their cells (i32), a column each; and bytes of a column. */
  export const columns = 6
  export const columnBytes = 7
  /** Pointer to the grid that is twice as wide, 0 for none; and, of the finest, to the entry of each particle (u32). */
  export const coarser = 8
  export const places = 9
  export const SIZE = 10
}

/** A particle in the order of the cells, f32. */
export namespace gridEntry {
  export const x = 0
  export const y = 1
  export const z = 2
  export const radius = 3
  export const velocityX = 4
  export const velocityY = 5
  export const velocityZ = 6
  export const SIZE = 8
}

/** Most neighbours that a particle lists. */
export const MOST_NEIGHBOURS = 256

/**
 * What a thread searches a grid with, in words of 32 bits: the cell about which all are at hand, their places (f32) and numbers (i32), a
 * column each, and side by side who was found (i32; in the end their entries) and the squares of their distances (f32).
 */
export namespace neighbourSearch {
  /** Pointer to the grid; 0: no cell is at hand. */
  export const level = 0
  export const cellX = 1
  export const cellY = 2
  export const cellZ = 3
  export const count = 4
  /** In a crowd without bounds a particle looks at no more than about so many. Four are written at a time. */
  export const MOST_LOOKED_AT = 4096
  // columns stand 4,096 and some words apart: the same place of two in a line of the cache would hold up each other
  export const x = 16
  export const y = 4192
  export const z = 8368
  export const names = 12544
  export const found = 16984
  export const squares = 21280
  export const SIZE = 25456
}

/**
 * A node of a bounding tree: the boxes of its four children side by side, f32, and what they are, i32: the number of a
 * quad, or −1 − (8·first + count) for so many triangles, at most four. An empty child has a box that nothing meets.
 */
export namespace treeQuad {
  export const lowX = 0
  export const lowY = 4
  export const lowZ = 8
  export const highX = 12
  export const highY = 16
  export const highZ = 20
  export const child = 24
  export const SIZE = 28
}

/** The far field of the children of a quad, four of each, f32: centre, radius about it, and the sum of the area vectors. */
export namespace treeDipole {
  export const x = 0
  export const y = 4
  export const z = 8
  export const radius = 12
  export const normalX = 16
  export const normalY = 20
  export const normalZ = 24
  export const SIZE = 28
}

/** Sums over the triangles of the children of a quad, four of each, f32: centre × area, area vector, area. */
export namespace treeSums {
  export const centreX = 0
  export const centreY = 4
  export const centreZ = 8
  export const normalX = 12
  export const normalY = 16
  export const normalZ = 20
  export const area = 24
  export const SIZE = 28
}

/** Triangles of a tree stand in the order of its leaves: three corners of x, y and z, f32. */
export namespace treeTriangle {
  export const ax = 0
  export const ay = 1
  export const az = 2
  export const bx = 3
  export const by = 4
  export const bz = 5
  export const cx = 6
  export const cy = 7
  export const cz = 8
  export const SIZE = 9
}

/** Children of quads that wait to be looked at, for each thread: i32 codes and f32 squares of distances in turn. */
export namespace treeStack {
  export const SIZE = 128
}

/** A point of a curve, f32. */
export namespace curveKey {
  export const x = 0
  export const y = 1
  /** Number of the ease from it to the next. */
  export const ease = 2
  /** 1 over the distance to the next key in x; 0 where there is none. */
  export const perX = 3
  export const SIZE = 4
}

/** Where a particle is as a collider sees it at the end of the substep. */
export namespace seenPlace {
  export const x = 0
  export const y = 1
  export const z = 2
  export const SIZE = 3
}

/** Words of a column that are hashed at a time. */
export const HASH_CHUNK = 4096
/** Points of a closed mesh that take their sides from one another: always the same ones, whatever thread they fall to. */
export const SIDE_GROUP = 64

/** Bytes of an f64 and an f32. */
export const F64 = 8
export const F32 = 4

/** Sums over the particles of a population, f64; then a row for each of its phases. */
export namespace motionSums {
  /** ½·m·v², J; greatest v², m²/s²; how many are farther than asked from the origin. */
  export const kinetic = 0
  export const fastest = 1
  export const astray = 2
  export const SIZE = 3
}
/** Of the particles in a phase: how many, and Σ m·x, kg·m. */
export namespace phaseSums {
  export const count = 0
  export const moment = 1
  export const SIZE = 4
}

/** What a stored frame is expected to have of a particle, from the frame before (codec.ts). */
export namespace codecRule {
  /** The same word. */
  export const WORD = 0
  /** The same number. */
  export const SAME = 1
  /** A place: as far on as the velocities say. */
  export const WAY = 2
  /** The length of a way: longer by the speed. */
  export const LENGTH = 3
  /** A time: later by a frame. */
  export const CLOCK = 4
}

/** Most neighbours that a particle of a liquid lists, four at a time. */
export const MOST_FLUID_NEIGHBOURS = 64

/** What walls a particle of a liquid is near to: up to four planes (contactPlane.COUNT), f32. */
export namespace fluidWall {
  export const normalX = 0
  export const normalY = 1
  export const normalZ = 2
  /** Of its place as the substep began above the wall at its end, metres. */
  export const height = 3
  /** Velocity of the wall, m/s. */
  export const velocityX = 4
  export const velocityY = 5
  export const velocityZ = 6
  /** The share of what it fills that nearer planes do not. */
  export const share = 7
  export const SIZE = 8
}
