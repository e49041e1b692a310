import type { Goal, OwnAttribute, ReferenceParameter } from '@tangle/core'
import { MenuItem, Select } from '@mui/material'
import { useShot } from '../store/index.ts'
import { Row } from './Choices.tsx'

interface ReferenceFieldProps {
  label: string
  help?: string
  to: ReferenceParameter['to']
  value: string | undefined
  /** What leaving it out means. */
  absent?: string
  phases?: string[]
  /** Of the population that the field belongs to. */
  goals?: Goal[]
  attributes?: OwnAttribute[]
  /** Ids that can't be chosen. */
  except?: string[]
  onChange(value: string | undefined): void
}

/** Names something of the shot. */
export function ReferenceField({
  label,
  help,
  to,
  value,
  absent,
  phases = [],
  goals = [],
  attributes = [],
  except = [],
  onChange,
}: ReferenceFieldProps) {
  const shot = useShot()
  const all: { id: string; name: string }[] = {
    mesh: shot.meshes,
    mask: shot.masks,
    combing: shot.combings,
    population: shot.populations,
    goal: goals,
    attribute: attributes,
    phase: phases.map((name) => ({ id: name, name })),
    parentPhase: phases.map((name) => ({ id: name, name })),
  }[to]
  const options = all.filter(({ id }) => !except.includes(id))
  return (
    <Row label={label} {...(help === undefined ? {} : { help })}>
      <Select
        value={value ?? ''}
        displayEmpty
        onChange={(event) => onChange(event.target.value === '' ? undefined : event.target.value)}
        inputProps={{ 'aria-label': label }}
        fullWidth
      >
        {(absent !== undefined || value === undefined) && (
          <MenuItem value="" disabled={absent === undefined}>
            {absent ?? `choose ${to === 'attribute' ? 'an' : 'a'} ${to}`}
          </MenuItem>
        )}
        {options.map((option) => (
          <MenuItem key={option.id} value={option.id}>
            {option.name}
          </MenuItem>
        ))}
      </Select>
    </Row>
  )
}
