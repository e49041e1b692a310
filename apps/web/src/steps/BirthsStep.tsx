import DeleteOutlined from '@mui/icons-material/DeleteOutlined'
import VolumeOffOutlined from '@mui/icons-material/VolumeOffOutlined'
import { Box, Button, IconButton, Typography } from '@mui/material'
import {
  BIRTHS,
  liquidOf,
  LIQUIDS,
  madeOf,
  MATERIALS,
  PARTICLE,
  type Birth,
  type Population,
} from '@tangle/core'
import type { BirthSample } from '@tangle/runtime/browser'
import { shown } from '../fields/formula.ts'
import { KindMenu } from '../fields/KindMenu.tsx'
import { NameField } from '../fields/NameField.tsx'
import { ParameterForm } from '../fields/ParameterForm.tsx'
import { useAct, useShot, useStore } from '../store/index.ts'
import { noticed, selected } from '../store/session.ts'
import { populationRemoved, removed, set, type Path } from '../store/shot.ts'
import { count } from '../words.ts'
import { Attributes } from './Attributes.tsx'
import { Empty, Entry, Panel, Section } from './Panel.tsx'
import { addBirth, addOffspring, addPopulation } from './births.ts'
import { PopulationTabs } from './PopulationTabs.tsx'
import { usePopulation } from './usePopulation.ts'

const kindOf = (birth: Birth) => BIRTHS.find((kind) => kind.kind === birth.kind)!

const nameOf = (all: { id: string; name: string }[], id: string | undefined): string =>
  all.find((one) => one.id === id)?.name ?? ''

/** How many there are, in short: it tells births of one kind on one mesh apart. */
function amountInWords(amount: Birth['amount']): string {
  if ('burst' in amount)
    return amount.burst === 'all' ? 'all points' : `${count(amount.burst)} at frame ${amount.at}`
  if ('swept' in amount) return `${count(amount.swept)} swept`
  if ('count' in amount) return `${amount.count} at each ${amount.event}`
  const [value, unit] = 'rate' in amount ? [amount.rate, '/s'] : [amount.spacing, ' m apart']
  return typeof value === 'number' ? `${shown(value)}${unit}` : `keyed${unit}`
}

/** Where, when, how many and how fast particles come into being. */
export function BirthsStep({ sample }: { sample: BirthSample | null }) {
  const { meshes } = useShot()
  const { population, index } = usePopulation()
  const add = (
    <Button variant="outlined" onClick={addPopulation}>
      Add a population
    </Button>
  )
  if (!population) {
    return (
      <Panel title="Births" help="Where, when, how many and how fast particles come into being.">
        <Empty
          text={
            meshes.length === 0
              ? 'Particles are born on a mesh: bring one in the Meshes step first.'
              : 'A population is a set of particles that live by the same rules. Add one, and it is born on your mesh.'
          }
        >
          {meshes.length > 0 && add}
        </Empty>
      </Panel>
    )
  }
  return (
    <Panel
      title="Births"
      help="The points to be born are on the stage."
      actions={
        <>
          <Button onClick={addPopulation}>+ Population</Button>
          <Button onClick={() => addOffspring(population)}>+ Offspring</Button>
        </>
      }
    >
      <PopulationTabs />
      <PopulationName key={`name of ${population.id}`} population={population} index={index} />
      <BirthList population={population} index={index} sample={sample} />
      <Section title="Each particle" action={<MaterialMenu population={population} index={index} />}>
        <ParameterForm
          parameters={PARTICLE}
          values={population.particle as unknown as Record<string, unknown>}
          path={['populations', index, 'particle']}
        />
      </Section>
      <Attributes key={`attributes of ${population.id}`} population={population} index={index} />
    </Panel>
  )
}

const MATERIAL_KINDS = [
  ...MATERIALS.map(({ id, label, density, friction, repose }) => ({
    kind: id,
    label,
    glyph: '◍',
    help: `${density} kg/m³, friction ${friction}${repose === null ? '' : `, heaps at ${repose}°`}`,
  })),
  ...LIQUIDS.map(({ id, label, density, viscosity }) => ({
    kind: id,
    label,
    glyph: '≈',
    help: `a liquid: ${density} kg/m³, ${viscosity} Pa·s`,
  })),
]

/** Sets the density, and the friction, bounce and stickiness of every contact, to those of a material; a liquid flows, too. */
function MaterialMenu({ population, index }: { population: Population; index: number }) {
  const act = useAct()
  const choose = (id: string): void => {
    const grains = MATERIALS.find((one) => one.id === id)
    // the menu offers these two
    const liquid = LIQUIDS.find((one) => one.id === id)!
    const value = grains ? madeOf(population, grains) : liquidOf(population, liquid)
    act(set({ path: ['populations', index], value }))
    act(
      noticed({
        text: `${population.name}: ${grains ? 'density and every contact' : 'density, viscosity and surface tension'} as of ${(grains ?? liquid).label.toLowerCase()}`,
        tone: 'info',
        undo: { kind: 'edit' },
      }),
    )
  }
  return <KindMenu label="Material" kinds={MATERIAL_KINDS} onChoose={choose} />
}

function PopulationName({ population, index }: { population: Population; index: number }) {
  const act = useAct()
  const remove = (): void => {
    act(populationRemoved(population.id))
    act(noticed({ text: `${population.name} is out of the shot`, tone: 'info', undo: { kind: 'edit' } }))
  }
  return (
    <Box sx={{ display: 'flex' }}>
      <NameField
        label="Name of the population"
        value={population.name}
        onChange={(value) => act(set({ path: ['populations', index, 'name'], value }))}
        sx={{ flex: 1 }}
      />
      <IconButton size="small" aria-label={`Remove ${population.name}`} onClick={remove}>
        <DeleteOutlined sx={{ fontSize: 16 }} />
      </IconButton>
    </Box>
  )
}

function BirthList({
  population,
  index,
  sample,
}: {
  population: Population
  index: number
  sample: BirthSample | null
}) {
  const act = useAct()
  const { meshes, populations } = useShot()
  const chosen = useStore((state) => state.session.selected.birth)
  const birth = population.births.find((one) => one.id === chosen) ?? population.births[0]
  const at = birth ? population.births.indexOf(birth) : -1
  const path: Path = ['populations', index, 'births', at]
  return (
    <>
      {population.births.map((one, i) => (
        <Entry
          key={one.id}
          glyph={kindOf(one).glyph}
          name={kindOf(one).label}
          note={`${nameOf(one.from === undefined ? meshes : populations, one.from ?? one.mesh)} · ${amountInWords(one.amount)}`}
          selected={one === birth}
          quiet={one.muted === true}
          onSelect={() => act(selected({ birth: one.id }))}
        >
          <IconButton
            size="small"
            aria-label={`${one.muted ? 'Unmute' : 'Mute'} birth ${i + 1}`}
            onClick={() =>
              act(
                set({
                  path: ['populations', index, 'births', i, 'muted'],
                  value: one.muted ? undefined : true,
                }),
              )
            }
          >
            <VolumeOffOutlined sx={{ fontSize: 15, opacity: one.muted ? 1 : 0.4 }} />
          </IconButton>
          <IconButton
            size="small"
            aria-label={`Remove birth ${i + 1}`}
            onClick={() => act(removed({ path: ['populations', index, 'births', i] }))}
          >
            <DeleteOutlined sx={{ fontSize: 16 }} />
          </IconButton>
        </Entry>
      ))}
      <KindMenu
        label="+ Birth"
        kinds={meshes.length === 0 ? BIRTHS.filter(({ prepare }) => !prepare) : BIRTHS}
        onChoose={(kind) => addBirth(population, index, kind)}
      />
      {birth && (
        <Section title={kindOf(birth).label}>
          <Typography
            sx={{ fontSize: 12, color: sample?.message ? 'error.main' : 'text.secondary', mb: 0.5 }}
            data-testid="born-total"
          >
            {sample?.message ??
              (birth.from !== undefined
                ? `As ${nameOf(populations, birth.from)} go: play to see them`
                : sample
                  ? `${count(sample.total)} ${'swept' in birth.amount ? 'once all of it has been swept' : 'in the whole shot'}`
                  : 'Counting…')}
          </Typography>
          <ParameterForm
            parameters={kindOf(birth).parameters}
            values={birth}
            path={path}
            phases={population.phases}
            leave={population.phases.length < 2 ? ['into'] : []}
          />
        </Section>
      )}
    </>
  )
}
