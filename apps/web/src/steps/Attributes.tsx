import DeleteOutlined from '@mui/icons-material/DeleteOutlined'
import { Box, IconButton, InputBase, Typography } from '@mui/material'
import { completeAttribute, type OwnAttribute, type Population } from '@tangle/core'
import { useState } from 'react'
import { Row } from '../fields/Choices.tsx'
import { KindMenu } from '../fields/KindMenu.tsx'
import { NameField } from '../fields/NameField.tsx'
import { useAct } from '../store/index.ts'
import { attributeRemoved, inserted, set, type Path } from '../store/shot.ts'
import { birthInWords, OwnBirthFields } from './OwnBirthFields.tsx'
import { Entry, Section } from './Panel.tsx'

const TYPES: { kind: OwnAttribute['type']; label: string; glyph: string; help: string }[] = [
  { kind: 'number', label: 'Number', glyph: '#', help: 'A walking speed, a temperature, a charge' },
  { kind: 'whole', label: 'Whole number', glyph: '№', help: 'A group, a count, a choice' },
  { kind: 'vector', label: 'Vector', glyph: '↗', help: 'A direction or a place of its own' },
  { kind: 'colour', label: 'Colour', glyph: '◑', help: 'Set at birth, shown by Look and written to files' },
]

/** Attributes of the artist's own: what every particle carries besides. */
export function Attributes({ population, index }: { population: Population; index: number }) {
  const act = useAct()
  const [chosen, setChosen] = useState<string | null>(null)
  const { attributes } = population
  const path: Path = ['populations', index, 'attributes']
  const add = (type: string): void => {
    const { label } = TYPES.find((one) => one.kind === type)!
    const taken = new Set(attributes.map(({ id }) => id))
    let n = 1
    while (taken.has(`${type}${n}`)) n++
    const one = completeAttribute({
      id: `${type}${n}`,
      name: `${label} ${n}`,
      type: type as OwnAttribute['type'],
    })
    act(inserted({ path, value: one }))
    setChosen(one.id)
  }
  const at = attributes.findIndex(({ id }) => id === chosen)
  return (
    <Section
      title="Attributes of their own"
      action={<KindMenu label="+ Attribute" kinds={TYPES} onChoose={add} />}
    >
      {attributes.length === 0 && (
        <Typography sx={{ fontSize: 12, color: 'text.secondary' }}>
          A number, vector or colour that each particle carries: responses, cues, looks, charts and files read
          it.
        </Typography>
      )}
      {attributes.map((one) => (
        <Entry
          key={one.id}
          name={one.name}
          glyph={TYPES.find(({ kind }) => kind === one.type)?.glyph ?? ''}
          note={birthInWords(one.birth)}
          selected={one.id === chosen}
          onSelect={() => setChosen(one.id === chosen ? null : one.id)}
        >
          <IconButton
            size="small"
            aria-label={`Remove attribute ${one.name}`}
            onClick={() => act(attributeRemoved({ index, attribute: one.id }))}
          >
            <DeleteOutlined sx={{ fontSize: 16 }} />
          </IconButton>
        </Entry>
      ))}
      {at >= 0 && <AttributeForm attribute={attributes[at]!} path={[...path, at]} population={population} />}
    </Section>
  )
}

interface AttributeFormProps {
  attribute: OwnAttribute
  path: Path
  population: Population
}

function AttributeForm({ attribute, path, population }: AttributeFormProps) {
  const act = useAct()
  const { type, unit } = attribute
  return (
    <Box sx={{ pl: 1, borderLeft: 1, borderColor: 'divider' }}>
      <Row label="Name">
        <NameField
          label="Name of the attribute"
          value={attribute.name}
          onChange={(value) => act(set({ path: [...path, 'name'], value }))}
          sx={{ width: '100%', fontWeight: 400 }}
        />
      </Row>
      <Row label="In files" help="The name under which files carry it">
        <Typography sx={{ fontSize: 12.5, color: 'text.secondary' }}>{attribute.id}</Typography>
      </Row>
      {type !== 'colour' && (
        <Row label="Unit">
          <InputBase
            defaultValue={unit}
            inputProps={{ 'aria-label': 'Unit of the attribute', maxLength: 20 }}
            onKeyDown={(event) => event.stopPropagation()}
            onBlur={(event) =>
              event.target.value !== unit && act(set({ path: [...path, 'unit'], value: event.target.value }))
            }
            sx={{ fontSize: 13, border: 1, borderColor: 'divider', borderRadius: 1, px: 0.75, width: 90 }}
          />
        </Row>
      )}
      <OwnBirthFields attribute={attribute} population={population} path={[...path, 'birth']} />
    </Box>
  )
}
