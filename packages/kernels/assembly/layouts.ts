/**
 * Records that kernels and the core share: the number of each field, in f64 unless it says otherwise, and how many a
 * record has (SIZE). Declared here only; both sides read them by name.
 */

/** A particle among the solver bodies. */
export namespace body {
  /** Place. */
  export const x = 0
  export const y = 1
  export const z = 2
  /** Place at the start of the substep. */
  export const startX = 3
  export const startY = 4
  export const startZ = 5
  /** 1/kg; 0: it does not give way. */
  export const inverseMass = 6
  export const radius = 7
  /** m/s */
  export const velocityX = 8
  export const velocityY = 9
  export const velocityZ = 10
  /** Velocity before constraints. */
  export const freeVelocityX = 11
  export const freeVelocityY = 12
  export const freeVelocityZ = 13
  /** Inverse mass while it is awake. */
  export const awakeInverseMass = 14
  /** 0 awake, 1 asleep, 2 woken in this substep. */
  export const sleepState = 15
  export const SIZE = 16
}

/** Two particles that may touch. */
export namespace contact {
  /** Bodies; a is the one with the lower number. */
  export const a = 0
  export const b = 1
  /** Number of the contact rule. */
  export const rule = 2
  /** λ: an impulse times h, so that w·λ is the way that a body is pushed. */
  export const normalImpulse = 3
  /** Speed at which they part before constraints, m/s. */
  export const partingSpeed = 4
  /** How far they overlap as the substep begins, metres. */
  export const startOverlap = 5
  /** Direction between two that meet on their way, as they do; zeros: the direction between them now. */
  export const sweptNormalX = 6
  export const sweptNormalY = 7
  export const sweptNormalZ = 8
  /** λ of friction. */
  export const tangentImpulseX = 9
  export const tangentImpulseY = 10
  export const tangentImpulseZ = 11
  /** 1: it bore in the last substep, too. */
  export const bore = 12
  export const SIZE = 16
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

/** What a contact bore in the last substep. */
export namespace storedImpulse {
  export const idA = 0
  export const populationA = 1
  export const idB = 2
  export const populationB = 3
  export const normalImpulse = 4
  export const tangentImpulseX = 5
  export const tangentImpulseY = 6
  export const tangentImpulseZ = 7
  export const SIZE = 8
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

/** What a plane bore: w·λ and w·λₜ. */
export namespace planeImpulse {
  export const normal = 0
  export const tangentX = 1
  export const tangentY = 2
  export const tangentZ = 3
  export const SIZE = 4
}

/** Friction of a collider. */
export namespace material {
  export const staticFriction = 0
  export const friction = 1
  export const stickiness = 2
  export const SIZE = 3
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
  /** Of a round: n, what elimination leaves above the diagonal, and Δλ. */
  export const normalX = 40
  export const normalY = 44
  export const normalZ = 48
  export const upper = 52
  export const change = 56
  export const SIZE = 60
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

/** The head of a field of distances; its cells follow, f32 each. */
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
  export const SIZE = 9
}

/** A grid of cells over particles. */
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
  export const SIZE = 8
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

/** A neighbour that was found: its entry, and the square of its distance. */
export namespace neighbour {
  export const entry = 0
  export const squared = 1
  export const SIZE = 2
  /** Most that a list holds. */
  export const MOST = 256
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

/** Sums over the triangles of a child of a quad: centre × area, area vector, area. */
export namespace treeSums {
  export const centreX = 0
  export const normalX = 3
  export const area = 6
  export const SIZE = 7
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
