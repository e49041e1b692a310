import { Box } from '@mui/material'
import { useRef, type KeyboardEvent, type PointerEvent } from 'react'
import { engine } from '../engine/engine.ts'

interface TrackProps {
  first: number
  last: number
  frame: number
  computedTo: number | null
}

/** At most so many ticks, and their distances in frames. */
const MOST_TICKS = 48
const STEPS = [1, 2, 5, 10, 20, 50, 100, 200, 500, 1000]
const KEYS: Record<string, number> = {
  ArrowRight: 1,
  ArrowLeft: -1,
  ArrowUp: 1,
  ArrowDown: -1,
  PageUp: 10,
  PageDown: -10,
}

/** The line of frames: ticks, what is computed, and the playhead. */
export function Track({ first, last, frame, computedTo }: TrackProps) {
  const box = useRef<HTMLDivElement>(null)
  const span = Math.max(1, last - first)
  const left = (at: number): string => `${((at - first) / span) * 100}%`
  const seek = (event: PointerEvent): void => {
    const { x, width } = box.current!.getBoundingClientRect()
    engine.seek(first + ((event.clientX - x) / width) * span)
  }
  const pressed = (event: KeyboardEvent): void => {
    const step = KEYS[event.key]
    if (step === undefined) return
    event.preventDefault()
    event.stopPropagation()
    engine.seek(engine.frame + step * (event.shiftKey ? 10 : 1))
  }
  return (
    <Box
      ref={box}
      role="slider"
      tabIndex={0}
      aria-label="Playhead"
      aria-valuemin={first}
      aria-valuemax={last}
      aria-valuenow={frame}
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId)
        seek(event)
      }}
      onPointerMove={(event) => event.buttons === 1 && seek(event)}
      onKeyDown={pressed}
      sx={{ position: 'relative', height: 30, cursor: 'pointer', touchAction: 'none' }}
    >
      <Ticks first={first} span={span} left={left} />
      <Box sx={{ ...LINE, right: 0, bgcolor: 'divider' }} />
      {computedTo !== null && (
        <Box
          data-testid="computed"
          data-frame={computedTo}
          sx={{ ...LINE, width: left(computedTo), bgcolor: 'primary.main' }}
        />
      )}
      <Box sx={{ ...HEAD, left: left(frame) }} />
    </Box>
  )
}

const LINE = { position: 'absolute', left: 0, bottom: 5, height: 2 }
const HEAD = { position: 'absolute', top: 2, bottom: 2, width: 2, ml: '-1px', bgcolor: 'warning.main' }

function Ticks({ first, span, left }: { first: number; span: number; left(at: number): string }) {
  const every = STEPS.find((step) => span / step <= MOST_TICKS) ?? 2000
  const ticks = Array.from({ length: Math.floor(span / every) + 1 }, (_, i) => first + i * every)
  return ticks.map((at, i) => (
    <Box
      key={at}
      sx={{
        position: 'absolute',
        left: left(at),
        bottom: 8,
        width: '1px',
        height: i % 5 === 0 ? 9 : 5,
        bgcolor: 'line',
      }}
    />
  ))
}
