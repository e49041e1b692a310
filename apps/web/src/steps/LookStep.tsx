import {
  completeInstances,
  completeTrail,
  DRAWN,
  isLiquid,
  STREAK,
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
import { Kept } from './Kept.tsx'
import { LightLook } from './LightLooks.tsx'
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
      {population && (population.look.skin || isLiquid(population)) && (
        <LightLook sort="skin" look={population.look} path={['populations', index, 'look']} />
      )}
      {population ? (
        <PopulationLook population={population} path={['populations', index, 'look']} />
      ) : (
        <Empty text="Particles come first: add a population in the Births step." />
      )}
      {population && <TrailLook population={population} path={['populations', index, 'look', 'trail']} />}
      {population && <LightLook sort="glow" look={population.look} path={['populations', index, 'look']} />}
      {population && (
        <LightLook sort="threads" look={population.look} path={['populations', index, 'look']} />
      )}
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
          options={Object.fromEntries(DRAWN.map((one) => [one, one === 'soft' ? 'soft points' : one]))}
          onChange={(next) => drawAs(next as Look['draw'])}
        />
      </Row>
      {look.draw === 'streaks' && (
        <ParameterForm parameters={STREAK} values={{ shutter: look.shutter }} path={path} />
      )}
      {look.draw === 'instances' && look.instances && (
        <InstancesLook instances={look.instances} path={[...path, 'instances']} />
      )}
      <ColourLook population={population} path={[...path, 'colour']} />
      <Kept population={population} path={path.slice(0, -1)} />
    </>
  )
}
