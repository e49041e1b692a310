import { Box } from '@mui/material'
import { Choices } from '../fields/Choices.tsx'
import { useAct, useShot } from '../store/index.ts'
import { selected } from '../store/session.ts'
import { usePopulation } from './usePopulation.ts'

/** Which population is worked on, where there are several. */
export function PopulationTabs() {
  const act = useAct()
  const { populations } = useShot()
  const { population } = usePopulation()
  if (populations.length < 2 || !population) return null
  return (
    <Box sx={{ mb: 1 }}>
      <Choices
        name="Population"
        value={population.id}
        options={Object.fromEntries(populations.map((p) => [p.id, p.name]))}
        onChange={(id) => act(selected({ population: id, birth: null, influence: null }))}
      />
    </Box>
  )
}
