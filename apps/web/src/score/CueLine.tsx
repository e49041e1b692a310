import { Box, Button, ButtonBase, Divider, Menu, MenuItem, Tooltip, Typography } from '@mui/material'
import { CUES, DIES, INFLUENCES, type Cue, type Population } from '@tangle/core'
import { memo, useState } from 'react'
import { shallowEqual } from 'react-redux'
import { useTheme } from '@mui/material/styles'
import { engine } from '../engine/engine.ts'
import { useEngineSlowly } from '../engine/useEngine.ts'
import { KindMenu } from '../fields/KindMenu.tsx'
import { NameField } from '../fields/NameField.tsx'
import { addCue, addInfluence, addPhase, missingForInfluence } from '../steps/populations.ts'
import { store, useAct, useStore } from '../store/index.ts'
import { selected, shownAs } from '../store/session.ts'
import { moved, phaseRemoved, phaseRenamed, set } from '../store/shot.ts'
import { MONO } from '../theme.ts'
import { count } from '../words.ts'

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
          flex: 1,
          minWidth: 0,
          overflowX: 'auto',
          scrollbarWidth: 'thin',
        }}
      >
        {population.phases.map((phase, i) => (
          <Box key={phase} sx={{ display: 'flex', alignItems: 'center', gap: 0.75, flexShrink: 0 }}>
            <PhasePill
              population={population}
              index={index}
              phase={phase}
              place={i}
              alive={measures?.phases[phase] ?? 0}
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
        <Button onClick={() => addPhase(population, index)} sx={{ flexShrink: 0 }}>
          + Phase
        </Button>
      </Box>
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
  // read when it is asked for: the menu does not follow the shot
  const population = () => store.getState().shot.present.populations[index]!
  return (
    <KindMenu
      label="+ Influence"
      variant="outlined"
      kinds={BY_FAMILY}
      missing={(kind) => missingForInfluence(kind, population(), store.getState().shot.present)}
      onChoose={(kind) => addInfluence(population(), index, kind)}
    />
  )
}

function PhasePill({
  population,
  index,
  phase,
  place,
  alive,
}: OfPopulation & { phase: string; place: number; alive: number }) {
  const act = useAct()
  const { palette } = useTheme()
  const byPhase = useStore((state) => state.session.phaseColours)
  const [anchor, setAnchor] = useState<HTMLElement | null>(null)
  const [naming, setNaming] = useState(false)
  const others = population.phases.filter((one) => one !== phase)
  const run = (what: () => void) => () => {
    setAnchor(null)
    what()
  }
  const rename = (to: string): void => {
    setNaming(false)
    if (others.includes(to) || to === DIES || to.length > 40) return
    act(phaseRenamed({ index, from: phase, to }))
  }
  return (
    <>
      <ButtonBase
        aria-label={`Phase ${phase}: ${alive} particles`}
        onClick={(event) => setAnchor(event.currentTarget)}
        onDoubleClick={() => setNaming(true)}
        sx={{
          border: 1,
          borderColor: 'divider',
          bgcolor: 'background.raised',
          borderRadius: 3,
          px: 1.25,
          height: 26,
          gap: 1,
        }}
      >
        {byPhase && <Box sx={{ width: 8, height: 8, borderRadius: 4, bgcolor: palette.phases[place % 8] }} />}
        {naming ? (
          <NameField label="Name of the phase" value={phase} onChange={rename} sx={{ width: 90 }} />
        ) : (
          <Typography sx={{ fontSize: 13, fontWeight: 600 }}>{phase}</Typography>
        )}
        <Typography sx={{ fontFamily: MONO, fontSize: 12, color: 'text.secondary' }}>
          {count(alive)}
        </Typography>
      </ButtonBase>
      <Menu open={anchor !== null} anchorEl={anchor} onClose={() => setAnchor(null)}>
        <MenuItem disabled sx={{ fontSize: 12 }}>
          Cue from {phase}…
        </MenuItem>
        {CUES.map((kind) => (
          <MenuItem key={kind.kind} onClick={run(() => addCue(population, index, phase, kind.kind))}>
            <Box component="span" aria-hidden sx={{ width: 24 }}>
              {kind.glyph}
            </Box>
            {kind.label}
          </MenuItem>
        ))}
        <Divider />
        <MenuItem onClick={run(() => setNaming(true))}>Rename {phase}</MenuItem>
        <MenuItem
          disabled={place === 0}
          onClick={run(() =>
            act(moved({ path: ['populations', index, 'phases'], from: place, to: place - 1 })),
          )}
        >
          Move to the left
        </MenuItem>
        <MenuItem disabled={others.length === 0} onClick={run(() => act(phaseRemoved({ index, phase })))}>
          Remove {phase}
        </MenuItem>
      </Menu>
    </>
  )
}

/** A cue in words, on its arrow; where it leads is named unless that is the next phase. */
function CueChip({ population, cue, next }: { population: Population; cue: Cue; next: string | undefined }) {
  const act = useAct()
  const masks = useStore((state) => state.shot.present.masks)
  const meshes = useStore((state) => state.shot.present.meshes)
  const chosen = useStore((state) => state.session.selected.cue === cue.id)
  const names = (id: string): string =>
    [...masks, ...meshes, ...population.goals, ...population.attributes].find((one) => one.id === id)?.name ??
    id
  const kind = CUES.find((one) => one.kind === cue.when.kind)!
  const words = `${cue.chance < 1 ? `${Math.round(cue.chance * 100)} % ` : ''}${kind.words(cue.when, names)}`
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

/** Opens the goals of the population beside the stage. */
function GoalsButton({ population }: { population: Population }) {
  const act = useAct()
  const open = useStore((state) => state.session.selected.goal !== null)
  return (
    <Button
      aria-pressed={open}
      color={open ? 'primary' : 'inherit'}
      onClick={() => act(selected({ goal: open ? null : (population.goals[0]?.id ?? ''), cue: null }))}
      sx={{ flexShrink: 0 }}
    >
      Goals · {population.goals.length}
    </Button>
  )
}

function PhaseColours() {
  const act = useAct()
  const on = useStore((state) => state.session.phaseColours)
  return (
    <Button
      aria-pressed={on}
      color={on ? 'primary' : 'inherit'}
      onClick={() => act(shownAs({ phaseColours: !on }))}
      sx={{ flexShrink: 0 }}
    >
      Phase colours
    </Button>
  )
}

/** Lines from particles to their goals. */
export function GoalLinesButton() {
  const act = useAct()
  const on = useStore((state) => state.session.goalLines)
  return (
    <Button
      aria-pressed={on}
      color={on ? 'primary' : 'inherit'}
      onClick={() => act(shownAs({ goalLines: !on }))}
      sx={{ flexShrink: 0 }}
    >
      Show where they go
    </Button>
  )
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
