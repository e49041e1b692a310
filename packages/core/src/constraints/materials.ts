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
 * Sweeps over contacts in a round, for a substep of h seconds in which what acts draws a body by the share `fall` of its radius: more in
 * long ones, so that heaps stand as steep at any number of substeps and any size. They cost little beside finding who touches. Measured in
 * docs/performance.md.
 */
export const contactSweeps = (h: number, fall: number): number =>
  Math.max(2, Math.min(16, Math.round(4 * Math.sqrt(240 * h * Math.max(1, 4 * fall)))))
