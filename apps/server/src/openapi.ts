/** The API in words for programs: an OpenAPI description, made from the schemas that check requests. */
import { emptyShot, shotJsonSchema, type JsonSchema } from '@tangle/core'
import { EXPORTS, MESH_ENDINGS } from '@tangle/formats'
import type { Schema } from 'yup'
import { newShot, savedShot } from './routes/shots.ts'
import { newSweep } from './routes/sweeps.ts'
import { written } from './routes/takeFiles.ts'
import { kept } from './routes/takeLifecycle.ts'
import { newTake } from './routes/takes.ts'

interface Operation {
  does: string
  query?: Record<string, string>
  body?: Schema
  /** A body of bytes. */
  bytes?: true
  example?: unknown
  /** What is answered when all is well. */
  status: number
  answer?: JsonSchema
  /** Of an answer that is no JSON. */
  type?: string
  /** Other answers, and when they come. */
  faults?: Record<number, string>
}

const object = (properties: JsonSchema): JsonSchema => ({ type: 'object', properties, required: Object.keys(properties) }) // prettier-ignore
const list = (items: JsonSchema): JsonSchema => ({ type: 'array', items })
const ref = (name: string): JsonSchema => ({ $ref: `#/components/schemas/${name}` })
const [TEXT, COUNT, FLAG] = [{ type: 'string' }, { type: 'number' }, { type: 'boolean' }]
const MADE = object({ id: TEXT, version: COUNT, name: TEXT })
const MISSING = { 404: 'There is none of this id' }
const BUSY = { ...MISSING, 409: 'Its status does not allow that; the answer says which it is' }
const PICTURE = { ...MISSING, 413: 'It is too large', 422: 'No picture' }
const CHECKED = { 422: 'The body is not right; `problems` has the path of each fault' }
const FILE = 'application/octet-stream'

const shot = { ...emptyShot('Made by a program'), name: 'Made by a program' }
/** Every operation, by its address and method, in an order in which they can be tried one after another. */
const OPERATIONS: Record<string, Operation> = {
  'GET /health': { does: 'Whether the database, the queue and the disk are well; needs no token', status: 200, answer: object({ ok: FLAG, database: FLAG, problems: list(TEXT) }), faults: { 503: 'Something is not' } },
  'GET /kinds': { does: 'Every kind of mask, birth, cue, goal, influence and response, with its parameters', status: 200, answer: list(object({ group: TEXT, kind: TEXT, label: TEXT, help: TEXT })) },
  'GET /openapi.json': { does: 'This description', status: 200, answer: object({ openapi: TEXT }) },
  'GET /shot-schema.json': { does: 'The JSON Schema of a shot', status: 200, answer: object({ $schema: TEXT }) },
  'GET /space': { does: 'Bytes that takes occupy, how many they may (null: as many as there is room for), and the folder for files', status: 200, answer: object({ takes: COUNT }) },
  'GET /meshes': { does: 'The meshes that are stored', status: 200, answer: list(ref('Mesh')) },
  'POST /meshes': { does: `Stores a mesh: ${MESH_ENDINGS.join(', ').toUpperCase()}`, query: { name: 'The name of the file: its ending says what it is' }, bytes: true, status: 201, answer: ref('Mesh'), faults: { 413: 'It is too large', 415: 'No mesh by its name', 422: 'It can’t be read; the message says where' } },
  'GET /meshes/{sha}': { does: 'The file of a mesh, by its SHA-256', status: 200, type: FILE, faults: MISSING },
  'GET /shots': { does: 'All shots, the newest first', query: { deleted: '1: those that were deleted' }, status: 200, answer: list(object({ id: TEXT, name: TEXT, version: COUNT })) },
  'POST /shots': { does: 'Makes a shot, empty or as a document says', body: newShot, example: { name: 'Made by a program' }, status: 201, answer: MADE, faults: CHECKED },
  'GET /shots/{shot}': { does: 'A shot with its document', status: 200, answer: object({ id: TEXT, version: COUNT, document: ref('Shot') }), faults: MISSING },
  'PUT /shots/{shot}': { does: 'Saves a shot. `version` is the one that the edits are based on', body: savedShot, example: { version: 1, document: shot }, status: 200, answer: object({ version: COUNT }), faults: { ...MISSING, ...CHECKED, 409: 'It has been changed since; the answer has its version' } },
  'POST /shots/{shot}/duplicate': { does: 'Makes a copy', status: 201, answer: MADE, faults: MISSING },
  'PUT /shots/{shot}/thumbnail': { does: 'Keeps a picture of it: PNG or WebP', bytes: true, status: 204, faults: PICTURE },
  'GET /shots/{shot}/thumbnail': { does: 'The picture of it', status: 200, type: 'image/png', faults: MISSING },
  'PUT /shots/{shot}/strip': { does: 'Keeps pictures of some of its frames beside one another, each 16:10: PNG or WebP', bytes: true, status: 204, faults: PICTURE },
  'GET /shots/{shot}/strip': { does: 'Pictures of some of its frames', status: 200, type: 'image/webp', faults: MISSING },
  'GET /shots/{shot}/takes': { does: 'The takes of a shot, the newest first', query: { deleted: '1: those that were deleted' }, status: 200, answer: list(ref('Take')) },
  'GET /shots/{shot}/takes/events': { does: 'The takes of a shot, again whenever something has changed: server-sent events', status: 200, type: 'text/event-stream' },
  'POST /shots/{shot}/takes': { does: 'Makes a take of a shot as it is saved; 200 with the one that there is where nothing has changed', body: newTake, example: {}, status: 201, answer: ref('Take'), faults: { 200: 'There is one of this very document', ...MISSING, ...CHECKED, 409: 'It has been changed since', 422: 'Nothing is born in it' } },
  'POST /shots/{shot}/sweeps': { does: 'Makes a take of each combination of values', body: newSweep, example: { axes: [{ path: ['seed'], values: [1, 2] }] }, status: 201, answer: object({ sweep: TEXT, takes: list(ref('Take')) }), faults: { ...MISSING, ...CHECKED } },
  'POST /shots/{shot}/clear': { does: 'Deletes takes that have ended but the newest few and those that are protected', body: kept, example: { keep: 3 }, status: 200, answer: object({ takes: list(TEXT), bytes: COUNT }), faults: CHECKED },
  'GET /takes/{take}': { does: 'A take with its document and what was measured in each frame', status: 200, answer: { allOf: [ref('Take'), object({ document: ref('Shot') })] }, faults: MISSING },
  'POST /takes/{take}/protect': { does: 'Keeps it from being deleted', status: 200, answer: ref('Take'), faults: BUSY },
  'POST /takes/{take}/unprotect': { does: 'Lets it be deleted again', status: 200, answer: ref('Take'), faults: BUSY },
  'POST /takes/{take}/first': { does: 'Puts one that waits before all others', status: 200, answer: ref('Take'), faults: BUSY },
  'POST /takes/{take}/pause': { does: 'Pauses it as far as it is', status: 200, answer: ref('Take'), faults: BUSY },
  'POST /takes/{take}/resume': { does: 'Lets one that is paused go on', status: 200, answer: ref('Take'), faults: BUSY },
  'POST /takes/{take}/cancel': { does: 'Ends it', status: 200, answer: ref('Take'), faults: BUSY },
  'POST /takes/{take}/retry': { does: 'Computes one that failed or was cancelled anew', status: 200, answer: ref('Take'), faults: BUSY },
  'GET /takes/{take}/frames/{frame}': { does: 'A frame as it is stored', query: { whole: '1: one that refers to no other', backward: '1: of the take in reverse' }, status: 200, type: FILE, faults: MISSING },
  'GET /takes/{take}/export': { does: 'A finished take in a file or a ZIP of files', query: { format: EXPORTS.map(({ kind }) => kind).join(', ') }, status: 200, type: FILE, faults: { ...BUSY, 422: 'The format can’t be chosen, or a choice with it' } },
  'POST /takes/{take}/files': { does: 'Writes a finished take into the folder of this server', body: written, example: { format: 'usdc' }, status: 201, answer: object({ folder: TEXT, files: COUNT }), faults: { ...BUSY, ...CHECKED } },
  'DELETE /takes/{take}': { does: 'Deletes a take; for some days it can be brought back', status: 204, faults: BUSY },
  'POST /takes/{take}/restore': { does: 'Brings a deleted take back', status: 204, faults: MISSING },
  'DELETE /shots/{shot}': { does: 'Deletes a shot', status: 204, faults: MISSING },
  'POST /shots/{shot}/restore': { does: 'Brings a deleted shot back', status: 204, faults: MISSING },
} // prettier-ignore

const SCHEMAS: JsonSchema = {
  Shot: shotJsonSchema(),
  Mesh: object({
    asset: TEXT,
    name: TEXT,
    file: TEXT,
    bytes: COUNT,
    facts: { type: 'object' },
    sample: FLAG,
  }),
  Take: object({
    id: TEXT,
    shotId: TEXT,
    number: COUNT,
    status: { enum: ['waiting', 'computing', 'paused', 'done', 'failed', 'cancelled'] },
    framesDone: COUNT,
    bytes: COUNT,
    name: TEXT,
    frames: object({ first: COUNT, last: COUNT, rate: COUNT }),
  }),
  Fault: object({ error: object({ code: TEXT, message: TEXT }) }),
}

interface Described {
  type: string
  fields?: Record<string, Described>
  innerType?: Described
  optional?: boolean
  oneOf?: unknown[]
  tests?: { name?: string; params?: Record<string, unknown> }[]
}
/** What a schema of a request takes, as JSON Schema. */
function jsonOf({ type, fields, innerType, oneOf, tests = [] }: Described): JsonSchema {
  const param = (name: string): unknown => tests.find((one) => one.name === name)?.params?.[name]
  if (type === 'object') {
    const all = Object.entries(fields ?? {})
    const properties = all.map(([name, one]) => [name, name === 'document' ? ref('Shot') : jsonOf(one)])
    const required = all.filter(([, one]) => one.optional === false).map(([name]) => name)
    return { type, properties: Object.fromEntries(properties), ...(required.length > 0 && { required }) }
  }
  if (type === 'array') return { type, ...(innerType && { items: jsonOf(innerType) }) }
  if (type === 'mixed' || type === 'lazy' || type === 'tuple') return {}
  const number = { minimum: param('min'), maximum: param('max') }
  const text = { minLength: param('min'), maxLength: param('max') }
  return {
    type: tests.some(({ name }) => name === 'integer') ? 'integer' : type,
    ...(oneOf && oneOf.length > 0 && { enum: oneOf }),
    ...(type === 'number' ? number : type === 'string' ? text : {}),
  }
}

const content = (schema: JsonSchema, example?: unknown): JsonSchema => ({
  'application/json': { schema, ...(example !== undefined && { example }) },
})

function operationOf(
  address: string,
  { does, query = {}, body, bytes, example, status, answer, type, faults = {} }: Operation,
): JsonSchema {
  const named = [...address.matchAll(/\{(\w+)\}/g)].map(([, name]) => ({
    name,
    in: 'path',
    required: true,
    schema: TEXT,
  }))
  const asked = Object.entries(query).map(([name, description]) => ({
    name,
    in: 'query',
    description,
    schema: TEXT,
  }))
  const well = answer ? content(answer) : type ? { [type]: {} } : undefined
  return {
    summary: does,
    operationId: address
      .replaceAll(/\W+/g, ' ')
      .trim()
      .replaceAll(/ (\w)/g, (_, letter: string) => letter.toUpperCase()),
    parameters: [...named, ...asked],
    ...(body && { requestBody: { content: content(jsonOf(body.describe() as Described), example) } }),
    ...(bytes && { requestBody: { required: true, content: { [FILE]: {} } } }),
    responses: {
      [status]: { description: does, ...(well && { content: well }) },
      ...Object.fromEntries(
        Object.entries(faults).map(([code, description]) => [
          code,
          { description, ...(Number(code) >= 400 && { content: content(ref('Fault')) }) },
        ]),
      ),
    },
  }
}

/** Where every operation stands: "GET /shots/{shot}". */
export const addresses = (): string[] => Object.keys(OPERATIONS)

/** An OpenAPI 3.1 description of the API. */
export function openApi(): JsonSchema {
  const paths: Record<string, JsonSchema> = {}
  for (const [address, operation] of Object.entries(OPERATIONS)) {
    const [method, path] = address.split(' ') as [string, string]
    paths[`/api${path}`] = {
      ...paths[`/api${path}`],
      [method.toLowerCase()]: operationOf(address, operation),
    }
  }
  return {
    openapi: '3.1.0',
    jsonSchemaDialect: 'http://json-schema.org/draft-07/schema#',
    info: {
      title: 'Tangle',
      version: '1',
      description:
        'Shots, meshes and takes. Faults are answered with a code, a sentence, and the path of what is wrong.',
    },
    paths,
    components: { schemas: SCHEMAS },
  }
}
