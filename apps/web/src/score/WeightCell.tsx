import { Box, InputBase } from '@mui/material'
import { useRef, useState, type KeyboardEvent, type PointerEvent } from 'react'
import { evaluate } from '../fields/formula.ts'
import { MONO } from '../theme.ts'

interface WeightCellProps {
  label: string
  value: number
  onChange(value: number, gesture?: string): void
}

const MOST = 100
let gestures = 0

/** How much of an influence a phase gets: click on or off, drag to change, type a number. */
export function WeightCell({ label, value, onChange }: WeightCellProps) {
  const [text, setText] = useState<string | null>(null)
  const drag = useRef<{ x: number; value: number; moved: boolean; gesture: string } | null>(null)
  const clean = (next: number): number => Math.round(Math.min(Math.max(next, 0), MOST) * 100) / 100

  const down = (event: PointerEvent<HTMLElement>): void => {
    event.currentTarget.setPointerCapture(event.pointerId)
    drag.current = { x: event.clientX, value, moved: false, gesture: `weight${++gestures}` }
  }
  const move = (event: PointerEvent): void => {
    const { current } = drag
    if (!current) return
    const pixels = event.clientX - current.x
    if (Math.abs(pixels) > 3) current.moved = true
    if (current.moved) onChange(clean(current.value + pixels * 0.01), current.gesture)
  }
  const up = (): void => {
    if (drag.current && !drag.current.moved) onChange(value === 0 ? 1 : 0)
    drag.current = null
  }
  const key = (event: KeyboardEvent): void => {
    if (/^[0-9.]$/.test(event.key)) setText(event.key)
    else if (event.key === 'Enter') setText(String(value))
    else if (event.key === ' ') onChange(value === 0 ? 1 : 0)
    else if (event.key === 'ArrowUp') onChange(clean(value + 0.05))
    else if (event.key === 'ArrowDown') onChange(clean(value - 0.05))
    else return
    event.preventDefault()
    event.stopPropagation()
  }
  const take = (): void => {
    try {
      if (text !== null) onChange(clean(evaluate(text)))
    } catch {
      // what has no value changes nothing
    }
    setText(null)
  }

  if (text !== null) {
    return (
      <InputBase
        autoFocus
        value={text}
        inputProps={{ 'aria-label': label }}
        onBlur={take}
        onChange={(event) => setText(event.target.value)}
        onKeyDown={(event) => {
          event.stopPropagation()
          if (event.key === 'Enter') take()
          if (event.key === 'Escape') setText(null)
        }}
        sx={{
          fontFamily: MONO,
          fontSize: 12.5,
          mx: 0.5,
          height: 22,
          border: 1,
          borderColor: 'primary.main',
          borderRadius: 0.75,
          '& input': { textAlign: 'center', p: 0 },
        }}
      />
    )
  }
  return (
    <Box
      role="spinbutton"
      tabIndex={0}
      aria-label={label}
      aria-valuenow={value}
      aria-valuemin={0}
      aria-valuemax={MOST}
      onPointerDown={down}
      onPointerMove={move}
      onPointerUp={up}
      onKeyDown={key}
      onDoubleClick={() => setText(String(value))}
      sx={{
        position: 'relative',
        mx: 0.5,
        height: 22,
        borderRadius: 0.75,
        overflow: 'hidden',
        cursor: 'ew-resize',
        touchAction: 'none',
        border: 1,
        borderStyle: value === 0 ? 'dashed' : 'solid',
        borderColor: value === 0 ? 'divider' : 'cell',
        display: 'grid',
        placeItems: 'center',
        fontFamily: MONO,
        fontSize: 12.5,
        color: value === 0 ? 'text.secondary' : 'text.primary',
        userSelect: 'none',
      }}
    >
      <Box sx={{ position: 'absolute', inset: 0, width: `${Math.min(1, value) * 100}%`, bgcolor: 'cell' }} />
      <span style={{ position: 'relative' }}>{value === 0 ? '–' : value.toFixed(2)}</span>
    </Box>
  )
}
