import { Box, Tooltip } from '@mui/material'
import type { ReactNode } from 'react'
import { NumberInput, Scrubbed, useSnap } from './NumberField.tsx'

const AXES = ['x', 'y', 'z'] as const

interface TripleFieldProps {
  label: string
  help?: string | undefined
  unit?: string | undefined
  values: [number, number, number]
  range: [number, number]
  step: number
  standard?: [number, number, number]
  onChange(part: number, value: number, gesture?: string): void
  /** What stands beside each number, such as its key button. */
  beside?(part: number): ReactNode
  /** Hears which of the three is under the pointer; null: none. */
  onPointed?(part: number | null): void
}

/** Three numbers in one row: drag the letter of one to change it. */
export function TripleField({
  label,
  help,
  unit,
  values,
  range,
  step,
  standard,
  onChange,
  beside,
  onPointed,
}: TripleFieldProps) {
  return (
    <Box
      sx={{
        display: 'grid',
        gridTemplateColumns: '67px 1fr',
        gap: 0.25,
        alignItems: 'center',
        minHeight: 28,
      }}
    >
      <Tooltip title={help ?? ''} placement="left">
        <Box component="span" sx={{ fontSize: 13, lineHeight: '14px' }}>
          {label}
          {unit && (
            <Box component="span" sx={{ color: 'text.secondary', fontSize: 12 }}>
              {' '}
              {unit}
            </Box>
          )}
        </Box>
      </Tooltip>
      <Box sx={{ display: 'grid', gridTemplateColumns: 'repeat(3, minmax(0, 1fr))', gap: 0.25 }}>
        {AXES.map((axis, part) => (
          <Part
            key={axis}
            axis={axis}
            name={`${label} ${axis}`}
            unit={unit}
            value={values[part]!}
            range={range}
            step={step}
            standard={standard?.[part]}
            onChange={(value, gesture) => onChange(part, value, gesture)}
            onPointed={(inside) => onPointed?.(inside ? part : null)}
          >
            {beside?.(part)}
          </Part>
        ))}
      </Box>
    </Box>
  )
}

interface PartProps {
  axis: string
  name: string
  unit: string | undefined
  value: number
  range: [number, number]
  step: number
  standard: number | undefined
  onChange(value: number, gesture?: string): void
  onPointed(inside: boolean): void
  children: ReactNode
}

function Part({ axis, name, unit, value, range, step, standard, onChange, onPointed, children }: PartProps) {
  const { snap, gesture, begin } = useSnap({ step, range })
  return (
    <Box
      onPointerEnter={() => onPointed(true)}
      onPointerLeave={() => onPointed(false)}
      sx={{ display: 'flex', alignItems: 'center', minWidth: 0 }}
    >
      <Scrubbed
        value={value}
        step={step}
        onStart={() => begin('scrub')}
        onScrub={(next) => onChange(snap(next), gesture.current)}
        onReset={standard === undefined ? undefined : () => onChange(standard)}
      >
        <Box component="span" sx={{ color: 'text.secondary', fontSize: 12, pl: 0.25 }}>
          {axis}
        </Box>
      </Scrubbed>
      <NumberInput name={name} value={value} unit={unit} range={range} room="fixed" onChange={onChange} />
      {children}
    </Box>
  )
}
