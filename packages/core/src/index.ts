/** The computation. No DOM, no Node, no I/O, no dates, no randomness of its own. */
export * from './shot/types.ts'
export * from './shot/parameters.ts'
export * from './shot/keys.ts'
export type { Problem } from './shot/problem.ts'
export { readShot, type Read } from './shot/schema.ts'
export { references, type Reference } from './shot/references.ts'
export { RESPONSE_SOURCES, type ResponseSource } from './shot/responses.ts'
export {
  completeBirth,
  completeCue,
  completeDeformation,
  completeEaten,
  completeGoal,
  completeInfluence,
  completeInstances,
  completeMask,
  completeMesh,
  completePopulation,
  completeTrail,
  emptyShot,
} from './shot/complete.ts'
export { changeBetween, type Change } from './shot/diff.ts'
export { descriptions, type Description } from './shot/describe.ts'
export { madeOf, MATERIALS, type Material } from './shot/materials.ts'
export { DETAIL, EATEN, INSTANCES, PARTICLE, PLACE, TEXT, TRAIL } from './shot/rules.ts'
export { BIRTHS } from './births/index.ts'
export { CUES } from './cues/index.ts'
export type { CueKind } from './cues/kind.ts'
export { DEFORMATIONS } from './geometry/deformations/index.ts'
export { GOALS } from './goals/index.ts'
export type { GoalKind } from './goals/kind.ts'
export { INFLUENCES } from './influences/index.ts'
export { MASKS } from './masks/index.ts'
export type { MaskKind } from './masks/kind.ts'
export { createMasks, type Masks } from './masks/evaluate.ts'
export type { InfluenceKind } from './influences/kind.ts'
export { meshFacts, vertexNormals, weld, type Mesh, type MeshFacts } from './geometry/mesh.ts'
export { buildTree, closestPoints, freeTree, windingNumbers } from './geometry/tree.ts'
export { clip, areaAbove, thicken } from './geometry/clip.ts'
export { refine } from './geometry/refine.ts'
export { affine, inverse, transform, type Affine, type Vector } from './math/vector.ts'
export { createBodies, MissingMesh, placeAt, sourceKey, workingMesh, type Body } from './solver/bodies.ts'
export { coveredMesh, coverId, type CoverMeasures } from './solver/cover.ts'
export { eatenMesh, type AreaMeasures, type MeshFrame } from './solver/eaten.ts'
export { createSimulation, type PopulationFrame, type Simulation } from './solver/simulation.ts'
export type { Snapshot } from './solver/snapshot.ts'
export type { GoalSample } from './solver/goals.ts'
export { COLUMNS, isWhole, MOST_GOALS, type ColumnName } from './solver/columns.ts'
export type { GoalMeasures, Measures, PopulationMeasures } from './measure/measures.ts'
export type { ContactMeasures, EnergyMeasures, LinkMeasures } from './measure/contact.ts'
export type { Check } from './measure/check.ts'
export { checkFrame, checkShot } from './measure/checks.ts'
export { BACKDROPS, linearColour, onRamp, RAMPS, rampTable, stopsOf } from './look/ramps.ts'
export { chooseInstance, instanceMesh, instanceScale, instancesTooHeavy } from './look/instances.ts'
export { trailFrames, trailsOf, type TrailFrame, type Trails } from './look/trails.ts'
export { keptColumns } from './solver/demand.ts'
