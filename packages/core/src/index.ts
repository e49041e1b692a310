/** The computation. No DOM, no Node, no I/O, no dates, no randomness of its own. */
export * from './shot/types.ts'
export * from './shot/parameters.ts'
export * from './shot/keys.ts'
export type { Problem } from './shot/problem.ts'
export { readShot, type Read } from './shot/schema.ts'
export {
  completeBirth,
  completeInfluence,
  completeMesh,
  completePopulation,
  emptyShot,
} from './shot/complete.ts'
export { changeBetween, type Change } from './shot/diff.ts'
export { descriptions, type Description } from './shot/describe.ts'
export { PARTICLE, PLACE } from './shot/rules.ts'
export { BIRTHS } from './births/index.ts'
export { INFLUENCES } from './influences/index.ts'
export type { InfluenceKind } from './influences/kind.ts'
export { meshFacts, vertexNormals, weld, type Mesh, type MeshFacts } from './geometry/mesh.ts'
export { buildTree, closestPoints, freeTree, windingNumbers } from './geometry/tree.ts'
export { affine, transform, type Affine, type Vector } from './math/vector.ts'
export { placeAt } from './solver/born.ts'
export {
  createSimulation,
  MissingMesh,
  type PopulationFrame,
  type Simulation,
  type Snapshot,
} from './solver/simulation.ts'
export { COLUMNS, isWhole, type ColumnName } from './solver/columns.ts'
export type { Measures, PopulationMeasures } from './measure/measures.ts'
export { checkFrame, checkShot, type Check } from './measure/checks.ts'
export { BACKDROPS, linearColour, onRamp, RAMPS, rampTable } from './look/ramps.ts'
