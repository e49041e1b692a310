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
import { useAct } from '../store/index.ts'
import { set, type Path } from '../store/shot.ts'
import { Choices } from './Choices.tsx'
import { KeyButton, underPointer } from './KeyButton.tsx'
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
  const act = useAct()
  const shown = useFrameOf(isKeyed(value))
  const change = (next: Keyed, gesture?: string): void =>
    void act(set({ path, value: next, ...(gesture ? { gesture: `${path.join('.')} ${gesture}` } : {}) }))
  const toggle = (): void => change(keyToggled(value, engine.frame))
  return (
    <Box
      onPointerEnter={() => (underPointer.toggleKey = parameter.keyable ? toggle : null)}
      onPointerLeave={() => (underPointer.toggleKey = null)}
    >
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
  const act = useAct()
  const frame = useFrameOf(value.some(isKeyed))
  const change = (part: number, next: Keyed, gesture?: string): void =>
    void act(
      set({
        path: [...path, part],
        value: next,
        ...(gesture ? { gesture: `${path.join('.')} ${gesture}` } : {}),
      }),
    )
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
      beside={(part) =>
        parameter.keyable && (
          <KeyButton
            name={`${parameter.label} ${'xyz'[part]}`}
            value={value[part]!}
            frame={frame}
            onToggle={() => change(part, keyToggled(value[part]!, engine.frame))}
          />
        )
      }
    />
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
          gridTemplateColumns: '76px minmax(0, 1fr) minmax(78px, auto) 18px',
          gap: 1,
          alignItems: 'center',
          minHeight: 26,
        }}
      >
        <Box sx={{ gridColumn: 'span 2', display: 'flex', justifyContent: 'flex-end', minWidth: 0 }}>
          {parameter.absent ? (
            <Choices
              name={`${parameter.label} limit`}
              value="limited"
              options={{ absent: parameter.absent, limited: 'limited' }}
              onChange={(choice) => choice === 'absent' && change(null)}
            />
          ) : (
            <Typography variant="caption" sx={{ color: 'text.secondary' }}>
              varies ±
            </Typography>
          )}
        </Box>
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
