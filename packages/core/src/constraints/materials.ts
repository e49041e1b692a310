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
/**
 * Sweeps over contacts in a round, for a substep of h seconds: more in long ones, so that heaps stand as steep at any number of substeps.
 * They cost little beside finding who touches. Measured in docs/performance.md.
 */
export const contactSweeps = (h: number): number =>
  Math.max(2, Math.min(12, Math.round(4 * Math.sqrt(240 * h))))
