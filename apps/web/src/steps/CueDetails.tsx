import DeleteOutlined from '@mui/icons-material/DeleteOutlined'
import { Button, IconButton, MenuItem, Select, Typography } from '@mui/material'
import { completeCue, CUES, DIES, type Cue, type Population } from '@tangle/core'
import { Row } from '../fields/Choices.tsx'
import { NumberField } from '../fields/NumberField.tsx'
import { ParameterForm } from '../fields/ParameterForm.tsx'
import { ReferenceField } from '../fields/ReferenceField.tsx'
import { useAct } from '../store/index.ts'
import { selected } from '../store/session.ts'
import { moved, removed, set } from '../store/shot.ts'
import { Panel, Section } from './Panel.tsx'

/** The rule that sends a particle from one phase to another. */
export function CueDetails({ cue, population, index }: { cue: Cue; population: Population; index: number }) {
  const act = useAct()
  const place = population.cues.indexOf(cue)
  const list = ['populations', index, 'cues']
  const path = [...list, place]
  const kind = CUES.find((one) => one.kind === cue.when.kind)!
  const siblings = population.cues.filter((one) => one.from === cue.from)
  const order = siblings.indexOf(cue)
  const swap = (by: number): void =>
    void act(moved({ path: list, from: place, to: population.cues.indexOf(siblings[order + by]!) }))
  const targets = [...population.phases.filter((phase) => phase !== cue.from), DIES]
  return (
    <Panel
      title={`Cue: ${cue.from} to ${cue.to}`}
      glyph={kind.glyph}
      help={kind.help}
      actions={
        <IconButton
          size="small"
          aria-label="Remove the cue"
          onClick={() => {
            act(removed({ path }))
            act(selected({ cue: null }))
          }}
        >
          <DeleteOutlined sx={{ fontSize: 16 }} />
        </IconButton>
      }
    >
      <Row label="When">
        <Select
          value={cue.when.kind}
          fullWidth
          inputProps={{ 'aria-label': 'When' }}
          onChange={(event) => {
            const named = { mask: cue.when.mask, mesh: cue.when.mesh, goal: cue.when.goal }
            const wanted = Object.keys(CUES.find((one) => one.kind === event.target.value)!.parameters)
            const when = Object.fromEntries(
              Object.entries(named).filter(([name, id]) => id !== undefined && wanted.includes(name)),
            )
            act(set({ path, value: completeCue({ ...cue, when: { ...when, kind: event.target.value } }) }))
          }}
        >
          {CUES.map((one) => (
            <MenuItem key={one.kind} value={one.kind} disabled={needsMore(one.kind, cue)}>
              {one.label}
            </MenuItem>
          ))}
        </Select>
      </Row>
      <ParameterForm parameters={kind.parameters} values={cue.when} path={[...path, 'when']} />
      <Section title="Leads">
        <ReferenceField
          label="From"
          to="phase"
          value={cue.from}
          phases={population.phases.filter((phase) => phase !== cue.to)}
          onChange={(from) => from && act(set({ path: [...path, 'from'], value: from }))}
        />
        <ReferenceField
          label="To"
          help="dies ends the life"
          to="phase"
          value={cue.to}
          phases={targets}
          onChange={(to) => to && act(set({ path: [...path, 'to'], value: to }))}
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
          onChange={(chance, gesture) =>
            act(
              set({
                path: [...path, 'chance'],
                value: chance,
                ...(gesture ? { gesture: `chance ${gesture}` } : {}),
              }),
            )
          }
        />
      </Section>
      {siblings.length > 1 && (
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
      )}
      <Button onClick={() => act(selected({ cue: null }))} sx={{ mt: 1 }}>
        Back to the influences
      </Button>
    </Panel>
  )
}

/** Whether a kind needs a mesh or a mask that this cue does not name. */
function needsMore(kind: string, cue: Cue): boolean {
  return Object.entries(CUES.find((one) => one.kind === kind)!.parameters).some(
    ([name, p]) => p.type === 'reference' && p.absent === undefined && cue.when[name] === undefined,
  )
}
