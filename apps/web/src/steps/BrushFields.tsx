import { Box, Button, Typography } from '@mui/material'
import type { ReactNode } from 'react'
import { Choices, Row } from '../fields/Choices.tsx'
import { NumberField } from '../fields/NumberField.tsx'

interface BrushChange {
  /** What strokes do; null takes the brush away. */
  brush?: string | null
  radius?: number
  strength?: number
}

interface BrushFieldsProps {
  /** What strokes can do, by the word that the document has for it. */
  brushes: Record<string, string>
  help: string
  /** Null: the pointer has no brush. */
  brush: string | null
  radius: number
  strength: number
  strokes: unknown[]
  onChange(change: BrushChange): void
  onClear(): void
  /** What some brushes ask besides. */
  children?: ReactNode
}

/** The brush: what it does, how wide and how strong, and how many strokes there are. */
export function BrushFields({
  brushes,
  help,
  brush,
  radius,
  strength,
  strokes,
  onChange,
  onClear,
  children,
}: BrushFieldsProps) {
  return (
    <>
      <Row label="Brush" help={help}>
        <Choices
          name="Brush"
          value={brush ?? 'off'}
          options={{ ...brushes, off: 'off' }}
          onChange={(next) => onChange({ brush: next === 'off' ? null : next })}
        />
      </Row>
      <NumberField
        label="Size"
        name="Brush size"
        unit="m"
        value={radius}
        range={[0.0001, 1e4]}
        usual={[0.005, 2]}
        step={0.005}
        onChange={(next) => onChange({ radius: next })}
      />
      <NumberField
        label="Strength"
        name="Brush strength"
        value={strength}
        range={[0, 1]}
        usual={[0, 1]}
        step={0.01}
        onChange={(next) => onChange({ strength: next })}
      />
      {children}
      <Box sx={{ display: 'flex', alignItems: 'center' }}>
        <Typography data-testid="strokes" sx={{ fontSize: 12, color: 'text.secondary', flex: 1 }}>
          {strokes.length === 1 ? '1 stroke' : `${strokes.length} strokes`}; drag on the mesh, Ctrl Z takes
          one back
        </Typography>
        <Button disabled={strokes.length === 0} onClick={onClear}>
          Clear
        </Button>
      </Box>
    </>
  )
}
