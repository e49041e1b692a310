import { Typography } from '@mui/material'
import { INFLUENCES, type Influence } from '@tangle/core'
import { NameField } from '../fields/NameField.tsx'
import { ParameterForm } from '../fields/ParameterForm.tsx'
import { useAct } from '../store/index.ts'
import { set, type Path } from '../store/shot.ts'
import { Empty, Panel, Section } from './Panel.tsx'
import { useInfluence, usePopulation } from './usePopulation.ts'

/** The details of the influence that is selected in the score. */
export function MotionStep() {
  const { population, index } = usePopulation()
  const influence = useInfluence(population)
  if (!population || !influence) {
    return (
      <Panel title="Motion" help="What acts on the particles, each a row of the score below.">
        <Empty
          text={
            population
              ? 'Nothing acts yet. Add an influence with the button at the right of the cue line.'
              : 'Particles come first: add a population in the Births step.'
          }
        />
      </Panel>
    )
  }
  return (
    <InfluenceDetails
      key={influence.id}
      influence={influence}
      path={['populations', index, 'influences', population.influences.indexOf(influence)]}
    />
  )
}

function InfluenceDetails({ influence, path }: { influence: Influence; path: Path }) {
  const act = useAct()
  const kind = INFLUENCES.find((one) => one.kind === influence.kind)!
  return (
    <Panel title={influence.name ?? kind.label} glyph={kind.glyph} help={kind.help}>
      <ParameterForm parameters={kind.parameters} values={influence} path={path} />
      <Section title="Name">
        <NameField
          label="Name of the influence"
          value={influence.name ?? kind.label}
          onChange={(value) => act(set({ path: [...path, 'name'], value }))}
          sx={{ width: '100%', fontWeight: 400 }}
        />
      </Section>
      <Section title="Source">
        <Typography sx={{ fontSize: 12, color: 'text.secondary' }}>{kind.source}</Typography>
      </Section>
    </Panel>
  )
}
