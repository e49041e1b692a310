import type { OwnAttribute, OwnValue } from '@tangle/core'
import { Row } from './Choices.tsx'
import { ColourInput } from './ColourInput.tsx'
import { NumberField } from './NumberField.tsx'
import { TripleField } from './TripleField.tsx'

interface OwnValueFieldProps {
  label: string
  type: OwnAttribute['type']
  unit: string
  value: OwnValue
  onChange(value: OwnValue, gesture?: string): void
}

/** A value of an artist's own attribute: a number, three of them, or a colour. */
export function OwnValueField({ label, type, unit, value, onChange }: OwnValueFieldProps) {
  if (type === 'colour') return <ColourField label={label} value={String(value)} onChange={onChange} />
  if (type === 'vector')
    return (
      <TripleField
        label={label}
        values={value as [number, number, number]}
        range={[-1e9, 1e9]}
        step={0.01}
        onChange={(part, next, gesture) =>
          onChange((value as number[]).with(part, next) as OwnValue, gesture)
        }
      />
    )
  return (
    <NumberField
      label={label}
      name={label}
      value={value as number}
      unit={unit}
      range={type === 'whole' ? [-(2 ** 24), 2 ** 24] : [-1e9, 1e9]}
      usual={[0, 10]}
      step={type === 'whole' ? 1 : 0.01}
      whole={type === 'whole'}
      onChange={onChange}
    />
  )
}

/** A colour, chosen with what the browser has for it. */
export function ColourField({
  label,
  value,
  onChange,
}: {
  label: string
  value: string
  onChange(value: string): void
}) {
  return (
    <Row label={label}>
      <ColourInput name={label} value={value} onChange={onChange} />
    </Row>
  )
}
