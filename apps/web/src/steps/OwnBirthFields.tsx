/** How an attribute of the artist's own begins in each particle. */
import DeleteOutlined from '@mui/icons-material/DeleteOutlined'
import { Box, IconButton } from '@mui/material'
import type { MeshFacts, OwnAttribute, OwnBirth, OwnValue, Population } from '@tangle/core'
import { engine } from '../engine/engine.ts'
import { Choices, Row } from '../fields/Choices.tsx'
import { NumberField } from '../fields/NumberField.tsx'
import { OwnValueField } from '../fields/OwnValueField.tsx'
import { ReferenceField } from '../fields/ReferenceField.tsx'
import { useChangeAt, useShot } from '../store/index.ts'
import type { Path } from '../store/shot.ts'

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
/** As the list of attributes tells it. */
export function birthInWords(birth: OwnBirth): string {
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

interface OwnBirthFieldsProps {
  attribute: OwnAttribute
  population: Population
  path: Path
}

export function OwnBirthFields({ attribute, population, path }: OwnBirthFieldsProps) {
  const change = useChangeAt(path)
  const { masks } = useShot()
  const { mask, ...others } = WAYS
  return (
    <>
      <Row label="At birth">
        <Choices
          name="At birth"
          value={wayOf(attribute.birth)}
          options={masks.length > 0 ? { ...others, mask } : others}
          onChange={(way) => change(begun(way as Way, attribute.type, masks[0]?.id ?? ''))}
        />
      </Row>
      <ValueFields attribute={attribute} population={population} change={change} />
    </>
  )
}

/** The values that a way begins with. */
function begun(way: Way, type: OwnAttribute['type'], mask: string): OwnBirth {
  const [low, high] = [ZERO[type], ONE[type]]
  switch (way) {
    case 'mean':
      return { mean: high, spread: 0 }
    case 'low':
      return { low, high }
    case 'list':
      return { list: [low, high].map((value) => ({ value, weight: 1 })) }
    case 'mask':
      return { mask, low, high }
    case 'data':
      return { data: type === 'colour' ? 'colour' : 'uv' }
  }
}

interface ValueFieldsProps {
  attribute: OwnAttribute
  population: Population
  change(birth: OwnBirth, gesture?: string): void
}

function ValueFields({ attribute: { birth, type, unit }, population, change }: ValueFieldsProps) {
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
