import { Box, InputBase } from '@mui/material'
import { useCallback, useRef, useState, type KeyboardEvent, type PointerEvent } from 'react'
import { evaluate } from '../fields/formula.ts'
import { MONO } from '../theme.ts'

interface WeightCellProps {
  label: string
  value: number
  onChange(value: number, gesture?: string): void
}

const MOST = 100
let gestures = 0

const clean = (weight: number): number => Math.round(Math.min(Math.max(weight, 0), MOST) * 100) / 100

/** How much of an influence a phase gets: click on or off, drag to change, type a number. */
export function WeightCell({ label, value, onChange }: WeightCellProps) {
  const [text, setText] = useState<string | null>(null)
  /** Typing has ended by a key: the cell has the focus again. */
  const back = useRef(false)
  const cell = useCallback((element: HTMLElement | null) => {
    if (back.current) element?.focus()
    back.current = false
  }, [])
  const dragging = useDrag(value, onChange)
  const pressed = (event: KeyboardEvent): void => {
    if (/^[0-9.]$/.test(event.key)) setText(event.key)
    else if (event.key === 'Enter') setText(String(value))
    else if (event.key === ' ') onChange(value === 0 ? 1 : 0)
    else if (event.key === 'ArrowUp') onChange(clean(value + 0.05))
    else if (event.key === 'ArrowDown') onChange(clean(value - 0.05))
    else return
    event.preventDefault()
    event.stopPropagation()
  }
  if (text !== null) {
    return (
      <WeightInput
        label={label}
        text={text}
        onType={setText}
        onDone={(weight, byKey) => {
          if (byKey) back.current = true
          if (weight !== null) onChange(clean(weight))
          setText(null)
        }}
      />
    )
  }
  return (
    <Box
      ref={cell}
      role="spinbutton"
      tabIndex={0}
      aria-label={label}
      aria-valuenow={value}
      aria-valuemin={0}
      aria-valuemax={MOST}
      {...dragging}
      onKeyDown={pressed}
      onDoubleClick={() => setText(String(value))}
      sx={cellStyle(value)}
    >
      <Box sx={{ position: 'absolute', inset: 0, width: `${Math.min(1, value) * 100}%`, bgcolor: 'cell' }} />
      <span style={{ position: 'relative' }}>{value === 0 ? '–' : value.toFixed(2)}</span>
    </Box>
  )
}

/** A drag changes the weight, a hundredth a pixel; a click turns it on or off. */
function useDrag(value: number, onChange: WeightCellProps['onChange']) {
  const drag = useRef<{ x: number; value: number; moved: boolean; gesture: string } | null>(null)
  return {
    onPointerDown(event: PointerEvent<HTMLElement>): void {
      event.currentTarget.setPointerCapture(event.pointerId)
      drag.current = { x: event.clientX, value, moved: false, gesture: `weight${++gestures}` }
    },
    onPointerMove(event: PointerEvent): void {
      const { current } = drag
      if (!current) return
      const pixels = event.clientX - current.x
      if (Math.abs(pixels) > 3) current.moved = true
      if (current.moved) onChange(clean(current.value + pixels * 0.01), current.gesture)
    },
    onPointerUp(): void {
      if (drag.current && !drag.current.moved) onChange(value === 0 ? 1 : 0)
      drag.current = null
    },
  }
}

interface WeightInputProps {
  label: string
  text: string
  onType(text: string): void
  /** With what was typed, or null where that has no value or was given up. */
  onDone(weight: number | null, byKey: boolean): void
}

function WeightInput({ label, text, onType, onDone }: WeightInputProps) {
  const take = (byKey: boolean): void => {
    try {
      onDone(evaluate(text), byKey)
    } catch {
      onDone(null, byKey)
    }
  }
  return (
    <InputBase
      autoFocus
      value={text}
      inputProps={{ 'aria-label': label }}
      onBlur={() => take(false)}
      onChange={(event) => onType(event.target.value)}
      onKeyDown={(event) => {
        event.stopPropagation()
        if (event.key === 'Enter') take(true)
        if (event.key === 'Escape') onDone(null, true)
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

const cellStyle = (value: number) => ({
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
})
