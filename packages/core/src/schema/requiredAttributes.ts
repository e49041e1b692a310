import { CUES } from '../cues/index.ts'
import { INFLUENCES } from '../influences/index.ts'
import { RESPONSE_SOURCES } from '../responses/index.ts'
import { ATTRIBUTES, type Attribute, type ColourSource, type Population } from '../document/types.ts'
import { COLUMNS, goalColumns, ON_DEMAND, type ColumnName } from '../state/columns.ts'

/** The columns of a population: those that are always there, and those that one of its rules reads or writes. */
export function columnsOf(source: Population, all: Population[] = []): ColumnName[] {
  const { influences, cues, goals, look, keep } = source
  const wanted = new Set<ColumnName>()
  // others that touch it ask for the same as if it touched them
  if (all.some((one) => one.influences.some((other) => other.with === source.id))) wanted.add('before')
  if (look.colour.from === 'travelled') wanted.add('travelled')
  if (look.colour.from === 'own') wanted.add('colour')
  if (look.draw === 'discs' || look.draw === 'instances') wanted.add('orientation')
  goals.forEach((goal, n) => {
    for (const name of goalColumns(n)) wanted.add(name)
    if (goal.pairing === 'uv') wanted.add('anchor').add('anchorAt')
  })
  for (const attribute of keep ?? []) wanted.add(attribute)
  for (const { when } of cues) {
    for (const name of CUES.find((k) => k.kind === when.kind)?.columns ?? []) wanted.add(name)
  }
  for (const { kind, muted, responses } of influences) {
    if (muted) continue
    for (const name of INFLUENCES.find((k) => k.kind === kind)?.columns ?? []) wanted.add(name)
    for (const { from } of responses ?? [])
      for (const name of RESPONSE_SOURCES[from]?.columns ?? []) wanted.add(name)
  }
  return (Object.keys(COLUMNS) as ColumnName[]).filter(
    (name) => !ON_DEMAND.includes(name) || wanted.has(name),
  )
}

/** What a take keeps of an attribute. */
const COLUMNS_OF: Record<Attribute, ColumnName[]> = {
  velocity: ['velocity'],
  radius: ['radius'],
  age: ['age', 'lifespan'],
  phase: ['phase'],
  travelled: ['travelled'],
  opacity: ['opacity'],
  colour: ['colour'],
  orientation: ['orientation'],
}
const COLOURED_BY: Record<ColourSource, Attribute> = {
  age: 'age',
  speed: 'velocity',
  travelled: 'travelled',
  own: 'colour',
}

/** The columns that takes and files keep of a population: ids, positions, what it says and what its look reads. */
export function keptColumns({ keep, look }: Population): ColumnName[] {
  const drawn: Attribute[] = look.draw === 'instances' ? ['radius', 'orientation'] : []
  const attributes = keep === null ? ATTRIBUTES : [...keep, COLOURED_BY[look.colour.from], ...drawn]
  return ['id', 'position', ...new Set(attributes.flatMap((one) => COLUMNS_OF[one]))]
}
