import CloseOutlined from '@mui/icons-material/CloseOutlined'
import { Box, IconButton, Typography } from '@mui/material'
import { liftedValues, type LiftedValue } from '@tangle/core'
import { useMemo, useState } from 'react'
import { NumberField } from '../fields/NumberField.tsx'
import { useAct, useChange, useShot } from '../store/index.ts'
import { set, type Path } from '../store/shot.ts'

/** The values that a recipe lifts out, to try first. */
export function TryFirst() {
  const act = useAct()
  const put = useChange()
  const shot = useShot()
  const values = useMemo(() => liftedValues(shot), [shot])
  if (values.length === 0) return null
  return (
    <Box
      component="section"
      aria-label="Try first"
      sx={{ px: 1.75, py: 1, borderBottom: 1, borderColor: 'divider' }}
    >
      <Box sx={{ display: 'flex', alignItems: 'center' }}>
        <Typography component="h2" sx={{ fontSize: 13, fontWeight: 600, flex: 1 }}>
          Try first
        </Typography>
        <IconButton
          size="small"
          aria-label="Take “Try first” away"
          onClick={() => act(set({ path: ['lifted'], value: [] }))}
        >
          <CloseOutlined sx={{ fontSize: 16 }} />
        </IconButton>
      </Box>
      {values.map((value) => (
        <LiftedField key={value.path.join('.')} lifted={value} onChange={put} />
      ))}
    </Box>
  )
}

interface LiftedProps {
  lifted: LiftedValue
  onChange(path: Path, value: number, gesture?: string): void
}

/** Its slider goes from none to three times what it was when it was first seen. */
function LiftedField({
  lifted: { label, path, name, value, unit, range, usual, whole },
  onChange,
}: LiftedProps) {
  const [most] = useState(value > 0 ? 3 * value : usual[1])
  const [low, high] = [Math.max(0, range[0]), Math.min(most, range[1])]
  return (
    <NumberField
      label={label}
      name={label}
      help={name}
      value={value}
      unit={unit}
      range={range}
      usual={[low, high]}
      step={whole ? 1 : Number(((high - low) / 200).toPrecision(1))}
      whole={whole}
      onChange={(next, gesture) => onChange(path, next, gesture)}
    />
  )
}
