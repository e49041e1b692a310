import { InputBase, Typography } from '@mui/material'
import { INFLUENCES, type Influence } from '@tangle/core'
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
        <InputBase
          defaultValue={influence.name ?? kind.label}
          inputProps={{ 'aria-label': 'Name of the influence' }}
          onKeyDown={(event) => event.stopPropagation()}
          onBlur={(event) =>
            event.target.value.trim() &&
            event.target.value !== (influence.name ?? kind.label) &&
            act(set({ path: [...path, 'name'], value: event.target.value.trim().slice(0, 200) }))
          }
          sx={{ fontSize: 13, width: '100%' }}
        />
      </Section>
      <Section title="Source">
        <Typography sx={{ fontSize: 12, color: 'text.secondary' }}>{kind.source}</Typography>
      </Section>
    </Panel>
  )
}
