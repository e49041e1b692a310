import { Box, Typography } from '@mui/material'
import {
  isKeyed,
  valueAt,
  type Keyed,
  type NumberParameter,
  type Varied,
  type VariedParameter,
  type VectorParameter,
} from '@tangle/core'
import { engine } from '../engine/engine.ts'
import { useEngine } from '../engine/useEngine.ts'
import { useChange, useChangeAt } from '../store/index.ts'
import type { Path } from '../store/shot.ts'
import { Choices, Row } from './Choices.tsx'
import { KeyButton, useUnderPointer } from './KeyButton.tsx'
import { keyToggled, withValueAt } from './keyed.ts'
import { NumberField, NumberInput } from './NumberField.tsx'
import { TripleField } from './TripleField.tsx'

interface KeyedNumberProps {
  parameter: NumberParameter
  value: Keyed
  path: Path
  label: string
}

/** The playhead, for what has keys; what has none is the same at every frame and need not hear of it. */
const useFrameOf = (keyed: boolean): number => useEngine((e) => (keyed ? e.frame : NaN))

/** A number that may have keys: shows and changes its value at the playhead. */
export function KeyedNumber({ parameter, value, path, label }: KeyedNumberProps) {
  const change = useChangeAt(path)
  const shown = useFrameOf(isKeyed(value))
  const toggle = (): void => change(keyToggled(value, engine.frame))
  const point = useUnderPointer()
  return (
    <Box onPointerEnter={() => point(parameter.keyable ? toggle : null)} onPointerLeave={() => point(null)}>
      <NumberField
        label={label}
        name={parameter.label}
        value={valueAt(value, shown)}
        unit={parameter.unit}
        help={parameter.help}
        range={parameter.range}
        usual={parameter.usual}
        step={parameter.step}
        whole={parameter.whole}
        standard={parameter.default}
        onChange={(next, gesture) => change(withValueAt(value, engine.frame, next), gesture)}
      >
        {parameter.keyable && (
          <KeyButton name={parameter.label} value={value} frame={shown} onToggle={toggle} />
        )}
      </NumberField>
    </Box>
  )
}

/** Three numbers in a row, each with keys of its own. */
export function VectorField({
  parameter,
  value,
  path,
}: {
  parameter: VectorParameter
  value: [Keyed, Keyed, Keyed]
  path: Path
}) {
  const put = useChange()
  const frame = useFrameOf(value.some(isKeyed))
  const change = (part: number, next: Keyed, gesture?: string): void => put([...path, part], next, gesture)
  const point = useUnderPointer()
  const toggle = (part: number) => (): void => change(part, keyToggled(value[part]!, engine.frame))
  return (
    <TripleField
      label={parameter.label}
      help={parameter.help}
      unit={parameter.unit}
      values={value.map((part) => valueAt(part, frame)) as [number, number, number]}
      range={parameter.range}
      step={parameter.step}
      standard={parameter.default}
      onChange={(part, next, gesture) => change(part, withValueAt(value[part]!, engine.frame, next), gesture)}
      onPointed={(part) => point(part !== null && parameter.keyable ? toggle(part) : null)}
      beside={(part) =>
        parameter.keyable && (
          <KeyButton
            name={`${parameter.label} ${'xyz'[part]}`}
            value={value[part]!}
            frame={frame}
            onToggle={toggle(part)}
          />
        )
      }
    />
  )
}

interface VariedFieldProps {
  parameter: VariedParameter
  value: Varied | null
  path: Path
}

/** Mean ± spread, each a number of its own; or none at all. */
export function VariedField({ parameter, value, path }: VariedFieldProps) {
  const change = useChangeAt(path)
  const { label, help, unit, range, usual, step, absent } = parameter
  if (value === null) {
    return (
      <Row label={label} {...(help !== undefined && { help })}>
        <Choices
          name={label}
          value="absent"
          options={{ absent: absent!, limited: 'limited' }}
          onChange={(choice) => choice === 'limited' && change({ mean: 90, spread: 30 })}
        />
      </Row>
    )
  }
  const { mean, spread } = typeof value === 'number' ? { mean: value, spread: 0 } : value
  return (
    <>
      <NumberField
        label={label}
        name={label}
        value={mean}
        unit={unit}
        help={help}
        range={range}
        usual={usual}
        step={step}
        onChange={(next, gesture) => change({ mean: next, spread }, gesture)}
      />
      <SpreadRow
        parameter={parameter}
        spread={spread}
        onChange={(next) => change({ mean, spread: next })}
        onAbsent={() => change(null)}
      />
    </>
  )
}

interface SpreadRowProps {
  parameter: VariedParameter
  spread: number
  onChange(spread: number): void
  onAbsent(): void
}

function SpreadRow({
  parameter: { label, unit, range, absent, ...parameter },
  spread,
  onChange,
  onAbsent,
}: SpreadRowProps) {
  const share = parameter.spread === 'share'
  return (
    <Box
      sx={{
        display: 'grid',
        gridTemplateColumns: '76px minmax(0, 1fr) minmax(78px, auto) 18px',
        gap: 1,
        alignItems: 'center',
        minHeight: 26,
      }}
    >
      <Box sx={{ gridColumn: 'span 2', display: 'flex', justifyContent: 'flex-end', minWidth: 0 }}>
        {absent ? (
          <Choices
            name={`${label} limit`}
            value="limited"
            options={{ absent, limited: 'limited' }}
            onChange={(choice) => choice === 'absent' && onAbsent()}
          />
        ) : (
          <Typography variant="caption" sx={{ color: 'text.secondary' }}>
            varies ±
          </Typography>
        )}
      </Box>
      <NumberInput
        name={`${label} spread`}
        unit={share ? '%' : `± ${unit}`}
        value={share ? spread * 100 : spread}
        range={share ? [0, 100] : [0, range[1]]}
        onChange={(next) => onChange(share ? next / 100 : next)}
      />
    </Box>
  )
}
