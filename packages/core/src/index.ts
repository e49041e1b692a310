/** The computation. No DOM, no Node, no I/O, no dates, no randomness of its own. */
export * from './document/types.ts'
export * from './document/parameters.ts'
export * from './document/keys.ts'
export type { Problem } from './document/problem.ts'
export { readShot, type Read } from './schema/schema.ts'
export { references, type Reference } from './schema/references.ts'
export { RESPONSE_SOURCES, type ResponseSource } from './responses/index.ts'
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
} from './schema/complete.ts'
export { changeBetween, type Change } from './schema/changes.ts'
export { descriptions, type Description } from './schema/describe.ts'
export { madeOf, MATERIALS, type Material } from './schema/materials.ts'
export { DETAIL, EATEN, INSTANCES, PARTICLE, PLACE, TEXT, TRAIL } from './document/ownParameters.ts'
export { BIRTHS } from './births/index.ts'
export { CUES } from './cues/index.ts'
export type { CueKind } from './cues/cue.ts'
export { DEFORMATIONS } from './deformations/index.ts'
export { GOALS } from './goals/index.ts'
export type { GoalKind } from './goals/goal.ts'
export { INFLUENCES } from './influences/index.ts'
export { MASKS } from './masks/index.ts'
export type { MaskKind } from './masks/mask.ts'
export { createMasks, type Masks } from './scene/masks.ts'
export type { InfluenceKind } from './influences/influence.ts'
export { meshFacts, vertexNormals, weld, type Mesh, type MeshFacts } from './geometry/mesh.ts'
export { buildTree, closestPoints, freeTree, windingNumbers } from './geometry/tree.ts'
export { clip, areaAbove, thicken } from './geometry/clip.ts'
export { refine } from './geometry/refine.ts'
export { affine, inverse, transform, type Affine, type Vector } from './math/vector.ts'
export { createBodies, MissingMesh, placeAt, sourceKey, workingMesh, type Body } from './scene/bodies.ts'
export { coveredMesh, coverId, type CoverMeasures } from './simulation/covers.ts'
export { eatenMesh, type AreaMeasures, type MeshFrame } from './scene/clippedMesh.ts'
export { createSimulation, type PopulationFrame, type Simulation } from './simulation/simulation.ts'
export type { Snapshot } from './simulation/snapshot.ts'
export type { GoalSample } from './simulation/targets.ts'
export { COLUMNS, isWhole, MOST_GOALS, type ColumnName } from './state/columns.ts'
export type { GoalMeasures, Measures, PopulationMeasures } from './measures/measures.ts'
export type { ContactMeasures, EnergyMeasures, LinkMeasures } from './measures/contact.ts'
export type { Check } from './measures/check.ts'
export { checkFrame, checkShot } from './measures/checks.ts'
export { BACKDROPS, linearColour, onRamp, RAMPS, rampTable, stopsOf } from './look/ramps.ts'
export { chooseInstance, instanceMesh, instanceScale, instancesTooHeavy } from './look/instances.ts'
export { trailFrames, trailsOf, type TrailFrame, type Trails } from './look/trails.ts'
export { keptColumns } from './schema/requiredAttributes.ts'
