/** How a surface takes what hits it. */
export interface Material {
  /** Restitution e, 0–1. */
  bounce: number
  /** Coefficients of friction, at rest and sliding. */
  friction: number
  sliding: number
  /** A pull on the surface, m/s². */
  sticky: number
}

/** Share of an overlap that is mended in a round. */
export const FIRMNESS = 0.3
