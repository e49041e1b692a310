import DeleteOutlined from '@mui/icons-material/DeleteOutlined'
import { Button, IconButton, MenuItem, Select, Typography } from '@mui/material'
import { completeCue, CUES, DIES, type Cue, type Population } from '@tangle/core'
import { Row } from '../fields/Choices.tsx'
import { NumberField } from '../fields/NumberField.tsx'
import { ParameterForm } from '../fields/ParameterForm.tsx'
import { ReferenceField } from '../fields/ReferenceField.tsx'
import { HelpButton } from '../help/HelpCard.tsx'
import { useAct, useChange, useShot } from '../store/index.ts'
import { selected } from '../store/session.ts'
import { moved, removed, set } from '../store/shot.ts'
import { Panel, Section } from './Panel.tsx'
import { neededBy } from './populations.ts'

interface CueProps {
  cue: Cue
  population: Population
  /** Where the cue stands in the document. */
  path: (string | number)[]
}

/** The rule that sends a particle from one phase to another. */
export function CueDetails({ cue, population, index }: { cue: Cue; population: Population; index: number }) {
  const act = useAct()
  const path = ['populations', index, 'cues', population.cues.indexOf(cue)]
  const kind = CUES.find((one) => one.kind === cue.when.kind)!
  const close = (): void => void act(selected({ cue: null }))
  const remove = (): void => {
    act(removed({ path }))
    close()
  }
  return (
    <Panel
      title={`Cue: ${cue.from} to ${cue.to}`}
      glyph={kind.glyph}
      help={kind.help}
      actions={
        <>
          <HelpButton sort="cue" kind={kind.kind} />
          <IconButton size="small" aria-label="Remove the cue" onClick={remove}>
            <DeleteOutlined sx={{ fontSize: 16 }} />
          </IconButton>
        </>
      }
    >
      <WhenRow cue={cue} population={population} onChange={(next) => act(set({ path, value: next }))} />
      <ParameterForm
        parameters={kind.parameters}
        values={cue.when}
        path={[...path, 'when']}
        helped={{ sort: 'cue', kind: kind.kind }}
      />
      <Leads cue={cue} population={population} path={path} />
      <Order cue={cue} population={population} path={path} />
      <Button onClick={close} sx={{ mt: 1 }}>
        Back to the influences
      </Button>
    </Panel>
  )
}

interface WhenProps {
  cue: Cue
  population: Population
  onChange(cue: Cue): void
}

/** What the cue waits for; the mesh, mask and goal that it names stay where the new kind names such, too. */
function WhenRow({ cue, population, onChange }: WhenProps) {
  const shot = useShot()
  const change = (kind: string): void => {
    const { mask, mesh, goal } = cue.when
    const wanted = Object.keys(CUES.find((one) => one.kind === kind)!.parameters)
    const named = Object.entries({ mask, mesh, goal })
    const stays = named.filter(([name, id]) => id !== undefined && wanted.includes(name))
    const first = neededBy(kind, population, shot).named
    onChange(completeCue({ ...cue, when: { ...first, ...Object.fromEntries(stays), kind } }))
  }
  return (
    <Row label="When">
      <Select
        value={cue.when.kind}
        fullWidth
        inputProps={{ 'aria-label': 'When' }}
        onChange={(event) => change(event.target.value)}
      >
        {CUES.map(({ kind, label }) => (
          <MenuItem key={kind} value={kind} disabled={neededBy(kind, population, shot).missing !== null}>
            {label}
          </MenuItem>
        ))}
      </Select>
    </Row>
  )
}

/** From which phase to which, and for whom. */
function Leads({ cue, population, path }: CueProps) {
  const put = useChange()
  const change = (name: 'from' | 'to' | 'chance', value: string | number, gesture?: string): void =>
    put([...path, name], value, gesture)
  return (
    <Section title="Leads">
      <ReferenceField
        label="From"
        to="phase"
        value={cue.from}
        phases={population.phases.filter((phase) => phase !== cue.to)}
        onChange={(from) => from && change('from', from)}
      />
      <ReferenceField
        label="To"
        help="dies ends the life"
        to="phase"
        value={cue.to}
        phases={[...population.phases.filter((phase) => phase !== cue.from), DIES]}
        onChange={(to) => to && change('to', to)}
      />
      <NumberField
        label="Chance"
        name="Chance"
        help="Share of the particles that follow it; the others never do"
        value={cue.chance}
        range={[0, 1]}
        usual={[0, 1]}
        step={0.01}
        standard={1}
        onChange={(chance, gesture) => change('chance', chance, gesture)}
      />
    </Section>
  )
}

/** Which of the cues that leave a phase counts first. */
function Order({ cue, population, path }: CueProps) {
  const act = useAct()
  const siblings = population.cues.filter((one) => one.from === cue.from)
  const order = siblings.indexOf(cue)
  if (siblings.length < 2) return null
  const swap = (by: number): void => {
    const [from, to] = [cue, siblings[order + by]!].map((one) => population.cues.indexOf(one))
    act(moved({ path: path.slice(0, -1), from: from!, to: to! }))
  }
  return (
    <Section title="Order">
      <Typography sx={{ fontSize: 12.5, color: 'text.secondary' }}>
        {order + 1} of {siblings.length} cues that leave {cue.from}; the first that holds counts.
      </Typography>
      <Button disabled={order === 0} onClick={() => swap(-1)}>
        Earlier
      </Button>
      <Button disabled={order + 1 === siblings.length} onClick={() => swap(1)}>
        Later
      </Button>
    </Section>
  )
}
