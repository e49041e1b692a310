import { Box, Button, Typography } from '@mui/material'
import {
  BACKDROPS,
  completeInstances,
  completeTrail,
  DRAWN,
  KEEPABLE,
  TRAIL,
  type Look,
  type Population,
} from '@tangle/core'
import { NumberField, NumberInput } from '../fields/NumberField.tsx'
import { Choices, Row } from '../fields/Choices.tsx'
import { ParameterForm } from '../fields/ParameterForm.tsx'
import { RampField } from '../fields/RampField.tsx'
import { ReferenceField } from '../fields/ReferenceField.tsx'
import { stage } from '../stage/Stage.tsx'
import { useAct, useShot } from '../store/index.ts'
import { set, type Path } from '../store/shot.ts'
import { InstancesLook } from './InstancesLook.tsx'
import { Empty, Panel, Section } from './Panel.tsx'
import { PopulationTabs } from './PopulationTabs.tsx'
import { usePopulation } from './usePopulation.ts'

const UNITS: Record<Look['colour']['from'], string> = {
  age: '',
  speed: 'm/s',
  travelled: 'm',
  own: '',
  attribute: '',
}
/** A range that shows something at once when the source changes. */
const RANGES: Record<Look['colour']['from'], [number, number]> = {
  age: [0, 1],
  speed: [0, 5],
  travelled: [0, 3],
  own: [0, 1],
  attribute: [0, 1],
}

/** How particles are drawn and what they hand to a renderer; the backdrop and the light. */
export function LookStep() {
  const { population, index } = usePopulation()
  return (
    <Panel title="Look" help="How particles are drawn, and the colours they hand to a renderer.">
      <PopulationTabs />
      {population ? (
        <PopulationLook population={population} path={['populations', index, 'look']} />
      ) : (
        <Empty text="Particles come first: add a population in the Births step." />
      )}
      {population && <TrailLook population={population} path={['populations', index, 'look', 'trail']} />}
      <StageLook />
    </Panel>
  )
}

/** The line that each particle leaves behind. */
function TrailLook({ population, path }: { population: Population; path: Path }) {
  const act = useAct()
  const { trail } = population.look
  return (
    <Section
      title="Trail"
      action={
        <Choices
          name="Trail"
          value={trail ? 'on' : 'off'}
          options={{ off: 'none', on: 'a line' }}
          onChange={(next) => act(set({ path, value: next === 'on' ? completeTrail({}) : null }))}
        />
      }
    >
      {trail && (
        <ParameterForm parameters={TRAIL} values={trail as unknown as Record<string, unknown>} path={path} />
      )}
    </Section>
  )
}

function PopulationLook({ population, path }: { population: Population; path: Path }) {
  const act = useAct()
  const shot = useShot()
  const { look } = population
  const { colour } = look
  const chosen = population.attributes.find(
    ({ id }) => colour.from === 'attribute' && id === colour.attribute,
  )
  const unit = chosen?.unit ?? UNITS[colour.from]
  const change = (value: Partial<Look['colour']>, gesture?: string): void =>
    void act(
      set({
        path: [...path, 'colour'],
        value: { ...colour, ...value },
        ...(gesture ? { gesture: `${path.join('.')} ${gesture}` } : {}),
      }),
    )
  const drawnAs = (draw: Look['draw']) => {
    // who is drawn as instances needs a mesh to begin with
    const mesh = shot.meshes.at(-1)
    const first = mesh && completeInstances({ set: [{ mesh: mesh.id, weight: 1 }] })
    const instances = look.instances ?? (draw === 'instances' ? (first ?? null) : null)
    return set({
      path,
      value: { ...look, instances, draw: draw === 'instances' && !instances ? look.draw : draw },
    })
  }
  return (
    <>
      <Row label="Draw as">
        <Choices
          name="Draw as"
          value={look.draw}
          options={Object.fromEntries(DRAWN.map((one) => [one, one]))}
          onChange={(next) => act(drawnAs(next as Look['draw']))}
        />
      </Row>
      {look.draw === 'instances' && look.instances && (
        <InstancesLook instances={look.instances} path={[...path, 'instances']} />
      )}
      <Row label="Colour by" help="Age is the share of the lifespan; for endless lives it is seconds">
        <Choices
          name="Colour by"
          value={colour.from}
          options={{
            age: 'age',
            speed: 'speed',
            travelled: 'distance',
            own: 'own',
            ...(population.attributes.length > 0 ? { attribute: 'attribute' } : {}),
          }}
          onChange={(next) => change(colouredBy(next as Look['colour']['from'], population))}
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
        <Typography sx={{ fontSize: 12, color: 'text.secondary' }}>
          {chosen.name} is a colour: it is shown as it is.
        </Typography>
      ) : colour.from === 'own' ? (
        <OwnColours />
      ) : (
        <>
          <Row label="From – to">
            <Box sx={{ display: 'flex', alignItems: 'center', gap: 0.5 }}>
              <NumberInput
                name="Colour from"
                unit={unit}
                value={colour.range[0]}
                range={[-1e6, 1e6]}
                onChange={(low) => change({ range: [low, colour.range[1]] })}
              />
              –
              <NumberInput
                name="Colour to"
                unit={unit}
                value={colour.range[1]}
                range={[-1e6, 1e6]}
                onChange={(high) => change({ range: [colour.range[0], high] })}
              />
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
      )}
      <Kept population={population} path={[...path.slice(0, -1), 'keep']} />
    </>
  )
}

/** Another source of the colour, with a range that shows something at once. */
const colouredBy = (from: Look['colour']['from'], { attributes }: Population): Partial<Look['colour']> => ({
  from,
  range: RANGES[from],
  ...(from === 'attribute' && attributes[0] ? { attribute: attributes[0].id } : {}),
})

/** What colours by "own" needs. */
function OwnColours() {
  return (
    <Typography sx={{ fontSize: 12, color: 'text.secondary' }}>
      Colour influences in the Motion step give each particle its colour; without one they are white.
    </Typography>
  )
}

/** The attributes that takes and files keep. */
function Kept({ population, path }: { population: Population; path: Path }) {
  const act = useAct()
  const { keep, attributes } = population
  const all = [...KEEPABLE, ...attributes.map(({ id }) => id)]
  const kept = keep ?? all
  const nameOf = (one: string): string => attributes.find(({ id }) => id === one)?.name ?? one
  const toggle = (one: string): void => {
    const next = all.filter((attribute) => (attribute === one) !== kept.includes(attribute))
    act(set({ path, value: next.length === all.length ? null : next }))
  }
  return (
    <Section title="Takes keep">
      <Box
        role="group"
        aria-label="Attributes that takes keep"
        sx={{ display: 'flex', flexWrap: 'wrap', gap: 0.5 }}
      >
        {all.map((one) => (
          <Button
            key={one}
            aria-pressed={kept.includes(one)}
            onClick={() => toggle(one)}
            color={kept.includes(one) ? 'primary' : 'inherit'}
            variant="outlined"
            sx={{
              fontSize: 12,
              minHeight: 24,
              borderColor: 'divider',
              opacity: kept.includes(one) ? 1 : 0.6,
            }}
          >
            {nameOf(one)}
          </Button>
        ))}
      </Box>
      <Typography sx={{ fontSize: 12, color: 'text.secondary', mt: 0.5 }}>
        Beside ids and positions; what no rule makes is not there anyway. Fewer make smaller takes.
      </Typography>
    </Section>
  )
}

function StageLook() {
  const act = useAct()
  const { stage: now } = useShot()
  const light = (value: Partial<typeof now.light>, gesture?: string): void =>
    void act(
      set({
        path: ['stage', 'light'],
        value: { ...now.light, ...value },
        ...(gesture ? { gesture: `light ${gesture}` } : {}),
      }),
    )
  return (
    <>
      <Section title="Backdrop">
        <Choices
          name="Backdrop"
          value={now.backdrop}
          options={Object.fromEntries(Object.entries(BACKDROPS).map(([name, b]) => [name, b.label]))}
          onChange={(next) => act(set({ path: ['stage', 'backdrop'], value: next }))}
        />
      </Section>
      <Section title="Light">
        <NumberField
          label="Bearing"
          name="Light bearing"
          unit="°"
          help="From which side it comes"
          value={now.light.bearing}
          range={[-360, 360]}
          usual={[-180, 180]}
          step={1}
          onChange={(bearing, gesture) => light({ bearing }, gesture)}
        />
        <NumberField
          label="Height"
          name="Light height"
          unit="°"
          help="Above the horizon"
          value={now.light.height}
          range={[-90, 90]}
          usual={[-10, 90]}
          step={1}
          onChange={(height, gesture) => light({ height }, gesture)}
        />
        <NumberField
          label="Strength"
          name="Light strength"
          unit="×"
          value={now.light.strength}
          range={[0, 100]}
          usual={[0, 3]}
          step={0.05}
          onChange={(strength, gesture) => light({ strength }, gesture)}
        />
      </Section>
      <Section title="Camera">
        <Button
          variant="outlined"
          color="inherit"
          onClick={() =>
            stage.world && act(set({ path: ['stage', 'camera'], value: stage.world.cameraNow() }))
          }
          sx={{ borderColor: 'divider' }}
        >
          Keep this view
        </Button>
        <Typography sx={{ fontSize: 12, color: 'text.secondary', mt: 0.5 }}>
          The shot opens with the view that is kept.
        </Typography>
      </Section>
    </>
  )
}
