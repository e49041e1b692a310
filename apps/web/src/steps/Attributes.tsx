import DeleteOutlined from '@mui/icons-material/DeleteOutlined'
import { Box, IconButton, InputBase, Typography } from '@mui/material'
import {
  completeAttribute,
  type MeshFacts,
  type OwnAttribute,
  type OwnBirth,
  type OwnValue,
  type Population,
} from '@tangle/core'
import { useState } from 'react'
import { engine } from '../engine/engine.ts'
import { Choices, Row } from '../fields/Choices.tsx'
import { KindMenu } from '../fields/KindMenu.tsx'
import { NameField } from '../fields/NameField.tsx'
import { OwnValueField } from '../fields/OwnValueField.tsx'
import { NumberField } from '../fields/NumberField.tsx'
import { ReferenceField } from '../fields/ReferenceField.tsx'
import { useAct, useShot } from '../store/index.ts'
import { attributeRemoved, inserted, set, type Path } from '../store/shot.ts'
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
          note={inWords(one.birth)}
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

type Way = 'mean' | 'low' | 'list' | 'mask' | 'data'
const WAYS: Record<Way, string> = {
  mean: 'about a value',
  low: 'between two',
  list: 'one of a list',
  mask: 'by a mask',
  data: 'from the mesh',
}
const wayOf = (birth: OwnBirth): Way =>
  'mask' in birth ? 'mask' : (['list', 'data', 'low', 'mean'] as const).find((key) => key in birth)!

const shownValue = (value: OwnValue): string => (Array.isArray(value) ? value.join(' ') : String(value))
function inWords(birth: OwnBirth): string {
  if ('mask' in birth) return `${shownValue(birth.low)} … ${shownValue(birth.high)} by a mask`
  if ('list' in birth) return birth.list.map(({ value }) => shownValue(value)).join(' or ')
  if ('data' in birth) return `${birth.data} of the mesh`
  if ('low' in birth) return `${shownValue(birth.low)} … ${shownValue(birth.high)}`
  return birth.spread === 0 ? shownValue(birth.mean) : `${shownValue(birth.mean)} ± ${birth.spread}`
}

const ZERO: Record<OwnAttribute['type'], OwnValue> = {
  number: 0,
  whole: 0,
  vector: [0, 0, 0],
  colour: '#000000',
}
const ONE: Record<OwnAttribute['type'], OwnValue> = {
  number: 1,
  whole: 1,
  vector: [1, 1, 1],
  colour: '#ffffff',
}

function AttributeForm({
  attribute,
  path,
  population,
}: {
  attribute: OwnAttribute
  path: Path
  population: Population
}) {
  const act = useAct()
  const { masks } = useShot()
  const { birth, type, unit } = attribute
  const change = (value: OwnBirth, gesture?: string): void =>
    void act(
      set({
        path: [...path, 'birth'],
        value,
        ...(gesture ? { gesture: `${path.join('.')} ${gesture}` } : {}),
      }),
    )
  const begin = (way: string): OwnBirth => {
    const [low, high] = [ZERO[type], ONE[type]]
    switch (way as Way) {
      case 'mean':
        return { mean: high, spread: 0 }
      case 'low':
        return { low, high }
      case 'list':
        return { list: [low, high].map((value) => ({ value, weight: 1 })) }
      case 'mask':
        return { mask: masks[0]!.id, low, high }
      case 'data':
        return { data: type === 'colour' ? 'colour' : 'uv' }
    }
  }
  const { mask, ...others } = WAYS
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
      <Row label="At birth">
        <Choices
          name="At birth"
          value={wayOf(birth)}
          options={masks.length > 0 ? { ...others, mask } : others}
          onChange={(way) => change(begin(way))}
        />
      </Row>
      <BirthFields attribute={attribute} population={population} change={change} />
    </Box>
  )
}

function BirthFields({
  attribute: { birth, type, unit },
  population,
  change,
}: {
  attribute: OwnAttribute
  population: Population
  change(birth: OwnBirth, gesture?: string): void
}) {
  const value = (label: string, of: OwnValue, onChange: (next: OwnValue, gesture?: string) => void) => (
    <OwnValueField key={label} label={label} type={type} unit={unit} value={of} onChange={onChange} />
  )
  if ('list' in birth) return <ListFields birth={birth} value={value} change={change} />
  if ('data' in birth) return <DataField birth={birth} population={population} change={change} />
  if ('mean' in birth)
    return (
      <>
        {value('Value', birth.mean, (mean, gesture) => change({ ...birth, mean }, gesture))}
        {type !== 'colour' && (
          <NumberField
            label="Varies ±"
            name="Varies"
            value={birth.spread}
            range={[0, 1e9]}
            usual={[0, 10]}
            step={0.01}
            unit={unit}
            onChange={(spread, gesture) => change({ ...birth, spread }, gesture)}
          />
        )}
      </>
    )
  return (
    <>
      {'mask' in birth && (
        <ReferenceField
          label="Mask"
          help="Read where each is born"
          to="mask"
          value={birth.mask}
          onChange={(mask) => mask && change({ ...birth, mask })}
        />
      )}
      {value('From', birth.low, (low, gesture) => change({ ...birth, low }, gesture))}
      {value('To', birth.high, (high, gesture) => change({ ...birth, high }, gesture))}
    </>
  )
}

type ListBirth = Extract<OwnBirth, { list: unknown }>

function ListFields({
  birth,
  value,
  change,
}: {
  birth: ListBirth
  value(label: string, of: OwnValue, onChange: (next: OwnValue, gesture?: string) => void): React.ReactNode
  change(birth: OwnBirth, gesture?: string): void
}) {
  const { list } = birth
  const put = (n: number, one: Partial<ListBirth['list'][0]>, gesture?: string): void =>
    change({ list: list.with(n, { ...list[n]!, ...one }) }, gesture)
  return (
    <>
      {list.map((one, n) => (
        <Box key={n} sx={{ display: 'flex', alignItems: 'center' }}>
          <Box sx={{ flex: 1 }}>
            {value(`Value ${n + 1}`, one.value, (next, gesture) => put(n, { value: next }, gesture))}
            <NumberField
              label="Weight"
              name={`Weight ${n + 1}`}
              value={one.weight}
              range={[0, 1e6]}
              usual={[0, 10]}
              step={0.1}
              onChange={(weight, gesture) => put(n, { weight }, gesture)}
            />
          </Box>
          <IconButton
            size="small"
            aria-label={`Remove value ${n + 1}`}
            disabled={list.length < 2}
            onClick={() => change({ list: list.filter((_, k) => k !== n) })}
          >
            <DeleteOutlined sx={{ fontSize: 15 }} />
          </IconButton>
        </Box>
      ))}
      <Box
        component="button"
        onClick={() => change({ list: [...list, list.at(-1)!] })}
        sx={{
          all: 'unset',
          cursor: 'pointer',
          fontSize: 13,
          color: 'primary.main',
          '&:focus-visible': { outline: 1 },
        }}
      >
        + Value
      </Box>
    </>
  )
}

/** What the meshes of the births carry, to choose from. */
function DataField({
  birth,
  population,
  change,
}: {
  birth: Extract<OwnBirth, { data: string }>
  population: Population
  change(birth: OwnBirth): void
}) {
  const { meshes } = useShot()
  const facts = population.births.flatMap(({ mesh }): MeshFacts[] => {
    const source = meshes.find(({ id }) => id === mesh)?.source
    const loaded = source && engine.meshOf(source)
    return loaded ? [loaded.facts] : []
  })
  const names = [
    ...new Set([...facts.flatMap(({ data, uv }) => [...data, ...(uv ? ['uv'] : [])]), birth.data]),
  ]
  return (
    <Row label="Carries" help="Vertex colours, texture coordinates, or a property of a PLY file">
      <Choices
        name="Data of the mesh"
        value={birth.data}
        options={Object.fromEntries(names.map((name) => [name, name]))}
        onChange={(data) => change({ data })}
      />
    </Row>
  )
}
