/** Which attributes a population has, and which of them takes keep. */
import { birthKind, CUES, INFLUENCES, RESPONSES } from '../registry.ts'
import { TOLD, type Look, type Population, type Precision } from '../document/types.ts'
import {
  OFFSPRING,
  offspringName,
  ownAttribute,
  ownName,
  type Attribute,
  type OffspringName,
  type OwnName,
} from '../state/attribute.ts'
import {
  ATTRIBUTES,
  BUILT_IN_NAMES,
  goalAttributes,
  type AttributeName,
  type BuiltInName,
} from '../state/attributes.ts'

/** The attributes of a population: those that are always there, those that a rule reads or writes, and its own. */
export function attributesOf(
  source: Population,
  all: Population[] = [],
): { builtIn: BuiltInName[]; own: [OwnName, Attribute][]; offspring: [OffspringName, Attribute][] } {
  const { births, influences, cues, goals, look, keep, attributes } = source
  const wanted = new Set<string>()
  // others that touch it ask for the same as if it touched them
  if (all.some((one) => one.influences.some((other) => other.with === source.id))) wanted.add('startVelocity')
  if (look.colour.from === 'travelled' || isTold(look.colour.from)) wanted.add(look.colour.from)
  if (look.colour.from === 'own') wanted.add('colour')
  if (look.draw === 'discs' || look.draw === 'instances') wanted.add('orientation')
  goals.forEach((goal, n) => {
    for (const name of goalAttributes(n)) wanted.add(name)
    if (goal.pairing === 'uv') wanted.add('anchor').add('anchorAt')
  })
  // a piece has its shape and is turned
  if (births.some(({ kind }) => birthKind(kind).makesPieces))
    for (const name of ['piece', 'orientation', 'angularVelocity', 'anchor', 'anchorAt']) wanted.add(name)
  if (births.some(({ from }) => from !== undefined))
    for (const name of ['parent', 'generation', 'randomKey']) wanted.add(name)
  // an id alone does not say whose it is
  if (new Set(births.flatMap(({ from }) => from ?? [])).size > 1) wanted.add('parentPopulation')
  const bears = all.flatMap((one) => one.births.filter(({ from, muted }) => from === source.id && !muted).map(({ id }) => offspringName(one.id, id))) // prettier-ignore
  // their way within a substep follows from how they began it
  if (bears.length > 0) wanted.add('startVelocity')
  // the mesh that they are on says where they look
  if (all.some(({ births: ones }) => ones.some((one) => one.from === source.id && (one.aim === 'surface' || one.axes === 'parent')))) wanted.add('anchor').add('anchorAt') // prettier-ignore
  for (const attribute of keep ?? []) wanted.add(attribute)
  for (const { when } of cues) {
    for (const name of CUES.find((k) => k.kind === when.kind)?.attributes ?? []) wanted.add(name)
  }
  for (const { kind, muted, responses } of influences) {
    if (muted) continue
    for (const name of INFLUENCES.find((k) => k.kind === kind)?.attributes ?? []) wanted.add(name)
    for (const { from } of responses ?? [])
      for (const name of RESPONSES.find((one) => one.from === from)?.attributes ?? []) wanted.add(name)
  }
  return {
    builtIn: BUILT_IN_NAMES.filter((name) => ATTRIBUTES[name].exists === 'always' || wanted.has(name)),
    own: attributes.map((one) => [ownName(one.id), ownAttribute(one)]),
    offspring: bears.map((name) => [name, OFFSPRING]),
  }
}

/** What an artist may choose to keep, in the order of the table. */
export const KEEPABLE = [...new Set(Object.values(ATTRIBUTES).flatMap(({ keep }) => keep ?? []))]

/** Whether it is an attribute that rules tell of particles. */
export const isTold = (source: string): source is (typeof TOLD)[number] =>
  (TOLD as readonly string[]).includes(source)

/** What takes keep an attribute by that a look colours by. */
function keptFor({ from, attribute }: Look['colour']): string | undefined {
  if (from === 'attribute') return attribute
  const name = { age: 'age', speed: 'velocity', travelled: 'travelled', own: 'colour' } as const
  return ATTRIBUTES[isTold(from) ? from : name[from]].keep
}

/** The attributes that takes and files keep of a population: who and where, what it says and what its look reads. */
export function keptAttributes({ keep, look, attributes }: Population): AttributeName[] {
  const chosen = new Set(keep ?? [...KEEPABLE, ...attributes.map(({ id }) => id)])
  const coloured = keptFor(look.colour)
  if (coloured) chosen.add(coloured)
  if (look.draw === 'instances' || look.draw === 'pieces') chosen.add('radius').add('orientation')
  if (look.threads) chosen.add('parent').add('age')
  if (look.glow?.by === 'speed') chosen.add('velocity')
  if (look.glow?.by === 'life') chosen.add('age')
  if (look.glow?.by === 'attribute' && look.glow.attribute !== undefined) chosen.add(look.glow.attribute)
  const isKept = ({ frames, keep: by }: Attribute): boolean =>
    frames !== undefined && (by === undefined || chosen.has(by))
  return [
    ...BUILT_IN_NAMES.filter((name) => isKept(ATTRIBUTES[name])),
    ...attributes.filter(({ id }) => chosen.has(id)).map(({ id }) => ownName(id)),
  ]
}

/** What a skin carries to its vertices: of what is kept, temperature, colour, the artist's own numbers, and what the look colours by. */
export function carriedBySkin(population: Population): AttributeName[] {
  const { look, attributes } = population
  const { builtIn } = attributesOf(population)
  const { from } = look.colour
  const chosen = new Set<AttributeName>(['temperature', 'colour'])
  if (from === 'age' || from === 'travelled' || isTold(from)) chosen.add(from)
  for (const { id, type } of attributes) if (type !== 'whole') chosen.add(ownName(id))
  const there = new Set<AttributeName>([...builtIn, ...attributes.map(({ id }) => ownName(id))])
  return keptAttributes(population).filter((name) => chosen.has(name) && there.has(name))
}

/** Choices of what takes keep, by what they are for; null is everything. */
export const KEEP_PRESETS: Record<string, string[] | null> = {
  'places only': [],
  'for motion blur': ['velocity', 'radius'],
  everything: null,
}

/**
 * Bytes that a number takes in a stored frame, on average from key frame to key frame, of dust in turbulent air: what moves takes most, what stays as it
 * was born little. Checked against the codec by formats/test/sizes.test.ts.
 */
const STORED: Record<Precision, Partial<Record<AttributeName, number>>> = {
  compact: { id: 0.03, phase: 0.02, position: 0.7, velocity: 1, age: 0.35, orientation: 1, travelled: 0.7 },
  exact: { id: 0.03, phase: 0.02, position: 2.2, velocity: 3.2, age: 0.1, orientation: 2.2, travelled: 2.2 },
}
const STORED_NUMBER: Record<Precision, number> = { compact: 0.2, exact: 0.35 }
/** Where a place is to be without its velocity, times as many. */
const WITHOUT_VELOCITY: Record<Precision, number> = { compact: 2.1, exact: 1.6 }

/** About so many bytes a particle of a population takes in a frame of a take. */
export function storedBytes(population: Population): number {
  const { precision } = population
  const { builtIn, own } = attributesOf(population)
  const there = new Map<AttributeName, number>([
    ...builtIn.map((name): [AttributeName, number] => [name, ATTRIBUTES[name].width]),
    ...own.map(([name, { width }]): [AttributeName, number] => [name, width]),
  ])
  const kept = keptAttributes(population)
  return kept
    .map((name) => {
      const known = name === 'position' && !kept.includes('velocity') ? WITHOUT_VELOCITY[precision] : 1
      return known * (STORED[precision][name] ?? STORED_NUMBER[precision]) * (there.get(name) ?? 0)
    })
    .reduce((sum, bytes) => sum + bytes, 0)
}
