import { Box, Typography } from '@mui/material'
import { valueAt, type Amount } from '@tangle/core'
import { useEngine } from '../engine/useEngine.ts'
import { useChangeAt, useShot } from '../store/index.ts'
import type { Path } from '../store/shot.ts'
import { shown } from './formula.ts'
import { KeyButton } from './KeyButton.tsx'
import { keyToggled, withValueAt } from './keyed.ts'
import { NumberField, NumberInput } from './NumberField.tsx'
import { Choices, Row } from './Choices.tsx'
import { OffspringAmount, type PerParent } from './OffspringAmount.tsx'
import { ReferenceField } from './ReferenceField.tsx'

const MOST = 20_000_000

/** How many are born, of a mesh or of particles. */
export function AmountField({
  value,
  path,
  sweeps,
  perParent,
}: {
  value: Amount
  path: Path
  sweeps: boolean
  perParent: boolean
}) {
  const change = useChangeAt(path)
  return perParent ? (
    <OffspringAmount value={value as PerParent} change={change} />
  ) : (
    <MeshAmount value={value as OnMesh} change={change} sweeps={sweeps} />
  )
}

type OnMesh = Exclude<Amount, PerParent> | Extract<Amount, { rate: unknown }>

/** Of births on a mesh. */
function MeshAmount({
  value,
  change,
  sweeps,
}: {
  value: OnMesh
  change(next: Amount, gesture?: string): void
  sweeps: boolean
}) {
  const { frames, masks } = useShot()
  const mode =
    'burst' in value ? (value.burst === 'all' ? 'all' : 'burst') : 'swept' in value ? 'swept' : 'rate'
  const choose = (next: string): void => {
    if (next === 'rate') change({ rate: 10000 })
    else if (next === 'swept') change({ swept: 200000, mask: masks[0]!.id })
    else change({ burst: next === 'all' ? 'all' : 10000, at: 'burst' in value ? value.at : frames.first })
  }
  return (
    <Box>
      <Row label="Amount" help="All at once at a frame, or a rate per second">
        <Choices
          name="Amount"
          value={mode}
          options={{
            rate: 'rate',
            burst: 'burst',
            all: 'all points',
            ...((sweeps && masks.length > 0) || mode === 'swept' ? { swept: 'swept' } : {}),
          }}
          onChange={choose}
        />
      </Row>
      {'burst' in value ? (
        <BurstFields value={value} change={change} />
      ) : 'swept' in value ? (
        <SweptFields value={value} change={change} />
      ) : (
        <RateFields value={value} change={change} />
      )}
    </Box>
  )
}

export interface FieldsProps<Key extends string> {
  value: Extract<Amount, { [K in Key]?: unknown }>
  change(next: Amount, gesture?: string): void
}

/** All at once at a frame. */
function BurstFields({ value, change }: FieldsProps<'burst'>) {
  const { frames } = useShot()
  return (
    <>
      {value.burst !== 'all' && (
        <NumberField
          label="Count"
          name="Count"
          value={value.burst}
          range={[0, MOST]}
          usual={[0, 200_000]}
          step={1000}
          whole
          onChange={(burst, gesture) => change({ ...value, burst }, gesture)}
        />
      )}
      <NumberField
        label="At frame"
        name="At frame"
        value={value.at}
        range={[-1e6, 1e6]}
        usual={[frames.first, frames.last]}
        step={1}
        whole
        onChange={(at, gesture) => change({ ...value, at }, gesture)}
      />
    </>
  )
}

/** Births by the area that the level of a mask has just swept. */
function SweptFields({ value, change }: FieldsProps<'swept'>) {
  return (
    <>
      <ReferenceField
        label="Swept by"
        help="They are born where the level of this mask has just passed"
        to="mask"
        value={value.mask}
        onChange={(mask) => mask && change({ ...value, mask })}
      />
      <NumberField
        label="In all"
        name="In all"
        help="For the whole surface; each stretch gives its share"
        value={value.swept}
        range={[0, MOST]}
        usual={[0, 1_000_000]}
        step={1000}
        whole
        onChange={(swept, gesture) => change({ ...value, swept }, gesture)}
      />
      <NumberField
        label="Level"
        name="Swept level"
        help="The value of the mask that sweeps"
        value={value.level ?? 0.5}
        range={[0.0001, 1]}
        usual={[0, 1]}
        step={0.01}
        onChange={(level, gesture) => change({ ...value, level }, gesture)}
      />
    </>
  )
}

/** So many a second, with the count per frame beside it, between two frames and up to a cap. */
export function RateFields(props: FieldsProps<'rate'>) {
  const { value, change } = props
  const { frames } = useShot()
  const frame = useEngine((engine) => engine.frame)
  const rate = valueAt(value.rate, frame)
  return (
    <>
      <NumberField
        label="Rate"
        name="Rate"
        unit="/s"
        value={rate}
        range={[0, 1e9]}
        usual={[0, 100_000]}
        step={100}
        onChange={(next, gesture) =>
          change({ ...value, rate: withValueAt(value.rate, frame, next) }, gesture)
        }
      >
        <KeyButton
          name="Rate"
          value={value.rate}
          frame={frame}
          onToggle={() => change({ ...value, rate: keyToggled(value.rate, frame) })}
        />
      </NumberField>
      <Typography
        variant="caption"
        sx={{ display: 'block', color: 'text.secondary', textAlign: 'right', pr: 3.5 }}
        data-testid="per-frame"
      >
        {shown(Number((rate / frames.rate).toPrecision(4)))} a frame at {frames.rate} frames/s
      </Typography>
      <FramesRow {...props} />
      <CapRow {...props} />
    </>
  )
}

/** When it begins and ends. */
export function FramesRow({ value, change }: FieldsProps<'from'>) {
  const { frames } = useShot()
  const input = (name: string, at: number, onChange: (next: number) => void) => (
    <NumberInput name={name} value={at} range={[-1e6, 1e6]} whole onChange={onChange} />
  )
  return (
    <Row label="Frames" help="The first and the last frame in which particles are born">
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 0.5, justifyContent: 'flex-end', pr: 3 }}>
        {input('From frame', value.from ?? frames.first, (from) => change({ ...value, from }))}–
        {input('To frame', value.to ?? frames.last, (to) => change({ ...value, to }))}
      </Box>
    </Row>
  )
}

export function CapRow({ value, change, usual = 100_000 }: FieldsProps<'cap'> & { usual?: number }) {
  const { cap, ...uncapped } = value
  return (
    <Row label="At most" help="No more are born after so many">
      <Box sx={{ display: 'flex', justifyContent: 'flex-end', pr: 3 }}>
        <Choices
          name="Cap"
          value={cap === undefined ? 'none' : 'cap'}
          options={{ none: 'no cap', cap: 'cap' }}
          onChange={(next) => change(next === 'cap' ? { ...uncapped, cap: cap ?? usual } : uncapped)}
        />
        {cap !== undefined && (
          <NumberInput
            name="Cap"
            value={cap}
            range={[0, MOST]}
            whole
            onChange={(next) => change({ ...value, cap: next })}
          />
        )}
      </Box>
    </Row>
  )
}
