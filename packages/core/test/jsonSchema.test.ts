/** The JSON Schema of shots takes what is read, by an independent validator, and refuses what is not. */
import Ajv from 'ajv'
import { BIRTHS, CUES, INFLUENCES, MASKS, readShot, shotJsonSchema, type Shot } from '../src/index.ts'
import { demoShots } from '../../../demo/src/index.ts'
import { acting, burst, shotOf } from './help.ts'
import { INFLUENCE_SHOTS, SHOTS } from './shots.ts'

const schema = shotJsonSchema()
const validate = new Ajv({ allErrors: false, jsonPointers: true }).compile(schema)
/** Where the first fault is and what it is; null: there is none. */
function faultOf(shot: unknown): string | null {
  if (validate(JSON.parse(JSON.stringify(shot)))) return null
  return validate.errors!.map(({ dataPath, message }) => `${dataPath} ${message}`).join('; ')
}

test.each(Object.entries(SHOTS))('takes the shot %s', (_, shot) => expect(faultOf(shot())).toBeNull())
test('takes a shot of each influence, and those of the demo', () => {
  for (const { shot } of INFLUENCE_SHOTS) expect(faultOf(shot())).toBeNull()
  for (const { shot } of demoShots(() => `sha256:${'a'.repeat(64)}`)) expect(faultOf(shot)).toBeNull()
})

const good = () => shotOf({ births: [burst()], influences: [acting('wind')] })
const edited = (edit: (shot: Shot & Record<string, unknown>) => void): unknown => {
  const shot = structuredClone(good()) as Shot & Record<string, unknown>
  edit(shot)
  return shot
}
test.each<[string, unknown, RegExp]>([
  ['another format', edited((shot) => void (shot.format = 'other' as never)), /format/],
  ['no name', edited((shot) => void delete (shot as Partial<Shot>).name), /name/],
  ['a rate of nothing', edited((shot) => void (shot.frames.rate = 0)), /frames\/rate/],
  ['a kind that there is not', edited((shot) => void (shot.populations[0]!.influences[0]!.kind = 'magic')), /influences\/0/],
  ['a value out of its range', edited((shot) => void (shot.populations[0]!.influences[0]!.strength = -5)), /influences\/0/],
  ['words for a number', edited((shot) => void (shot.populations[0]!.influences[0]!.speed = 'fast')), /influences\/0/],
  ['a value that the kind has not', edited((shot) => void (shot.populations[0]!.influences[0]!.colour = 3)), /influences\/0/],
  ['a vector of two', edited((shot) => void (shot.meshes[0]!.place.position = [1, 2] as never)), /place\/position/],
  ['what a shot has not', edited((shot) => void (shot.wings = 2)), /additional/],
])('refuses %s, as reading does', (_, shot, where) => {
  expect(faultOf(shot)).toMatch(where)
  expect(readShot(shot).problems).toBeDefined()
}) // prettier-ignore

test('says of every kind and every value what it is', () => {
  const said = JSON.stringify(schema)
  for (const { kind, help, parameters } of [...INFLUENCES, ...MASKS, ...CUES, ...BIRTHS]) {
    expect(said).toContain(`"const":"${kind}"`)
    expect(said).toContain(JSON.stringify(help))
    for (const parameter of Object.values(parameters)) expect(said).toContain(JSON.stringify(parameter.help))
  }
})
