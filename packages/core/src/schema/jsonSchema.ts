/** The shot as a JSON Schema (draft 7), made from the declarations of parameters: for editors, and for programs that write shots. */
import { COMBING } from '../document/combing.ts'
import { CUT } from '../document/cut.ts'
import { BLOOM, GLOW, THREADS } from '../document/lightParameters.ts'
import { FRACTURE, SHELL } from '../document/madeMeshes.ts'
import { EATEN, INSTANCES, PARTICLE, PLACE, PLAYBACK, TEXT } from '../document/ownParameters.ts'
import { STREAK, TRAIL } from '../document/trailParameters.ts'
import {
  EASES,
  EVENT_KINDS,
  MIRRORS,
  REPEATS,
  type Parameter,
  type Parameters,
} from '../document/parameters.ts'
import { SKIN } from '../document/skin.ts'
import { COLOUR_SOURCES, DRAWN, PRECISIONS, QUALITY_LEVELS } from '../document/types.ts'
import { CAMERA } from '../document/camera.ts'
import { MESH_LOOK } from '../document/meshLook.ts'
import { LIGHT, PICTURE, SURROUNDINGS } from '../document/stageParameters.ts'
import { BACKDROPS, RAMPS } from '../look/ramps.ts'
import { BIRTHS, CUES, DEFORMATIONS, GOALS, INFLUENCES, MASKS, RESPONSES } from '../registry.ts'
import { LIQUIDS } from './liquids.ts'
import { MATERIALS } from './materials.ts'

export type JsonSchema = Record<string, unknown>

const number = (low: number, high: number): JsonSchema => ({ type: 'number', minimum: low, maximum: high })
const whole = (low: number, high: number): JsonSchema => ({ type: 'integer', minimum: low, maximum: high })
const list = (items: JsonSchema): JsonSchema => ({ type: 'array', items })
const oneOf = (words: readonly unknown[]): JsonSchema => ({ enum: words })
const text = { type: 'string', minLength: 1 }
const id = { type: 'string', pattern: '^[\\w-]+$', maxLength: 80 }
const orNull = (schema: JsonSchema): JsonSchema => ({ anyOf: [schema, { type: 'null' }] })
const object = (properties: JsonSchema, required: string[] = []): JsonSchema => ({
  type: 'object',
  properties,
  required,
  additionalProperties: false,
})
const tuple = (...items: JsonSchema[]): JsonSchema => ({ type: 'array', items, minItems: items.length, maxItems: items.length }) // prettier-ignore
const triple = (item: JsonSchema): JsonSchema => tuple(item, item, item)
const any: JsonSchema = { type: 'number' }

/** [x, y] or [x, y, ease]. */
const points: JsonSchema = list({ type: 'array', items: [any, any, oneOf(EASES)], minItems: 2, maxItems: 3 })
const keyed = (value: JsonSchema): JsonSchema => ({
  anyOf: [value, object({ keys: points, repeat: oneOf(REPEATS) }, ['keys'])],
})
const span = { from: any, to: any, cap: any }
const AMOUNT: JsonSchema = {
  anyOf: [
    object({ burst: { anyOf: [whole(0, 2e7), { const: 'all' }] }, at: any }, ['burst', 'at']),
    object({ rate: keyed(any), ...span }, ['rate']),
    object({ swept: any, mask: text, level: any, from: any, to: any }, ['swept', 'mask']),
    object({ spacing: keyed(any), ...span }, ['spacing']),
    object({ count: any, event: oneOf(EVENT_KINDS), chance: number(0, 1), ...span }, ['count', 'event']),
  ],
}
const ORIGIN: JsonSchema = {
  anyOf: [
    object({ ball: triple(any), radius: any }, ['ball', 'radius']),
    object({ plane: triple(any), normal: triple(any) }, ['plane', 'normal']),
    object({ points: list(triple(any)) }, ['points']),
    object({ mask: text }, ['mask']),
  ],
}
const COLOUR: JsonSchema = { type: 'string', pattern: '^#[0-9a-fA-F]{6}$' }
const RAMP: JsonSchema = {
  anyOf: [oneOf(Object.keys(RAMPS)), object({ stops: list(tuple(number(0, 1), COLOUR)) }, ['stops'])],
}
const strokes = (brushes: Record<string, string>): JsonSchema =>
  list(
    object(
      {
        brush: oneOf(Object.keys(brushes)),
        radius: any,
        strength: any,
        points: list(triple(any)),
        pressures: list(number(0, 1)),
        mirror: oneOf(MIRRORS),
        lift: any,
      },
      ['brush', 'radius', 'strength', 'points'],
    ),
  )

/** What the document may have as the value of a parameter. */
function valueOf(parameter: Parameter): JsonSchema {
  switch (parameter.type) {
    case 'number': {
      const plain = (parameter.whole ? whole : number)(...parameter.range)
      return parameter.keyable ? keyed(plain) : plain
    }
    case 'vector': {
      const plain = number(...parameter.range)
      return triple(parameter.keyable ? keyed(plain) : plain)
    }
    case 'varied':
      return orNull({ anyOf: [number(...parameter.range), object({ mean: number(...parameter.range), spread: any }, ['mean', 'spread'])] }) // prettier-ignore
    case 'choice':
      return oneOf(Object.keys(parameter.options))
    case 'reference':
      return text
    case 'curve':
      return points
    case 'ramp':
      return RAMP
    case 'origin':
      return ORIGIN
    case 'strokes':
      return strokes(parameter.brushes)
    case 'path':
      return list(triple(any))
    case 'colour':
      return COLOUR
    case 'text':
      return { ...text, maxLength: parameter.most }
    case 'amount':
      return AMOUNT
  }
}

/** With its label, what it does and what it is where it is left out. */
function described(parameter: Parameter): JsonSchema {
  const { label, help } = parameter
  const unit = 'unit' in parameter && parameter.unit ? ` (${parameter.unit})` : ''
  return {
    ...valueOf(parameter),
    title: `${label}${unit}`,
    description: help,
    ...('default' in parameter && { default: parameter.default }),
  }
}
const propertiesOf = (parameters: Parameters): JsonSchema =>
  Object.fromEntries(Object.entries(parameters).map(([name, parameter]) => [name, described(parameter)]))
const ofOwn = (parameters: Parameters): JsonSchema => object(propertiesOf(parameters))

interface Kind {
  kind: string
  label: string
  help: string
  parameters: Parameters
}
/** One schema for each kind, chosen by the word that `kind` has. */
const kinds = (all: Kind[], common: JsonSchema, required: string[] = ['id', 'kind']): JsonSchema => ({
  type: 'object',
  properties: { kind: oneOf(all.map(({ kind }) => kind)) },
  required: ['kind'],
  oneOf: all.map(({ kind, label, help, parameters }) => ({
    title: label,
    description: help,
    ...object({ ...common, kind: { const: kind }, ...propertiesOf(parameters) }, required),
  })),
})

const NAMED = { id, name: text }
const ASSET = { type: 'string', pattern: '^sha256:[0-9a-f]{64}$' }
const MESH = object(
  {
    ...NAMED,
    visible: { type: 'boolean' },
    source: {
      anyOf: [
        object({ asset: ASSET }, ['asset']),
        object({ file: text }, ['file']),
        object({ text: ofOwn(TEXT) }, ['text']),
        object({ fracture: ofOwn(FRACTURE) }, ['fracture']),
        object({ shell: ofOwn(SHELL) }, ['shell']),
      ],
    },
    place: ofOwn(PLACE),
    playback: ofOwn(PLAYBACK),
    deform: list(kinds(DEFORMATIONS, { id, muted: { type: 'boolean' } })),
    eaten: orNull(ofOwn(EATEN)),
    cut: orNull(ofOwn(CUT)),
    look: ofOwn(MESH_LOOK),
    detail: { anyOf: [{ const: 'auto' }, number(0.0001, 1e5)] },
  },
  ['id', 'source'],
)
const RESPONSE = object(
  {
    to: text,
    from: oneOf(RESPONSES.map(({ from }) => from)),
    curve: points,
    repeat: oneOf(REPEATS),
    mask: text,
    mesh: text,
    goal: text,
    attribute: text,
  },
  ['to', 'from', 'curve'],
)
const LOOK = object({
  draw: oneOf(DRAWN),
  ...propertiesOf(STREAK),
  instances: orNull(
    object({
      set: { ...list(object({ mesh: text, weight: number(0, 1e6) }, ['mesh'])), minItems: 1, maxItems: 64 },
      ...propertiesOf(INSTANCES),
    }),
  ),
  colour: object({ from: oneOf(COLOUR_SOURCES), range: tuple(any, any), ramp: RAMP, attribute: text }),
  trail: orNull(ofOwn(TRAIL)),
  glow: orNull(ofOwn(GLOW)),
  threads: orNull(ofOwn(THREADS)),
  skin: orNull(ofOwn(SKIN)),
})
const POPULATION = object(
  {
    ...NAMED,
    phases: { ...list(text), minItems: 1, maxItems: 64 },
    material: oneOf([null, ...[...MATERIALS, ...LIQUIDS].map((one) => one.id)]),
    particle: ofOwn(PARTICLE),
    // what an attribute is born with depends on its type
    attributes: list({ type: 'object', properties: { id }, required: ['id'] }),
    births: list(kinds(BIRTHS, { id, muted: { type: 'boolean' } })),
    cues: list(
      object({ id, from: text, to: text, chance: number(0, 1), when: kinds(CUES, {}, ['kind']) }, [
        'id',
        'from',
        'to',
      ]),
    ),
    goals: list(kinds(GOALS, NAMED)),
    influences: list(
      kinds(INFLUENCES, {
        ...NAMED,
        weights: { type: 'object', additionalProperties: number(-100, 100) },
        muted: { type: 'boolean' },
        responses: { ...list(RESPONSE), maxItems: 32 },
      }),
    ),
    look: LOOK,
    keep: orNull(list(text)),
    precision: oneOf(PRECISIONS),
  },
  ['id'],
)

/** The JSON Schema of a shot. What it takes may still name something that is not there: that only reading it tells. */
export const shotJsonSchema = (): JsonSchema => ({
  $schema: 'http://json-schema.org/draft-07/schema#',
  title: 'A shot of Tangle',
  ...object(
    {
      format: { const: 'tangle-shot' },
      version: whole(1, 1000),
      name: { ...text, maxLength: 200 },
      frames: object({ first: whole(-1e5, 1e5), last: whole(-1e5, 1e5), rate: number(1, 240) }, ['first', 'last', 'rate']), // prettier-ignore
      seed: whole(-2147483648, 2147483647),
      quality: object({
        level: oneOf(QUALITY_LEVELS),
        substeps: whole(1, 64),
        iterations: whole(1, 256),
        previewShare: number(0.0001, 1),
        settle: whole(0, 10000),
      }),
      meshes: list(MESH),
      masks: list(kinds(MASKS, NAMED)),
      cameras: list(object({ ...NAMED, ...propertiesOf(CAMERA) }, ['id'])),
      combings: list(object({ ...NAMED, ...propertiesOf(COMBING) }, ['id'])),
      populations: list(POPULATION),
      stage: object({
        camera: object({ position: triple(any), target: triple(any), fieldOfView: number(5, 120) }),
        light: ofOwn(LIGHT),
        backdrop: oneOf(Object.keys(BACKDROPS)),
        surroundings: ofOwn(SURROUNDINGS),
        picture: ofOwn(PICTURE),
        bloom: ofOwn(BLOOM),
      }),
      lifted: list(object({ label: text, path: list(text) }, ['label', 'path'])),
    },
    ['format', 'version', 'name', 'frames'],
  ),
})
