import { Box, Button, Typography } from '@mui/material'
import {
  completeInstances,
  completeTrail,
  DRAWN,
  KEEPABLE,
  TRAIL,
  type Look,
  type Population,
} from '@tangle/core'
import { Choices, Row } from '../fields/Choices.tsx'
import { ParameterForm } from '../fields/ParameterForm.tsx'
import { useAct, useShot } from '../store/index.ts'
import { set, type Path } from '../store/shot.ts'
import { ColourLook } from './ColourLook.tsx'
import { InstancesLook } from './InstancesLook.tsx'
import { Empty, Panel, Section } from './Panel.tsx'
import { PopulationTabs } from './PopulationTabs.tsx'
import { StageLook } from './StageLook.tsx'
import { usePopulation } from './usePopulation.ts'

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
  const drawAs = (draw: Look['draw']): void => {
    // who is drawn as instances needs a mesh to begin with
    const mesh = shot.meshes.at(-1)
    const first = mesh && completeInstances({ set: [{ mesh: mesh.id, weight: 1 }] })
    const instances = look.instances ?? (draw === 'instances' ? (first ?? null) : null)
    const drawn = draw === 'instances' && !instances ? look.draw : draw
    act(set({ path, value: { ...look, instances, draw: drawn } }))
  }
  return (
    <>
      <Row label="Draw as">
        <Choices
          name="Draw as"
          value={look.draw}
          options={Object.fromEntries(DRAWN.map((one) => [one, one]))}
          onChange={(next) => drawAs(next as Look['draw'])}
        />
      </Row>
      {look.draw === 'instances' && look.instances && (
        <InstancesLook instances={look.instances} path={[...path, 'instances']} />
      )}
      <ColourLook population={population} path={[...path, 'colour']} />
      <Kept population={population} path={[...path.slice(0, -1), 'keep']} />
    </>
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
