import { Box, Button, Typography } from '@mui/material'
import type { Origin, Vector } from '@tangle/core'
import { Choices, Row } from './Choices.tsx'
import { NumberField, NumberInput } from './NumberField.tsx'
import { ReferenceField } from './ReferenceField.tsx'

const SOMEWHERE: [number, number] = [-1e6, 1e6]
const kindOf = (value: Origin): string => ['ball', 'plane', 'points', 'mask'].find((kind) => kind in value)!

interface OriginFieldProps {
  label: string
  value: Origin
  /** The mask that has this origin: it can't start from itself. */
  except: string[]
  masks: string[]
  onChange(value: Origin, gesture?: string): void
}

/** Where a front starts: a ball, a plane, points, or where another mask is full. */
export function OriginField({ label, value, except, masks, onChange }: OriginFieldProps) {
  const place = 'ball' in value ? value.ball : 'plane' in value ? value.plane : ([0, 1, 0] as Vector)
  const others = masks.filter((id) => !except.includes(id))
  const choose = (kind: string): void => {
    if (kind === 'ball') onChange({ ball: place, radius: 0.2 })
    else if (kind === 'plane') onChange({ plane: place, normal: [0, -1, 0] })
    else if (kind === 'points') onChange({ points: [place] })
    else onChange({ mask: others[0]! })
  }
  return (
    <>
      <Row label={label} help="Where the front starts">
        <Choices
          name={label}
          value={kindOf(value)}
          options={{
            ball: 'ball',
            plane: 'plane',
            points: 'points',
            ...(others.length > 0 ? { mask: 'mask' } : {}),
          }}
          onChange={choose}
        />
      </Row>
      {'ball' in value && <BallFields value={value} onChange={onChange} />}
      {'plane' in value && <PlaneFields value={value} onChange={onChange} />}
      {'points' in value && <PointsFields value={value} onChange={onChange} />}
      <Typography sx={{ fontSize: 12, color: 'text.secondary' }}>
        Shift-click the mesh to start at a point of it.
      </Typography>
      {'mask' in value && (
        <ReferenceField
          label="Seeds"
          help="The front starts where this mask is ½ or more"
          to="mask"
          value={value.mask}
          except={except}
          onChange={(mask) => mask && onChange({ mask })}
        />
      )}
    </>
  )
}

interface FieldsProps<Key extends string> {
  value: Extract<Origin, Record<Key, unknown>>
  onChange(value: Origin, gesture?: string): void
}

function BallFields({ value, onChange }: FieldsProps<'ball'>) {
  return (
    <>
      <Triple name="Start" value={value.ball} onChange={(ball) => onChange({ ...value, ball })} />
      <NumberField
        label="Radius"
        name="Start radius"
        unit="m"
        value={value.radius}
        range={[0, 1e6]}
        usual={[0, 2]}
        step={0.01}
        onChange={(radius, gesture) => onChange({ ...value, radius }, gesture)}
      />
    </>
  )
}

function PlaneFields({ value, onChange }: FieldsProps<'plane'>) {
  const face = (normal: Vector): void => {
    if (normal.some((c) => c !== 0)) onChange({ ...value, normal })
  }
  return (
    <>
      <Triple name="Start" value={value.plane} onChange={(plane) => onChange({ ...value, plane })} />
      <Triple name="Facing" value={value.normal} onChange={face} />
    </>
  )
}

function PointsFields({ value: { points }, onChange }: FieldsProps<'points'>) {
  const change = (next: Vector[]): void => onChange({ points: next })
  return <PointList points={points} least={1} next={points.at(-1)!} onChange={change} />
}

interface PointListProps {
  points: Vector[]
  /** Fewer there can't be. */
  least: number
  /** The one that is added next. */
  next: Vector
  onChange(points: Vector[]): void
}

function PointList({ points, least, next, onChange }: PointListProps) {
  return (
    <>
      {points.map((point, i) => (
        <Triple
          key={i}
          name={`Point ${i + 1}`}
          value={point}
          onChange={(moved) => onChange(points.with(i, moved))}
          {...(points.length > least && { onRemove: () => onChange(points.filter((_, k) => k !== i)) })}
        />
      ))}
      <Button onClick={() => onChange([...points, next])}>+ Point</Button>
    </>
  )
}

/** A path from point to point. */
export function PathField({
  label,
  value,
  onChange,
}: {
  label: string
  value: Vector[]
  onChange(value: Vector[]): void
}) {
  const [x, y, z] = value.at(-1)!
  return (
    <Box role="group" aria-label={label}>
      <PointList points={value} least={2} next={[x, y + 0.5, z]} onChange={onChange} />
    </Box>
  )
}

/** Three numbers in a row. */
export function Triple({
  name,
  value,
  onChange,
  onRemove,
}: {
  name: string
  value: Vector
  onChange(value: Vector): void
  onRemove?(): void
}) {
  return (
    <Row label={name}>
      <Box sx={{ display: 'flex', gap: 0.5, alignItems: 'center' }}>
        {(['x', 'y', 'z'] as const).map((axis, i) => (
          <NumberInput
            key={axis}
            name={`${name} ${axis}`}
            value={value[i]!}
            range={SOMEWHERE}
            onChange={(next) => onChange(value.with(i, next) as Vector)}
          />
        ))}
        {onRemove && (
          <Button aria-label={`Remove ${name}`} onClick={onRemove} sx={{ px: 0.5 }}>
            ×
          </Button>
        )}
      </Box>
    </Row>
  )
}
