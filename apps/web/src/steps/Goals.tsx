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

/** The goals of a population: where its particles want to go, and who goes where. */
export function Goals({ population, index }: { population: Population; index: number }) {
  const act = useAct()
  const shot = useShot()
  const chosen = useStore((state) => state.session.selected.goal)
  const goal = population.goals.find((one) => one.id === chosen) ?? population.goals[0]
  const at = goal ? population.goals.indexOf(goal) : -1
  const missing = (kind: string): string | null =>
    newGoal(population, kind) ? null : kind === 'population' ? 'needs another population' : 'needs a mesh'
  const add = (kind: string): void => {
    const made = newGoal(population, kind)
    if (!made) return
    act(inserted({ path: ['populations', index, 'goals'], value: made }))
    act(selected({ goal: made.id }))
  }
  const onTo = (one: Goal): string =>
    shot.meshes.find((mesh) => mesh.id === one.mesh)?.name ??
    shot.populations.find((other) => other.id === one.population)?.name ??
    ''
  return (
    <Panel
      title={`Goals of ${population.name}`}
      glyph="◎"
      help="Places that particles want to go to. Seek, Arrive, Settle and Blend lead there."
    >
      {population.goals.map((one) => (
        <Entry
          key={one.id}
          glyph={kindOf(one).glyph}
          name={one.name}
          note={`${kindOf(one).label.toLowerCase()}${onTo(one) === one.name ? '' : ` of ${onTo(one)}`}`}
          selected={one === goal}
          onSelect={() => act(selected({ goal: one.id }))}
        >
          <IconButton
            size="small"
            aria-label={`Remove the goal ${one.name}`}
            onClick={() => act(goalRemoved({ index, goal: one.id }))}
          >
            <DeleteOutlined sx={{ fontSize: 16 }} />
          </IconButton>
        </Entry>
      ))}
      {population.goals.length === 0 && (
        <Empty text="Nowhere to go yet. A goal is a set of places: on a mesh, in it, on given points, or on other particles." />
      )}
      <KindMenu
        label="+ Goal"
        kinds={GOALS}
        disabled={population.goals.length >= MOST_GOALS}
        missing={missing}
        onChoose={add}
      />
      {goal && (
        <>
          <GoalLinesButton />
          <Section title={kindOf(goal).label}>
            <NameField
              label="Name of the goal"
              value={goal.name}
              onChange={(name) =>
                act(set({ path: ['populations', index, 'goals', at, 'name'], value: name }))
              }
            />
            <ParameterForm
              parameters={kindOf(goal).parameters}
              values={goal}
              path={['populations', index, 'goals', at]}
            />
            <MeanWay population={population.id} goal={goal.id} />
          </Section>
          <Section title="Make them go there">
            <Button variant="outlined" onClick={() => makeMorph(population, index, goal)}>
              Morph into it
            </Button>
          </Section>
        </>
      )}
      <Button onClick={() => act(selected({ goal: null }))} sx={{ mt: 1 }}>
        Back to the influences
      </Button>
    </Panel>
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
