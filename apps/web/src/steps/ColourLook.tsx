import { Box, Typography } from '@mui/material'
import { attributesOf, TOLD, type Look, type OwnAttribute, type Population } from '@tangle/core'
import { Choices, Row } from '../fields/Choices.tsx'
import { NumberInput } from '../fields/NumberField.tsx'
import { RampField } from '../fields/RampField.tsx'
import { ReferenceField } from '../fields/ReferenceField.tsx'
import { useChange } from '../store/index.ts'
import type { Path } from '../store/shot.ts'
import { Section } from './Panel.tsx'

type Colour = Look['colour']

const UNITS: Record<Colour['from'], string> = {
  age: '',
  speed: 'm/s',
  travelled: 'm',
  temperature: '°C',
  pressure: 'Pa',
  compression: '',
  stress: '',
  own: '',
  attribute: '',
}
/** A range that shows something at once when the source changes. */
const RANGES: Record<Colour['from'], [number, number]> = {
  age: [0, 1],
  speed: [0, 5],
  travelled: [0, 3],
  temperature: [20, 100],
  pressure: [0, 5000],
  compression: [-0.05, 0.05],
  stress: [0, 1],
  own: [0, 1],
  attribute: [0, 1],
}

/** What colours the particles of a population. */
export function ColourLook({ population, path }: { population: Population; path: Path }) {
  const put = useChange()
  const { colour } = population.look
  const chosen = population.attributes.find(
    ({ id }) => colour.from === 'attribute' && id === colour.attribute,
  )
  const { builtIn } = attributesOf(population)
  const told = TOLD.filter((name) => builtIn.includes(name))
  const change = (value: Partial<Colour>, gesture?: string): void =>
    put(path, { ...colour, ...value }, gesture)
  return (
    <>
      <Row label="Colour by" help="Age is the share of the lifespan; for endless lives it is seconds">
        <Choices
          name="Colour by"
          value={colour.from}
          options={{
            age: 'age',
            speed: 'speed',
            travelled: 'distance',
            ...Object.fromEntries(told.map((name) => [name, name])),
            own: 'by the Colour influence',
            ...(population.attributes.length > 0 ? { attribute: 'attribute' } : {}),
          }}
          onChange={(next) => change(colouredBy(next as Colour['from'], population))}
        />
      </Row>
      {colour.from === 'attribute' && (
        <ReferenceField
          label="Attribute"
          to="attribute"
          value={colour.attribute}
          attributes={population.attributes}
          onChange={(attribute) => attribute && change({ attribute })}
        />
      )}
      {chosen?.type === 'colour' ? (
        <Said text={`${chosen.name} is a colour: it is shown as it is.`} />
      ) : colour.from === 'own' ? (
        <Said
          text={`Colour influences in the Motion step give each particle its colour; without one they are ${['pieces', 'instances'].includes(population.look.draw) ? 'as their mesh' : 'white'}.`}
        />
      ) : (
        <OnRamp colour={colour} chosen={chosen} change={change} />
      )}
    </>
  )
}

/** Another source of the colour, with a range that shows something at once. */
const colouredBy = (from: Colour['from'], { attributes }: Population): Partial<Colour> => ({
  from,
  range: RANGES[from],
  ...(from === 'attribute' && attributes[0] ? { attribute: attributes[0].id } : {}),
})

function Said({ text }: { text: string }) {
  return <Typography sx={{ fontSize: 12, color: 'text.secondary' }}>{text}</Typography>
}

interface OnRampProps {
  colour: Colour
  chosen: OwnAttribute | undefined
  change(value: Partial<Colour>, gesture?: string): void
}

/** Where the ramp begins and ends, and the ramp. */
function OnRamp({ colour, chosen, change }: OnRampProps) {
  const [low, high] = colour.range
  const unit = chosen?.unit ?? UNITS[colour.from]
  const input = (name: string, value: number, onChange: (next: number) => void) => (
    <NumberInput name={name} unit={unit} value={value} range={[-1e6, 1e6]} onChange={onChange} />
  )
  return (
    <>
      <Row label="From – to">
        <Box sx={{ display: 'flex', alignItems: 'center', gap: 0.5 }}>
          {input('Colour from', low, (next) => change({ range: [next, high] }))}–
          {input('Colour to', high, (next) => change({ range: [low, next] }))}
        </Box>
      </Row>
      <Section title="Colour ramp">
        <RampField
          name="Colour ramp"
          value={colour.ramp}
          onChange={(ramp, gesture) => change({ ramp }, gesture)}
        />
      </Section>
    </>
  )
}
