import { Box } from '@mui/material'
import { useRef } from 'react'

interface ColourInputProps {
  name: string
  /** "#rrggbb" */
  value: string
  /** While one colour after another is looked at, all are of one gesture. */
  onChange(value: string, gesture: string): void
}

let gestures = 0

/** A colour, chosen by what the browser has for it. */
export function ColourInput({ name, value, onChange }: ColourInputProps) {
  const gesture = useRef('')
  return (
    <Box
      component="input"
      type="color"
      aria-label={name}
      value={value}
      onFocus={() => (gesture.current = `colour${++gestures}`)}
      onChange={(event) => onChange(event.target.value, gesture.current)}
      sx={{
        width: 40,
        height: 24,
        p: 0,
        border: 1,
        borderColor: 'divider',
        borderRadius: 0.5,
        bgcolor: 'transparent',
      }}
    />
  )
}
