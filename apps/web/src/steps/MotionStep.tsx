import { Box, Button, Typography } from '@mui/material'
import {
  gripFor,
  gripOf,
  INFLUENCES,
  influenceInWords,
  type Influence,
  type NumberParameter,
} from '@tangle/core'
import { HelpButton } from '../help/HelpCard.tsx'
import { NameField } from '../fields/NameField.tsx'
import { ParameterForm, populationOf } from '../fields/ParameterForm.tsx'
import { Responses } from '../fields/Responses.tsx'
import { useAct, useShot, useStore } from '../store/index.ts'
import { selected } from '../store/session.ts'
import { set, type Path } from '../store/shot.ts'
import { CueDetails } from './CueDetails.tsx'
import { Goals } from './Goals.tsx'
import { Empty, Panel, RecipesButton, Section } from './Panel.tsx'
import { nameIn, useInfluence, usePopulation } from './usePopulation.ts'

/** Details of what is selected in the score: a cue or an influence. */
export function MotionStep() {
  const { population, index } = usePopulation()
  const influence = useInfluence(population)
  const goalId = useStore((state) => state.session.selected.goal)
  const cueId = useStore((state) => state.session.selected.cue)
  const cue = population?.cues.find((one) => one.id === cueId)
  if (population && cue) return <CueDetails key={cue.id} cue={cue} population={population} index={index} />
  if (population && goalId !== null) return <Goals population={population} index={index} />
  if (!population || !influence) {
    return (
      <Panel title="Motion" help="What acts on particles: every influence is a row of the score below.">
        <Empty
          text={
            population
              ? 'Nothing acts on these particles yet. Add gravity, wind or turbulence with “+ Influence” in the score.'
              : 'First give birth to some particles, in the Births step.'
          }
        >
          {!population && <RecipesButton />}
        </Empty>
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

/** What it does, to whom and when; and of what material it is. */
function InWords({ influence, path }: { influence: Influence; path: Path }) {
  const shot = useShot()
  const act = useAct()
  const population = populationOf(shot, path)
  if (!population) return null
  const grip = gripOf(population, influence)
  const { label } = grip?.material ?? { label: '' }
  const labels = INFLUENCES.find((one) => one.kind === influence.kind)!.parameters
  const own = grip?.own.map((name) => labels[name]!.label.toLowerCase()).join(', ')
  return (
    <Box sx={{ fontSize: 12.5, mb: 0.75 }}>
      <Box data-testid="in-words">{influenceInWords(influence, population, nameIn(shot, population))}</Box>
      {grip && (
        <Box sx={{ color: 'text.secondary' }}>
          {own
            ? `As of ${label.toLowerCase()}, but ${own} typed over.`
            : `Friction, stickiness and bounce as of ${label.toLowerCase()}.`}
          {own && (
            <Button
              onClick={() => act(set({ path, value: { ...influence, ...gripFor(population, influence) } }))}
            >
              All as of {label.toLowerCase()}
            </Button>
          )}
        </Box>
      )}
    </Box>
  )
}

function InfluenceDetails({ influence, path }: { influence: Influence; path: Path }) {
  const act = useAct()
  const kind = INFLUENCES.find((one) => one.kind === influence.kind)!
  const responsive = Object.entries(kind.parameters).filter(
    (entry): entry is [string, NumberParameter] => entry[1].type === 'number' && entry[1].responsive,
  )
  return (
    <Panel
      title={influence.name ?? kind.label}
      glyph={kind.glyph}
      help={kind.help}
      actions={<HelpButton sort="influence" kind={kind.kind} />}
    >
      <InWords influence={influence} path={path} />
      <ParameterForm
        parameters={kind.parameters}
        values={influence}
        path={path}
        helped={{ sort: 'influence', kind: kind.kind }}
      />
      {typeof influence.goal === 'string' && (
        <Button onClick={() => act(selected({ goal: influence.goal as string }))}>Edit the goal</Button>
      )}
      {responsive.length > 0 && (
        <Section title="Responses">
          <Responses
            parameters={responsive}
            responses={influence.responses ?? []}
            path={[...path, 'responses']}
          />
        </Section>
      )}
      <Section title="Name">
        <NameField
          label="Name of the influence"
          value={influence.name ?? kind.label}
          onChange={(value) => act(set({ path: [...path, 'name'], value }))}
          sx={{ width: '100%', fontWeight: 400 }}
        />
      </Section>
      {kind.source && (
        <Section title="Source">
          <Typography sx={{ fontSize: 12, color: 'text.secondary' }}>{kind.source}</Typography>
        </Section>
      )}
    </Panel>
  )
}
