import { Box, Typography } from '@mui/material'
import { curveAt, EASES, type Ease, type Key } from '@tangle/core'
import { useRef, useState, type KeyboardEvent, type PointerEvent } from 'react'
import { MONO } from '../theme.ts'
import { Choices } from './Choices.tsx'
import { NumberInput } from './NumberField.tsx'

interface CurveEditorProps {
  name: string
  curve: Key[]
  /** What is shown along x; points may lie beyond it. */
  x: { label: string; range: [number, number] }
  y: { label: string; range: [number, number] }
  /** What is allowed. */
  limits: { x: [number, number]; y: [number, number] }
  onChange(curve: Key[], gesture?: string): void
}

const [WIDTH, HEIGHT, EDGE] = [252, 78, 8]
let gestures = 0

const EASE_WORDS = Object.fromEntries(EASES.map((ease) => [ease, ease])) as Record<Ease, string>

/** A curve by points: drag them, double-click to add one, Delete to take one away, arrows to nudge. */
export function CurveEditor({ name, curve, x, y, limits, onChange }: CurveEditorProps) {
  const box = useRef<SVGSVGElement>(null)
  const [chosen, setChosen] = useState<number | null>(null)
  const drag = useRef<{ index: number; gesture: string } | null>(null)
  const xs = curve.map((key) => key[0])
  const ys = curve.map((key) => key[1])
  const [x0, x1] = [Math.min(x.range[0], ...xs), Math.max(x.range[1], ...xs)]
  const [y0, y1] = [Math.min(y.range[0], ...ys), Math.max(y.range[1], ...ys)]
  const left = (value: number): number => EDGE + ((value - x0) / (x1 - x0 || 1)) * (WIDTH - 2 * EDGE)
  const top = (value: number): number => HEIGHT - EDGE - ((value - y0) / (y1 - y0 || 1)) * (HEIGHT - 2 * EDGE)
  const tidy = (value: number, [low, high]: [number, number], span: number): number => {
    const step = 10 ** Math.floor(Math.log10(Math.max(span, 1e-9) / 100))
    return Number(Math.min(Math.max(Math.round(value / step) * step, low), high).toPrecision(8))
  }
  const at = (event: { clientX: number; clientY: number }): [number, number] => {
    const { left: l, top: t, width, height } = box.current!.getBoundingClientRect()
    const u = ((event.clientX - l) / width) * WIDTH
    const v = ((event.clientY - t) / height) * HEIGHT
    return [
      tidy(x0 + ((u - EDGE) / (WIDTH - 2 * EDGE)) * (x1 - x0), limits.x, x1 - x0),
      tidy(y0 + ((HEIGHT - EDGE - v) / (HEIGHT - 2 * EDGE)) * (y1 - y0), limits.y, y1 - y0),
    ]
  }
  /** Puts a point elsewhere, between its neighbours. */
  const place = (index: number, px: number, py: number, gesture?: string): void => {
    const gap = (x1 - x0) / 1000
    const low = index > 0 ? curve[index - 1]![0] + gap : limits.x[0]
    const high = index + 1 < curve.length ? curve[index + 1]![0] - gap : limits.x[1]
    const [, , ease] = curve[index]!
    const point = [
      Math.min(Math.max(px, low), high),
      Math.min(Math.max(py, limits.y[0]), limits.y[1]),
    ] as const
    onChange(curve.with(index, ease ? [...point, ease] : [...point]), gesture)
  }
  const add = (event: { clientX: number; clientY: number }): void => {
    const [px, py] = at(event)
    if (curve.some((key) => Math.abs(key[0] - px) < (x1 - x0) / 500)) return
    const next: Key[] = [...curve, [px, py, 'smooth'] as Key].sort((a, b) => a[0] - b[0])
    onChange(next)
    setChosen(next.findIndex((key) => key[0] === px))
  }
  const remove = (index: number): void => {
    if (curve.length < 2) return
    onChange(curve.filter((_, i) => i !== index))
    setChosen(null)
  }
  const key = (index: number) => (event: KeyboardEvent) => {
    const [px, py] = curve[index]!
    const [dx, dy] = [(x1 - x0) / 50, (y1 - y0) / 50]
    const to: Record<string, [number, number]> = {
      ArrowLeft: [px - dx, py],
      ArrowRight: [px + dx, py],
      ArrowUp: [px, py + dy],
      ArrowDown: [px, py - dy],
    }
    if (event.key === 'Delete' || event.key === 'Backspace') remove(index)
    else if (to[event.key]) place(index, ...to[event.key]!)
    else return
    event.preventDefault()
    event.stopPropagation()
  }
  const steps = 120
  const line = Array.from({ length: steps + 1 }, (_, i) => {
    const value = x0 + ((x1 - x0) * i) / steps
    return `${i === 0 ? 'M' : 'L'}${left(value).toFixed(1)} ${top(curveAt(curve, value)).toFixed(1)}`
  }).join('')
  const point = chosen === null ? undefined : curve[chosen]
  return (
    <Box>
      <Box sx={{ border: 1, borderColor: 'divider', borderRadius: 1, position: 'relative' }}>
        <svg
          ref={box}
          viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
          width="100%"
          style={{ display: 'block', touchAction: 'none' }}
          role="group"
          aria-label={name}
          onDoubleClick={add}
          onPointerMove={(event: PointerEvent) => {
            if (!drag.current || event.buttons !== 1) return
            place(drag.current.index, ...at(event), drag.current.gesture)
          }}
          onPointerUp={() => (drag.current = null)}
        >
          <path d={line} fill="none" stroke="var(--mui-palette-primary-main)" strokeWidth="1.8" />
          {curve.map((one, i) => (
            <rect
              key={i}
              x={left(one[0]) - 4}
              y={top(one[1]) - 4}
              width="8"
              height="8"
              rx="2"
              tabIndex={0}
              role="button"
              aria-label={`${name}, point ${i + 1}: ${one[0]}, ${one[1]}`}
              fill={chosen === i ? 'var(--mui-palette-warning-main)' : 'var(--mui-palette-text-primary)'}
              style={{ cursor: 'move' }}
              onFocus={() => setChosen(i)}
              onKeyDown={key(i)}
              onDoubleClick={(event) => event.stopPropagation()}
              onPointerDown={(event) => {
                event.currentTarget.focus()
                box.current!.setPointerCapture(event.pointerId)
                drag.current = { index: i, gesture: `curve${++gestures}` }
              }}
            />
          ))}
        </svg>
        <Caption left={8} top={3} text={y.label} />
        <Caption right={8} bottom={2} text={x.label} />
      </Box>
      {point && chosen !== null && (
        <Box sx={{ mt: 0.5 }}>
          <Box sx={{ display: 'flex', gap: 0.5 }}>
            <NumberInput
              name={`${name} point x`}
              value={point[0]}
              range={limits.x}
              onChange={(next) => place(chosen, next, point[1])}
            />
            <NumberInput
              name={`${name} point y`}
              value={point[1]}
              range={limits.y}
              onChange={(next) => place(chosen, point[0], next)}
            />
          </Box>
          {chosen + 1 < curve.length && (
            <Choices
              name={`${name} ease`}
              value={point[2] ?? 'linear'}
              options={EASE_WORDS}
              onChange={(ease) => onChange(curve.with(chosen, [point[0], point[1], ease as Ease]))}
            />
          )}
        </Box>
      )}
    </Box>
  )
}

function Caption({
  text,
  ...place
}: {
  text: string
  left?: number
  right?: number
  top?: number
  bottom?: number
}) {
  return (
    <Typography
      sx={{
        position: 'absolute',
        ...toPixels(place),
        fontSize: 12,
        fontFamily: MONO,
        color: 'text.secondary',
        pointerEvents: 'none',
      }}
    >
      {text}
    </Typography>
  )
}
const toPixels = (place: Record<string, number | undefined>): Record<string, string> =>
  Object.fromEntries(
    Object.entries(place).flatMap(([side, n]) => (n === undefined ? [] : [[side, `${n}px`]])),
  )
