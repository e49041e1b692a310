import { valueAt, type Amount, type EventKind } from '@tangle/core'
import { useEngine } from '../engine/useEngine.ts'
import { CapRow, FramesRow, RateFields, type FieldsProps } from './AmountField.tsx'
import { Choices, Row } from './Choices.tsx'
import { KeyButton } from './KeyButton.tsx'
import { keyToggled, withValueAt } from './keyed.ts'
import { NumberField } from './NumberField.tsx'

/** How many each parent bears. */
export type PerParent = Extract<Amount, { rate: unknown } | { spacing: unknown } | { event: unknown }>

const EVENTS: Record<EventKind, string> = {
  birth: 'it is born',
  death: 'it dies',
  touch: 'it touches something',
  break: 'a link or bond of it breaks',
  phase: 'it comes into a phase',
  hit: 'a ray of it meets a mesh',
  splash: 'it splashes, as a liquid',
}
const START = { spacing: { spacing: 0.1 }, rate: { rate: 24 }, event: { count: 10, event: 'death' } } as const

export function OffspringAmount({
  value,
  change,
}: {
  value: PerParent
  change(next: Amount, gesture?: string): void
}) {
  const mode = 'spacing' in value ? 'spacing' : 'event' in value ? 'event' : 'rate'
  return (
    <>
      <Row
        label="Each bears"
        help="One each so many metres of its way, so many a second, or some when something happens to it"
      >
        <Choices
          name="Each bears"
          value={mode}
          options={{ spacing: 'by its way', rate: 'by time', event: 'at an event' }}
          onChange={(next) => change(START[next as keyof typeof START])}
        />
      </Row>
      {'spacing' in value && <SpacingFields value={value} change={change} />}
      {'event' in value && <EventFields value={value} change={change} />}
      {'rate' in value && <RateFields value={value} change={change} />}
      {!('rate' in value) && (
        <>
          <FramesRow value={value} change={change} />
          <CapRow value={value} change={change} usual={100} />
        </>
      )}
    </>
  )
}

/** One each so many metres. */
function SpacingFields({ value, change }: FieldsProps<'spacing'>) {
  const frame = useEngine((engine) => engine.frame)
  return (
    <NumberField
      label="One each"
      name="One each"
      help="Metres of the parent’s way from one to the next, however fast it goes"
      unit="m"
      value={valueAt(value.spacing, frame)}
      range={[1e-6, 1e6]}
      usual={[0.01, 2]}
      step={0.01}
      onChange={(next, gesture) =>
        change({ ...value, spacing: withValueAt(value.spacing, frame, next) }, gesture)
      }
    >
      <KeyButton
        name="One each"
        value={value.spacing}
        frame={frame}
        onToggle={() => change({ ...value, spacing: keyToggled(value.spacing, frame) })}
      />
    </NumberField>
  )
}

/** So many when something happens. */
function EventFields({ value, change }: FieldsProps<'event'>) {
  return (
    <>
      <Row label="When" help="What has to happen to the parent">
        <Choices
          name="When"
          value={value.event}
          options={EVENTS}
          onChange={(event) => change({ ...value, event: event as EventKind })}
        />
      </Row>
      <NumberField
        label="Count"
        name="Count"
        help="How many are born at each event"
        value={value.count}
        range={[1, 100_000]}
        usual={[1, 100]}
        step={1}
        whole
        onChange={(count, gesture) => change({ ...value, count }, gesture)}
      />
      <NumberField
        label="Chance"
        name="Chance"
        help="The share of events at which any are born"
        value={value.chance ?? 1}
        range={[0, 1]}
        usual={[0, 1]}
        step={0.01}
        onChange={(chance, gesture) => change({ ...value, chance }, gesture)}
      />
    </>
  )
}
