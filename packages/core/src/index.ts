/** The computation. No DOM, no Node, no I/O, no dates, no randomness of its own. */
export * from './document/types.ts'
export * from './document/parameters.ts'
export * from './document/keys.ts'
export { freshId, freshName, ID_LETTERS, NAME_LETTERS } from './document/names.ts'
export type { Problem } from './document/problem.ts'
export { readShot, type Read } from './schema/schema.ts'
export { references, type Reference } from './schema/references.ts'
export { RESPONSES } from './registry.ts'
export { influenceInWords } from './summary.ts'
export { shotJsonSchema, type JsonSchema } from './schema/jsonSchema.ts'
export type { ResponseKind } from './responses/response.ts'
export {
  completeAttribute,
  completeBirth,
  completeCue,
  completeCut,
  completeDeformation,
  completeCamera,
  completeCombing,
  completeEaten,
  completeGoal,
  completeInfluence,
  completeInstances,
  completeMask,
  completeMesh,
  completePopulation,
  completeGlow,
  completeSkin,
  completeThreads,
  completeTrail,
  emptyShot,
  LOOK,
} from './schema/complete.ts'
export { fromHalf, toHalf } from './math/half.ts'
export { firstChangedFrame } from './schema/changes.ts'
export { couples } from './schema/coupling.ts'
export { interactionIn } from './schema/independence.ts'
export { qualityOf, withQuality, type Quality } from './schema/quality.ts'
export { liftedValues, type LiftedValue } from './schema/lifted.ts'
export { renumbered } from './schema/renumber.ts'
export { variableValues, type VariableValue } from './schema/variableValues.ts'
export { descriptions, type Description } from './schema/describe.ts'
export { liquidOf, LIQUIDS, type LiquidMaterial } from './schema/liquids.ts'
export { gripFor, gripOf, madeOf, MATERIALS, type Material } from './schema/materials.ts'
export { SKIN } from './document/skin.ts'
export { isLiquid } from './simulation/influencePass.ts'
export { skinId, skinOf } from './skin/skin.ts'
export { BLOOM, GLOW, THREADS } from './document/lightParameters.ts'
export {
  ASPECTS,
  CAMERA,
  cameraAt,
  fieldOfViewIn,
  focalLengthFor,
  type CameraView,
} from './document/camera.ts'
export { MESH_LOOK, type MeshLook } from './document/meshLook.ts'
export { LIGHT, PICTURE, SURROUNDINGS } from './document/stageParameters.ts'
export { DETAIL, EATEN, INSTANCES, PARTICLE, PLACE, PLAYBACK, TEXT } from './document/ownParameters.ts'
export { STREAK, TRAIL } from './document/trailParameters.ts'
export { COMBING } from './document/combing.ts'
export { CUT } from './document/cut.ts'
export { FRACTURE, SHELL } from './document/madeMeshes.ts'
export { birthKind, BIRTHS, CONSTRAINTS, CUES, DEFORMATIONS, GOALS, INFLUENCES, MASKS } from './registry.ts'
export type { CueKind } from './cues/cue.ts'
export type { GoalKind } from './goals/goal.ts'
export type { MaskKind } from './masks/mask.ts'
export type { Masks } from './scene/masks.ts'
export type { InfluenceKind } from './influences/influence.ts'
export {
  meshFacts,
  turnedCorners,
  turnedOver,
  vertexNormals,
  type Mesh,
  type MeshFacts,
  type VertexData,
} from './geometry/mesh.ts'
export { buildGrid } from './state/neighbours.ts'
export { buildTree, closestPoints, freeTree, windingNumbers } from './geometry/tree.ts'
export { clip, areaAbove, thicken } from './geometry/clip.ts'
export { refine } from './geometry/refine.ts'
export { affine, cross, inverse, subtract, transform, unit, type Affine, type Vector } from './math/vector.ts'
export { MissingMesh, sourceKey, workingMesh, type KeyedShot } from './scene/bodies.ts'
export { loadRapier } from './constraints/rapier.ts'
export { isRigid } from './simulation/bodyShapes.ts'
export { needsRigidBodies, needsSolidCuts, readyFor } from './simulation/readyFor.ts'
export { meshOfPiece, numberOfPiece, pieceNumber } from './scene/pieces.ts'
export { derivedFrom, rootOf, standing } from './document/derived.ts'
export { derive, DeriveFault, underived, type DeriveTools } from './simulation/derive.ts'
export { pieceFacts, type PieceFacts } from './fracture/fracture.ts'
export {
  bondBits,
  massOfTriangles,
  massProperties,
  pieceCount,
  pieceMesh,
  pieceTriangles,
  type Pieces,
} from './geometry/pieces.ts'
export { placeAt, type Body } from './scene/body.ts'
export type { MeshMotion, PlacedMotion, SkinnedMotion } from './geometry/mesh.ts'
export { facingOutward } from './geometry/outward.ts'
export { weld } from './geometry/weld.ts'
export { placeVertices } from './geometry/meshMotion.ts'
export { motionOf } from './scene/body.ts'
export { solidCut, solidFault, volumeOf, type SolidCut } from './scene/solidCut.ts'
export { combedArrows } from './scene/combings.ts'
export { createScene, type Scene } from './simulation/scene.ts'
export { asksSeen } from './schema/asksSeen.ts'
export { joinSeen, type SeenPlaces } from './scene/seen.ts'
export { coveredMesh, coverId, type CoverMeasures } from './simulation/covers.ts'
export { shadedBody, shadedCut, shadedRest } from './scene/shadedMesh.ts'
export { creasedNormals } from './geometry/shading.ts'
export { clippedMesh, type AreaMeasures, type MeshFrame } from './scene/clippedMesh.ts'
export {
  createMeasuredSimulation as createSimulation,
  type MeasuredSimulation as Simulation,
} from './measures/measured.ts'
export type { PopulationEvents, PopulationFrame } from './simulation/simulation.ts'
export { STAGES, type Stage } from './simulation/stages.ts'
export { DEATHS, firstRows, rowsOf, type EventTable, type ParticleEvent } from './state/events.ts'
export type { Slice } from './simulation/world.ts'
export { PAIRINGS } from './pairing/index.ts'
export type { Snapshot } from './simulation/snapshot.ts'
export type { GoalSample } from './simulation/targets.ts'
export { ownAttribute, ownId, ownName, type Attribute, type Kept } from './state/attribute.ts'
export { ATTRIBUTES, BUILT_IN_NAMES, MOST_GOALS, type AttributeName } from './state/attributes.ts'
export { joinMeasures } from './measures/joinMeasures.ts'
export type { GoalMeasures, Measures, PopulationMeasures } from './measures/measures.ts'
export type { ContactMeasures, EnergyMeasures, LinkMeasures } from './measures/contact.ts'
export type { Check } from './measures/check.ts'
export type { SeenMeasures } from './measures/seen.ts'
export { checkFrame, checkShot } from './measures/checks.ts'
export {
  BACKDROPS,
  contrastOf,
  linearColour,
  linearPart,
  srgbPart,
  onRamp,
  RAMP_ENTRIES,
  RAMPS,
  rampTable,
  standsOff,
  stopsOf,
} from './look/ramps.ts'
export { chooseInstance, instanceMesh, instanceScale, instancesTooHeavy } from './look/instances.ts'
export { threadsOf, type ThreadedFrame, type ThreadFrame } from './look/threads.ts'
export { distancesApart, placesAfter, rowsAmong, stepsOf, turnsBetween } from './look/ways.ts'
export { trailFrames, trailsOf, type TrailFrame, type Trails } from './look/trails.ts'
export {
  attributesOf,
  isTold,
  KEEP_PRESETS,
  KEEPABLE,
  keptAttributes,
  storedBytes,
} from './schema/requiredAttributes.ts'
