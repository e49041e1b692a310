import * as yup from 'yup'
import { BIRTHS, CUES, DEFORMATIONS, GOALS, INFLUENCES, MASKS, RESPONSES } from '../registry.ts'
import { BACKDROPS } from '../look/ramps.ts'
import { brokenReferences } from './brokenReferences.ts'
import { completed } from './complete.ts'
import { LIQUIDS } from './liquids.ts'
import { MATERIALS } from './materials.ts'
import { migrated } from '../document/migrations.ts'
import type { Problem } from '../document/problem.ts'
import { MOST_GOALS } from '../state/attributes.ts'
import { ownAttribute } from './ownAttribute.ts'
import { EATEN, INSTANCES, PARTICLE, PLACE, PLAYBACK, TEXT } from '../document/ownParameters.ts'
import { STREAK, TRAIL } from '../document/trailParameters.ts'
import { COMBING } from '../document/combing.ts'
import { CUT } from '../document/cut.ts'
import { BLOOM, GLOW, THREADS } from '../document/lightParameters.ts'
import { SKIN } from '../document/skin.ts'
import { FRACTURE, SHELL } from '../document/madeMeshes.ts'
import { COLOUR_SOURCES, DRAWN, PRECISIONS, QUALITY_LEVELS, type Shot } from '../document/types.ts'
import { CAMERA } from '../document/camera.ts'
import { MESH_LOOK } from '../document/meshLook.ts'
import { LIGHT, PICTURE, SURROUNDINGS } from '../document/stageParameters.ts'
import { bounded, byKind, id, list, object, points, rampOf, repeat, shapeOf, text, triple } from './yup.ts'

/** What a population may be of. */
const MATERIAL_IDS = [...MATERIALS, ...LIQUIDS].map((one) => one.id)

export type Read = { shot: Shot; problems?: undefined } | { shot?: undefined; problems: Problem[] }

/**
 * Checks a document read from JSON and fills in what it leaves out. Never throws: what is wrong
 * comes back with the path of each fault.
 */
export function readShot(json: unknown): Read {
  const current = migrated(json)
  if ('problem' in current) return { problems: [current.problem] }
  try {
    shotSchema.validateSync(current.document, { strict: true, abortEarly: false })
  } catch (error) {
    if (!(error instanceof yup.ValidationError)) throw error
    const faults = error.inner.length > 0 ? error.inner : [error]
    return { problems: faults.map((fault) => ({ path: fault.path ?? '', message: fault.message })) }
  }
  const shot = completed(current.document as Shot)
  const problems = brokenReferences(shot)
  return problems.length > 0 ? { problems } : { shot }
}

const weights = yup
  .mixed()
  .test(
    'weights',
    'must give a number from -100 to 100 per phase',
    (value) =>
      value === undefined ||
      (typeof value === 'object' &&
        value !== null &&
        !Array.isArray(value) &&
        Object.values(value).every((w) => typeof w === 'number' && Math.abs(w) <= 100)),
  )

const place = object(shapeOf(PLACE)).default(undefined)

const mesh = object({
  id: id(),
  name: text(200),
  visible: yup.boolean().typeError('must be true or false'),
  source: yup.lazy((value: unknown) => {
    const has = (key: string): boolean => typeof value === 'object' && value !== null && key in value
    if (has('file')) return object({ file: text(1000).required('is missing') })
    if (has('text')) return object({ text: object(shapeOf(TEXT)) })
    if (has('fracture')) return object({ fracture: object(shapeOf(FRACTURE)) })
    if (has('shell')) return object({ shell: object(shapeOf(SHELL)) })
    return object({
      asset: text(80)
        .required('is missing: "sha256:…" of a stored mesh, or use "file", "text", "fracture" or "shell"')
        .matches(/^sha256:[0-9a-f]{64}$/, 'must be "sha256:" and 64 hexadecimal digits'),
    }).required('is missing')
  }),
  place,
  playback: object(shapeOf(PLAYBACK)).default(undefined),
  deform: list(byKind(DEFORMATIONS, { id: id(), muted: yup.boolean() })),
  eaten: object(shapeOf(EATEN)).nullable().default(undefined),
  cut: object(shapeOf(CUT)).nullable().default(undefined),
  look: object(shapeOf(MESH_LOOK)).default(undefined),
  detail: yup.lazy((value: unknown) =>
    value === 'auto' ? yup.mixed() : bounded([0.0001, 1e5]).typeError('must be "auto" or a length in metres'),
  ),
})

const look = object({
  draw: yup.string().oneOf(DRAWN, `must be one of ${DRAWN.join(', ')}`),
  ...shapeOf(STREAK),
  instances: object({
    set: list(object({ mesh: text(80).required('is missing: the mesh to draw'), weight: bounded([0, 1e6]) }))
      .min(1, 'must name at least one mesh')
      .max(64, 'must be at most 64 meshes'),
    ...shapeOf(INSTANCES),
  })
    .nullable()
    .default(undefined),
  colour: object({
    from: yup.string().oneOf(COLOUR_SOURCES, `must be one of ${COLOUR_SOURCES.join(', ')}`),
    range: yup.tuple([bounded([-1e6, 1e6]), bounded([-1e6, 1e6])] as never).typeError('must be two numbers'),
    ramp: rampOf,
    attribute: text(80),
  }).default(undefined),
  trail: object(shapeOf(TRAIL)).nullable().default(undefined),
  glow: object(shapeOf(GLOW)).nullable().default(undefined),
  threads: object(shapeOf(THREADS)).nullable().default(undefined),
  skin: object(shapeOf(SKIN)).nullable().default(undefined),
}).default(undefined)

const cue = object({
  id: id(),
  from: text(40).required('is missing: the phase that it leaves'),
  to: text(40).required('is missing: the phase that it leads to, or "dies"'),
  chance: bounded([0, 1]),
  when: byKind(CUES, {}),
})

const RESPONDS = RESPONSES.map(({ from }) => from)
const response = object({
  to: text(40).required('is missing: the parameter that it drives'),
  from: yup
    .string()
    .required('is missing: what it reads')
    .oneOf(RESPONDS, `must be one of ${RESPONDS.join(', ')}`),
  curve: points([-1e9, 1e9], [-1e6, 1e6]).required('is missing'),
  repeat,
  mask: text(80),
  mesh: text(80),
  goal: text(80),
  attribute: text(80),
})

const population = object({
  id: id(),
  name: text(200),
  phases: list(text(40)).min(1, 'must name at least one phase').max(64, 'must be at most 64 phases'),
  particle: object(shapeOf(PARTICLE)).default(undefined),
  births: list(byKind(BIRTHS, { id: id(), muted: yup.boolean() })),
  cues: list(cue),
  goals: list(byKind(GOALS, { id: id(), name: text(200) })).max(
    MOST_GOALS,
    `must be at most ${MOST_GOALS} goals`,
  ),
  influences: list(
    byKind(INFLUENCES, {
      id: id(),
      name: text(200),
      weights,
      muted: yup.boolean(),
      responses: list(response).max(32, 'must be at most 32 responses'),
    }),
  ),
  look,
  attributes: list(ownAttribute).max(64, 'must be at most 64 attributes'),
  keep: list(text(80)).nullable(),
  material: yup
    .string()
    .nullable()
    .oneOf([null, ...MATERIAL_IDS], `must be one of ${MATERIAL_IDS.join(', ')}`),
  precision: yup.string().oneOf(PRECISIONS, `must be one of ${PRECISIONS.join(', ')}`),
})

const stage = object({
  camera: object({
    position: triple([-1e6, 1e6]),
    target: triple([-1e6, 1e6]),
    fieldOfView: bounded([5, 120]),
  }).default(undefined),
  light: object(shapeOf(LIGHT)).default(undefined),
  backdrop: yup.string().oneOf(Object.keys(BACKDROPS), `must be one of ${Object.keys(BACKDROPS).join(', ')}`),
  surroundings: object(shapeOf(SURROUNDINGS)).default(undefined),
  picture: object(shapeOf(PICTURE)).default(undefined),
  bloom: object(shapeOf(BLOOM)).default(undefined),
}).default(undefined)

const shotSchema = object({
  format: yup
    .string()
    .oneOf(['tangle-shot'], 'must be "tangle-shot"')
    .required('is missing: must be "tangle-shot"'),
  version: yup.number().required('is missing'),
  name: text(200).required('is missing'),
  frames: object({
    first: bounded([-100000, 100000], true).required('is missing'),
    last: bounded([-100000, 100000], true)
      .required('is missing')
      .test(
        'after',
        'must not be before the first frame',
        (last, context) => !((last ?? 0) < (context.parent as { first: number }).first),
      ),
    rate: bounded([1, 240]).required('is missing'),
  })
    .required('is missing')
    .default(undefined),
  seed: bounded([-2147483648, 2147483647], true),
  quality: object({
    level: yup.string().oneOf(QUALITY_LEVELS, `must be one of ${QUALITY_LEVELS.join(', ')}`),
    substeps: bounded([1, 64], true),
    iterations: bounded([1, 256], true),
    previewShare: bounded([0.0001, 1]),
    settle: bounded([0, 10000], true),
  }).default(undefined),
  meshes: list(mesh),
  masks: list(byKind(MASKS, { id: id(), name: text(200) })),
  combings: list(object({ id: id(), name: text(200), ...shapeOf(COMBING) })),
  cameras: list(object({ id: id(), name: text(200), ...shapeOf(CAMERA) })).max(
    64,
    'must be at most 64 cameras',
  ),
  populations: list(population),
  stage,
  lifted: list(object({ label: text(200).required('is missing'), path: list(text(200)) })),
}).required('must be an object')
