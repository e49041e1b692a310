import { Box, Button, ButtonBase, Tooltip, Typography } from '@mui/material'
import { CUES, DIES, INFLUENCES, type Cue, type Population } from '@tangle/core'
import { memo } from 'react'
import { shallowEqual } from 'react-redux'
import { engine } from '../engine/engine.ts'
import { useEngineSlowly } from '../engine/useEngine.ts'
import { KindMenu } from '../fields/KindMenu.tsx'
import { addCue, addInfluence, addPhase, missingForInfluence } from '../steps/populations.ts'
import { nameIn } from '../steps/usePopulation.ts'
import { store, useAct, useShot, useStore } from '../store/index.ts'
import { selected, shownAs } from '../store/session.ts'
import { set } from '../store/shot.ts'
import { MONO } from '../theme.ts'
import { PhasePill } from './PhasePill.tsx'

const FAMILY_NAMES: Record<string, string> = {
  forces: 'Forces',
  steering: 'Steering',
  goals: 'Goals',
  constraints: 'Constraints',
  contact: 'Contact',
  change: 'Changes',
}
/** Influences, family by family in the order of the registry. */
const BY_FAMILY = Object.entries(FAMILY_NAMES).flatMap(([family, name]) =>
  INFLUENCES.filter((kind) => kind.family === family).map((kind) => ({ ...kind, family: name })),
)

interface OfPopulation {
  population: Population
  index: number
}

/** What of a population the line shows: another edit leaves it as it is. */
const same = (a: OfPopulation, b: OfPopulation): boolean =>
  a.index === b.index &&
  a.population.id === b.population.id &&
  a.population.phases === b.population.phases &&
  a.population.cues === b.population.cues &&
  a.population.goals === b.population.goals &&
  a.population.attributes === b.population.attributes &&
  a.population.particle === b.population.particle

/** The phases in order with how many are in each now, and between them the cues that move particles on. */
export const CueLine = memo(function CueLine({ population, index }: OfPopulation) {
  const measures = useEngineSlowly((e) => e.measures()?.populations.find((p) => p.id === population.id))
  return (
    <Box
      sx={{
        display: 'flex',
        alignItems: 'center',
        gap: 1,
        height: 36,
        flexShrink: 0,
        px: 1.5,
        borderBottom: 1,
        borderColor: 'divider',
      }}
    >
      <PopulationTabs chosen={population.id} />
      <Box
        role="group"
        aria-label="Cue line"
        sx={{
          display: 'flex',
          alignItems: 'center',
          gap: 0.75,
          minWidth: 0,
          overflowX: 'auto',
          scrollbarWidth: 'thin',
        }}
      >
        {population.phases.map((phase, i) => (
          <Box key={phase} sx={{ display: 'flex', alignItems: 'center', gap: 0.75, flexShrink: 0 }}>
            <PhasePill
              phases={population.phases}
              index={index}
              place={i}
              alive={measures?.phases[phase] ?? 0}
              onCue={(kind) => addCue(population, index, phase, kind)}
            />
            {population.cues
              .filter((cue) => cue.from === phase)
              .map((cue) => (
                <CueChip key={cue.id} population={population} cue={cue} next={population.phases[i + 1]} />
              ))}
          </Box>
        ))}
        <Typography sx={{ fontSize: 12.5, color: 'text.secondary', flexShrink: 0 }}>
          {population.particle.lifespan === null ? '' : '— end of life ⟶ gone'}
        </Typography>
      </Box>
      <Button onClick={() => addPhase(population, index)} sx={{ flexShrink: 0 }}>
        + Phase
      </Button>
      <Box sx={{ flex: 1 }} />
      <GoalsButton population={population} />
      <PhaseColours />
      <Share />
      <AddInfluence index={index} />
    </Box>
  )
}, same)

/** All populations, where there are several. */
function PopulationTabs({ chosen }: { chosen: string }) {
  const act = useAct()
  const names = useStore(
    (state) => Object.fromEntries(state.shot.present.populations.map(({ id, name }) => [id, name])),
    shallowEqual,
  )
  const all = Object.entries(names)
  if (all.length < 2) return null
  return all.map(([id, name]) => (
    <Button
      key={id}
      color={id === chosen ? 'primary' : 'inherit'}
      onClick={() => act(selected({ population: id, influence: null, cue: null }))}
      sx={{ flexShrink: 0 }}
    >
      {name}
    </Button>
  ))
}

function AddInfluence({ index }: { index: number }) {
  const phase = useStore(({ session, shot }) =>
    shot.present.populations[index]?.phases.find((one) => one === session.selected.phase),
  )
  // read when it is asked for: the menu does not follow the shot
  const population = () => store.getState().shot.present.populations[index]!
  return (
    <KindMenu
      label="+ Influence"
      variant="outlined"
      kinds={BY_FAMILY}
      note={
        phase === undefined
          ? 'Acts in all phases; a click on the name of a phase in the score chooses one'
          : `Acts in ${phase}`
      }
      missing={(kind) => missingForInfluence(kind, population(), store.getState().shot.present)}
      onChoose={(kind) => addInfluence(population(), index, kind)}
    />
  )
}

/** A cue in words, on its arrow; where it leads is named unless that is the next phase. */
function CueChip({ population, cue, next }: { population: Population; cue: Cue; next: string | undefined }) {
  const act = useAct()
  const shot = useShot()
  const chosen = useStore((state) => state.session.selected.cue === cue.id)
  const kind = CUES.find((one) => one.kind === cue.when.kind)!
  const words = `${cue.chance < 1 ? `${Math.round(cue.chance * 100)} % ` : ''}${kind.words(cue.when, nameIn(shot, population))}`
  return (
    <ButtonBase
      aria-pressed={chosen}
      onClick={() => act(selected({ cue: chosen ? null : cue.id }))}
      sx={{
        fontSize: 12.5,
        height: 26,
        px: 0.75,
        borderRadius: 1,
        color: chosen ? 'primary.main' : 'text.secondary',
        border: 1,
        borderColor: chosen ? 'primary.main' : 'transparent',
        '&:hover': { borderColor: 'divider' },
      }}
    >
      — {words} ⟶{cue.to === next ? '' : ` ${cue.to === DIES ? 'dies' : cue.to}`}
    </ButtonBase>
  )
}

interface ToggleProps {
  label: string
  on: boolean
  onToggle(): void
}
function Toggle({ label, on, onToggle }: ToggleProps) {
  return (
    <Button aria-pressed={on} color={on ? 'primary' : 'inherit'} onClick={onToggle} sx={{ flexShrink: 0 }}>
      {label}
    </Button>
  )
}

/** Opens the goals of the population beside the stage. */
function GoalsButton({ population: { goals } }: { population: Population }) {
  const act = useAct()
  const open = useStore((state) => state.session.selected.goal !== null)
  const toggle = (): void => void act(selected({ goal: open ? null : (goals[0]?.id ?? ''), cue: null }))
  return <Toggle label={`Goals · ${goals.length}`} on={open} onToggle={toggle} />
}

function PhaseColours() {
  const act = useAct()
  const on = useStore((state) => state.session.phaseColours)
  return <Toggle label="Phase colours" on={on} onToggle={() => act(shownAs({ phaseColours: !on }))} />
}

/** Lines from particles to their goals. */
export function GoalLinesButton() {
  const act = useAct()
  const on = useStore((state) => state.session.goalLines)
  return <Toggle label="Show where they go" on={on} onToggle={() => act(shownAs({ goalLines: !on }))} />
}

function Share() {
  const act = useAct()
  const share = useStore((state) => state.shot.present.quality.previewShare)
  return (
    <Tooltip title="Part of the particles that the preview computes; takes compute all">
      <Box role="group" aria-label="Share" sx={{ display: 'flex', alignItems: 'center', flexShrink: 0 }}>
        <Typography component="span" sx={{ fontSize: 12.5, color: 'text.secondary', mr: 0.5 }}>
          Share
        </Typography>
        {[1, 0.3, 0.1].map((part) => (
          <Button
            key={part}
            color={part === share ? 'primary' : 'inherit'}
            aria-pressed={part === share}
            onClick={() => {
              engine.pause()
              act(set({ path: ['quality', 'previewShare'], value: part }))
            }}
            sx={{ px: 0.5, fontFamily: MONO, fontSize: 12 }}
          >
            {Math.round(part * 100)} %
          </Button>
        ))}
      </Box>
    </Tooltip>
  )
}
