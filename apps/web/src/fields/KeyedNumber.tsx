import { Box, Typography } from '@mui/material'
import {
  valueAt,
  type Keyed,
  type NumberParameter,
  type Varied,
  type VariedParameter,
  type VectorParameter,
} from '@tangle/core'
import { useEngine } from '../engine/useEngine.ts'
import { useAct } from '../store/index.ts'
import { set, type Path } from '../store/shot.ts'
import { Choices } from './Choices.tsx'
import { KeyButton, underPointer } from './KeyButton.tsx'
import { keyToggled, withValueAt } from './keyed.ts'
import { NumberField, NumberInput } from './NumberField.tsx'

interface KeyedNumberProps {
  parameter: NumberParameter | VectorParameter
  value: Keyed
  path: Path
  label: string
  standard?: number
  slider?: boolean
}

/** A number that may have keys: shows and changes its value at the playhead. */
export function KeyedNumber({ parameter, value, path, label, standard, slider }: KeyedNumberProps) {
  const act = useAct()
  const frame = useEngine((engine) => engine.frame)
  const change = (next: Keyed, gesture?: string): void =>
    void act(set({ path, value: next, ...(gesture ? { gesture: `${path.join('.')} ${gesture}` } : {}) }))
  const toggle = (): void => change(keyToggled(value, frame))
  const usual = standard ?? (parameter.type === 'number' ? parameter.default : undefined)
  return (
    <Box
      onPointerEnter={() => (underPointer.toggleKey = parameter.keyable ? toggle : null)}
      onPointerLeave={() => (underPointer.toggleKey = null)}
    >
      <NumberField
        label={label}
        name={`${parameter.label}${label === parameter.label ? '' : ` ${label}`}`}
        value={valueAt(value, frame)}
        unit={parameter.unit}
        help={parameter.help}
        range={parameter.range}
        usual={parameter.usual}
        step={parameter.step}
        whole={parameter.type === 'number' && parameter.whole}
        {...(usual === undefined ? {} : { standard: usual })}
        {...(slider === undefined ? {} : { slider })}
        onChange={(next, gesture) => change(withValueAt(value, frame, next), gesture)}
      >
        {parameter.keyable && (
          <KeyButton
            name={`${parameter.label} ${label === parameter.label ? '' : label}`.trim()}
            value={value}
            frame={frame}
            onToggle={toggle}
          />
        )}
      </NumberField>
    </Box>
  )
}

export function VectorField({
  parameter,
  value,
  path,
}: {
  parameter: VectorParameter
  value: [Keyed, Keyed, Keyed]
  path: Path
}) {
  return (
    <Box sx={{ py: 0.25 }}>
      <Typography variant="body2" title={parameter.help}>
        {parameter.label}
      </Typography>
      <Box sx={{ pl: 1 }}>
        {(['x', 'y', 'z'] as const).map((axis, i) => (
          <KeyedNumber
            key={axis}
            parameter={parameter}
            value={value[i]!}
            path={[...path, i]}
            label={axis}
            standard={parameter.default[i]!}
          />
        ))}
      </Box>
    </Box>
  )
}

/** Mean ± spread, each a number of its own. */
export function VariedField({
  parameter,
  value,
  path,
}: {
  parameter: VariedParameter
  value: Varied | null
  path: Path
}) {
  const act = useAct()
  const change = (next: Varied | null, gesture?: string): void =>
    void act(set({ path, value: next, ...(gesture ? { gesture: `${path.join('.')} ${gesture}` } : {}) }))
  if (value === null) {
    return (
      <Box
        sx={{ display: 'grid', gridTemplateColumns: '84px 1fr', gap: 1, alignItems: 'center', minHeight: 28 }}
      >
        <Typography variant="body2" title={parameter.help}>
          {parameter.label}
        </Typography>
        <Choices
          name={parameter.label}
          value="absent"
          options={{ absent: parameter.absent!, limited: 'limited' }}
          onChange={(choice) => choice === 'limited' && change({ mean: 90, spread: 30 })}
        />
      </Box>
    )
  }
  const { mean, spread } = typeof value === 'number' ? { mean: value, spread: 0 } : value
  const share = parameter.spread === 'share'
  return (
    <>
      <NumberField
        label={parameter.label}
        name={parameter.label}
        value={mean}
        unit={parameter.unit}
        help={parameter.help}
        range={parameter.range}
        usual={parameter.usual}
        step={parameter.step}
        onChange={(next, gesture) => change({ mean: next, spread }, gesture)}
      />
      <Box
        sx={{
          display: 'grid',
          gridTemplateColumns: '84px 1fr 96px 18px',
          gap: 1,
          alignItems: 'center',
          minHeight: 26,
        }}
      >
        <span />
        {parameter.absent ? (
          <Choices
            name={`${parameter.label} limit`}
            value="limited"
            options={{ absent: parameter.absent, limited: 'limited' }}
            onChange={(choice) => choice === 'absent' && change(null)}
          />
        ) : (
          <Typography variant="caption" sx={{ color: 'text.secondary', textAlign: 'right' }}>
            varies ±
          </Typography>
        )}
        <NumberInput
          name={`${parameter.label} spread`}
          unit={share ? '%' : `± ${parameter.unit}`}
          value={share ? spread * 100 : spread}
          range={share ? [0, 100] : [0, parameter.range[1]]}
          onChange={(next) => change({ mean, spread: share ? next / 100 : next })}
        />
      </Box>
    </>
  )
}
