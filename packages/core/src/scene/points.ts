/** Points for particles, on triangles of the mesh or in its space. */
export interface Points {
  /** Triangle of each; RIGID for a place in the mesh's own space. */
  triangles: Uint32Array
  /** Weights of the second and third corner of the triangle, two each. */
  weights: Float32Array
  /** Vertex of each, where they are born on vertices. */
  vertices?: Uint32Array
  /** Places in the mesh's own space, x, y, z each, where the triangle is RIGID. */
  positions?: Float32Array
  /** They lie inside the mesh, and stay there where its surface does not keep its shape. */
  inside?: true
  /** The positions are metres along the world's axes from the middle of the mesh, or from what the camera sees. */
  about?: 'mesh' | 'camera'
  /** Directions in the mesh's own space, of any length; without them the triangle's normal counts. */
  normals?(): Float32Array
  /** Piece of the mesh that each is, and its radius (m), where they are born as pieces. */
  pieces?: Uint32Array
  radii?: Float32Array
  /** They lie on the other side of their triangles: that is the way off the surface. */
  flipped?: boolean
  /** Metres above the triangle, along its normal. */
  height?: number
  /** The same of each, where it differs. */
  heights?: Float64Array
  /** When within the stretch each is born, 0–1; without them the moments are given. */
  moments?: Float64Array
}

export interface PointSource {
  /** How many different points there are, or null when there is no end of them. */
  offered: number | null
  /**
   * The points of some particles.
   * @param ids of the particles
   * @param turns for a burst, the number of the point of each (0…offered); for a rate, absent
   */
  points(ids: Uint32Array, turns?: Uint32Array): Points
}

/** Pointers to where the targets of some particles are at two moments, 3 × f32 each. */
export interface TargetPointers {
  /** 2 × u32 each: what they are on, 0 for none. */
  on: number
  from: number
  to: number
}

/** Triangle of a place that moves rigidly with its body. */
export const RIGID = 0xffffffff
