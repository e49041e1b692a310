import { Box, Typography } from '@mui/material'
import { valueAt, type Amount, type Keyed } from '@tangle/core'
import { useEngine } from '../engine/useEngine.ts'
import { useAct, useShot } from '../store/index.ts'
import { set, type Path } from '../store/shot.ts'
import { shown } from './formula.ts'
import { KeyButton } from './KeyButton.tsx'
import { keyToggled, withValueAt } from './keyed.ts'
import { NumberField, NumberInput } from './NumberField.tsx'
import { Choices, Row } from './Choices.tsx'
import { ReferenceField } from './ReferenceField.tsx'

const MOST = 20_000_000

/** How many are born: a burst at a frame, or a rate per second with its count per frame beside it. */
export function AmountField({ value, path, sweeps }: { value: Amount; path: Path; sweeps: boolean }) {
  const act = useAct()
  const { frames, masks } = useShot()
  const change = (next: Amount, gesture?: string): void =>
    void act(set({ path, value: next, ...(gesture ? { gesture: `${path.join('.')} ${gesture}` } : {}) }))
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
      ) : 'swept' in value ? (
        <SweptFields value={value} change={change} />
      ) : (
        <RateFields value={value} change={change} />
      )}
    </Box>
  )
}

/** Births by the area that the level of a mask has just swept. */
function SweptFields({
  value,
  change,
}: {
  value: Extract<Amount, { swept: number }>
  change(next: Amount, gesture?: string): void
}) {
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

function RateFields({
  value,
  change,
}: {
  value: Extract<Amount, { rate: Keyed }>
  change(next: Amount, gesture?: string): void
}) {
  const { frames } = useShot()
  const frame = useEngine((engine) => engine.frame)
  const rate = valueAt(value.rate, frame)
  const limit = (name: 'from' | 'to' | 'cap', next: number): void => change({ ...value, [name]: next })
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
      <Row label="Frames" help="The first and the last frame in which particles are born">
        <Box sx={{ display: 'flex', alignItems: 'center', gap: 0.5, justifyContent: 'flex-end', pr: 3 }}>
          <NumberInput
            name="From frame"
            value={value.from ?? frames.first}
            range={[-1e6, 1e6]}
            whole
            onChange={(next) => limit('from', next)}
          />
          –
          <NumberInput
            name="To frame"
            value={value.to ?? frames.last}
            range={[-1e6, 1e6]}
            whole
            onChange={(next) => limit('to', next)}
          />
        </Box>
      </Row>
      <Row label="At most" help="No more are born after so many">
        <Box sx={{ display: 'flex', justifyContent: 'flex-end', pr: 3 }}>
          {value.cap === undefined ? (
            <Choices
              name="Cap"
              value="none"
              options={{ none: 'no cap', cap: 'cap' }}
              onChange={(next) => next === 'cap' && limit('cap', 100_000)}
            />
          ) : (
            <>
              <Choices
                name="Cap"
                value="cap"
                options={{ none: 'no cap', cap: 'cap' }}
                onChange={(next) => next === 'none' && change(without(value))}
              />
              <NumberInput
                name="Cap"
                value={value.cap}
                range={[0, MOST]}
                whole
                onChange={(next) => limit('cap', next)}
              />
            </>
          )}
        </Box>
      </Row>
    </>
  )
}

function without({ cap: _, ...rest }: Extract<Amount, { rate: Keyed }>): Amount {
  return rest
}
