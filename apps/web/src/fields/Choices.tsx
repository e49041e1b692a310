import { Box, MenuItem, Select, ToggleButton, ToggleButtonGroup, Typography } from '@mui/material'
import type { ReactNode } from 'react'

interface ChoicesProps {
  name: string
  value: string
  options: Record<string, string>
  onChange(value: string): void
}

/** Pixels side by side, of a letter, and of the space around a word. */
const ROOM = 210
const LETTER = 6.3
const AROUND = 18

/** A few options side by side, or in a list where their words are long. */
export function Choices({ name, value, options, onChange }: ChoicesProps) {
  const words = Object.values(options)
  if (words.join('').length * LETTER + words.length * AROUND > ROOM)
    return (
      <Select
        value={value}
        fullWidth
        inputProps={{ 'aria-label': name }}
        onChange={(event) => onChange(event.target.value)}
      >
        {Object.entries(options).map(([key, label]) => (
          <MenuItem key={key} value={key}>
            {label}
          </MenuItem>
        ))}
      </Select>
    )
  return (
    <ToggleButtonGroup
      exclusive
      size="small"
      value={value}
      aria-label={name}
      onChange={(_, next: string | null) => next !== null && onChange(next)}
      sx={{ flexWrap: 'wrap' }}
    >
      {Object.entries(options).map(([key, label]) => (
        <ToggleButton
          key={key}
          value={key}
          sx={{
            py: 0,
            px: 1,
            height: 24,
            fontSize: 12,
            textTransform: 'none',
            color: 'text.secondary',
            '&.Mui-selected, &.Mui-selected:hover': { color: 'primary.main', bgcolor: 'background.row' },
          }}
        >
          {label}
        </ToggleButton>
      ))}
    </ToggleButtonGroup>
  )
}

/** A label with its control. */
export function Row({ label, help, children }: { label: string; help?: string; children: ReactNode }) {
  return (
    <Box
      sx={{ display: 'grid', gridTemplateColumns: '84px 1fr', gap: 1, alignItems: 'center', minHeight: 30 }}
    >
      <Typography variant="body2" title={help}>
        {label}
      </Typography>
      <Box sx={{ minWidth: 0 }}>{children}</Box>
    </Box>
  )
}
