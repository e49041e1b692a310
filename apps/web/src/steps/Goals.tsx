import DeleteOutlined from '@mui/icons-material/DeleteOutlined'
import { Button, IconButton, Typography } from '@mui/material'
import { GOALS, MOST_GOALS, type Goal, type Population } from '@tangle/core'
import type { PackedPopulation } from '@tangle/runtime/browser'
import { useEngineSlowly } from '../engine/useEngine.ts'
import { KindMenu } from '../fields/KindMenu.tsx'
import { NameField } from '../fields/NameField.tsx'
import { ParameterForm } from '../fields/ParameterForm.tsx'
import { useAct, useShot, useStore } from '../store/index.ts'
import { selected } from '../store/session.ts'
import { goalRemoved, inserted, set } from '../store/shot.ts'
import { GoalLinesButton } from '../score/CueLine.tsx'
import { makeMorph } from './morph.ts'
import { Empty, Entry, Panel, Section } from './Panel.tsx'
import { newGoal } from './populations.ts'

const kindOf = (goal: Goal) => GOALS.find((one) => one.kind === goal.kind)!

interface OfPopulation {
  population: Population
  index: number
}

/** The goals of a population: where its particles want to go, and who goes where. */
export function Goals({ population, index }: OfPopulation) {
  const act = useAct()
  const chosen = useStore((state) => state.session.selected.goal)
  const { goals, name } = population
  const goal = goals.find((one) => one.id === chosen) ?? goals[0]
  return (
    <Panel
      title={`Goals of ${name}`}
      glyph="◎"
      help="Places that particles want to go to. Seek, Arrive, Settle and Blend lead there."
    >
      {goals.map((one) => (
        <GoalEntry key={one.id} goal={one} index={index} chosen={one === goal} />
      ))}
      {goals.length === 0 && (
        <Empty text="Nowhere to go yet. A goal is a set of places: on a mesh, in it, on given points, or on other particles." />
      )}
      <AddGoal population={population} index={index} />
      {goal && <GoalForm population={population} index={index} goal={goal} />}
      <Button onClick={() => act(selected({ goal: null }))} sx={{ mt: 1 }}>
        Back to the influences
      </Button>
    </Panel>
  )
}

function GoalEntry({ goal, index, chosen }: { goal: Goal; index: number; chosen: boolean }) {
  const act = useAct()
  const { meshes, populations } = useShot()
  const { glyph, label } = kindOf(goal)
  const to = meshes.find(({ id }) => id === goal.mesh) ?? populations.find(({ id }) => id === goal.population)
  return (
    <Entry
      glyph={glyph}
      name={goal.name}
      note={`${label.toLowerCase()}${to?.name === goal.name ? '' : ` of ${to?.name ?? ''}`}`}
      selected={chosen}
      onSelect={() => act(selected({ goal: goal.id }))}
    >
      <IconButton
        size="small"
        aria-label={`Remove the goal ${goal.name}`}
        onClick={() => act(goalRemoved({ index, goal: goal.id }))}
      >
        <DeleteOutlined sx={{ fontSize: 16 }} />
      </IconButton>
    </Entry>
  )
}

function AddGoal({ population, index }: OfPopulation) {
  const act = useAct()
  const missing = (kind: string): string | null =>
    newGoal(population, kind) ? null : kind === 'population' ? 'needs another population' : 'needs a mesh'
  const add = (kind: string): void => {
    const made = newGoal(population, kind)
    if (!made) return
    act(inserted({ path: ['populations', index, 'goals'], value: made }))
    act(selected({ goal: made.id }))
  }
  const full = population.goals.length >= MOST_GOALS
  return <KindMenu label="+ Goal" kinds={GOALS} disabled={full} missing={missing} onChoose={add} />
}

function GoalForm({ population, index, goal }: OfPopulation & { goal: Goal }) {
  const act = useAct()
  const { label, parameters } = kindOf(goal)
  const path = ['populations', index, 'goals', population.goals.indexOf(goal)]
  return (
    <>
      <GoalLinesButton />
      <Section title={label}>
        <NameField
          label="Name of the goal"
          value={goal.name}
          onChange={(name) => act(set({ path: [...path, 'name'], value: name }))}
        />
        <ParameterForm parameters={parameters} values={goal} path={path} />
        <MeanWay population={population.id} goal={goal.id} />
      </Section>
      <Section title="Make them go there">
        <Button variant="outlined" onClick={() => makeMorph(population, index, goal)}>
          Morph into it
        </Button>
      </Section>
    </>
  )
}

/** How far they are from their places now, to compare pairings by. */
function MeanWay({ population, goal }: { population: string; goal: string }) {
  const way = useEngineSlowly((e) =>
    meanWay(
      e.populations().find((one) => one.id === population),
      goal,
    ),
  )
  if (way === null) return null
  return (
    <Typography data-testid="mean-way" sx={{ fontSize: 12.5, color: 'text.secondary' }}>
      {Number(way.toPrecision(3))} m from their places on average, at this frame
    </Typography>
  )
}

/** Over the sample that the stage has, metres; null where nobody has a place. */
function meanWay(population: PackedPopulation | undefined, goal: string): number | null {
  const sample = population?.goals.find((one) => one.goal === goal)
  if (!population || !sample || sample.ids.length === 0) return null
  const { ids, positions } = population
  let [sum, i] = [0, 0]
  sample.ids.forEach((id, k) => {
    // both are in rising order
    while (ids[i]! < id) i++
    sum += Math.hypot(...[0, 1, 2].map((axis) => sample.places[k * 3 + axis]! - positions[i * 3 + axis]!))
  })
  return sum / sample.ids.length
}
