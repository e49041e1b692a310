import { Box, Button, ButtonBase, Typography } from '@mui/material'
import { BACKDROPS, RAMPS, type Look } from '@tangle/core'
import { NumberField, NumberInput } from '../fields/NumberField.tsx'
import { Choices, Row } from '../fields/Choices.tsx'
import { stage } from '../stage/Stage.tsx'
import { useAct, useShot } from '../store/index.ts'
import { set, type Path } from '../store/shot.ts'
import { Empty, Panel, Section } from './Panel.tsx'
import { PopulationTabs } from './PopulationTabs.tsx'
import { usePopulation } from './usePopulation.ts'

const UNITS: Record<Look['colour']['from'], string> = { age: '', speed: 'm/s', travelled: 'm' }
/** A range that shows something at once when the source changes. */
const RANGES: Record<Look['colour']['from'], [number, number]> = {
  age: [0, 1],
  speed: [0, 5],
  travelled: [0, 3],
}

/** How particles are drawn and what they hand to a renderer; the backdrop and the light. */
export function LookStep() {
  const { population, index } = usePopulation()
  return (
    <Panel title="Look" help="How particles are drawn, and the colours they hand to a renderer.">
      <PopulationTabs />
      {population ? (
        <PopulationLook look={population.look} path={['populations', index, 'look']} />
      ) : (
        <Empty text="Particles come first: add a population in the Births step." />
      )}
      <StageLook />
    </Panel>
  )
}

function PopulationLook({ look, path }: { look: Look; path: Path }) {
  const act = useAct()
  const { colour } = look
  const change = (value: Partial<Look['colour']>): void =>
    void act(set({ path: [...path, 'colour'], value: { ...colour, ...value } }))
  return (
    <>
      <Row label="Draw as">
        <Choices
          name="Draw as"
          value={look.draw}
          options={{ points: 'points', spheres: 'spheres' }}
          onChange={(next) => act(set({ path: [...path, 'draw'], value: next }))}
        />
      </Row>
      <Row label="Colour by" help="Age is the share of the lifespan; for endless lives it is seconds">
        <Choices
          name="Colour by"
          value={colour.from}
          options={{ age: 'age', speed: 'speed', travelled: 'distance' }}
          onChange={(next) =>
            change({ from: next as Look['colour']['from'], range: RANGES[next as Look['colour']['from']] })
          }
        />
      </Row>
      <Row label="From – to">
        <Box sx={{ display: 'flex', alignItems: 'center', gap: 0.5 }}>
          <NumberInput
            name="Colour from"
            unit={UNITS[colour.from]}
            value={colour.range[0]}
            range={[-1e6, 1e6]}
            onChange={(low) => change({ range: [low, colour.range[1]] })}
          />
          –
          <NumberInput
            name="Colour to"
            unit={UNITS[colour.from]}
            value={colour.range[1]}
            range={[-1e6, 1e6]}
            onChange={(high) => change({ range: [colour.range[0], high] })}
          />
        </Box>
      </Row>
      <Section title="Colour ramp">
        {Object.entries(RAMPS).map(([name, ramp]) => (
          <ButtonBase
            key={name}
            aria-pressed={name === colour.ramp}
            onClick={() => change({ ramp: name })}
            sx={{
              display: 'grid',
              gridTemplateColumns: '84px 1fr',
              width: '100%',
              gap: 1,
              height: 26,
              textAlign: 'left',
            }}
          >
            <Typography sx={{ fontSize: 13, color: name === colour.ramp ? 'primary.main' : 'text.primary' }}>
              {ramp.label}
            </Typography>
            <Box
              sx={{
                height: 14,
                borderRadius: 0.5,
                outline: name === colour.ramp ? '2px solid' : 'none',
                outlineColor: 'primary.main',
                background: `linear-gradient(90deg, ${ramp.stops.map(([at, hex]) => `${hex} ${at * 100}%`).join()})`,
              }}
            />
          </ButtonBase>
        ))}
      </Section>
    </>
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
