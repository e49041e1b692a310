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

type Point = [x: number, y: number]
interface Place {
  clientX: number
  clientY: number
}

const within = (value: number, [low, high]: Point): number => Math.min(Math.max(value, low), high)
/** To a step that suits the span, within limits. */
const tidy = (value: number, limits: Point, span: number): number => {
  const step = 10 ** Math.floor(Math.log10(Math.max(span, 1e-9) / 100))
  return Number(within(Math.round(value / step) * step, limits).toPrecision(8))
}

/** What of the curve's plane is shown, and where in the picture. */
function viewOf({ curve, x, y, limits }: Pick<CurveEditorProps, 'curve' | 'x' | 'y' | 'limits'>) {
  const spanOf = (range: Point, values: number[]): Point => [
    Math.min(range[0], ...values),
    Math.max(range[1], ...values),
  ]
  const [x0, x1] = spanOf(x.range, curve.map((key) => key[0])) // prettier-ignore
  const [y0, y1] = spanOf(y.range, curve.map((key) => key[1])) // prettier-ignore
  const [wide, high] = [WIDTH - 2 * EDGE, HEIGHT - 2 * EDGE]
  return {
    x0,
    width: x1 - x0,
    height: y1 - y0,
    left: (value: number): number => EDGE + ((value - x0) / (x1 - x0 || 1)) * wide,
    top: (value: number): number => HEIGHT - EDGE - ((value - y0) / (y1 - y0 || 1)) * high,
    /** The point of the plane under a pointer. */
    under({ clientX, clientY }: Place, box: DOMRect): Point {
      const u = ((clientX - box.left) / box.width) * WIDTH
      const v = ((clientY - box.top) / box.height) * HEIGHT
      return [
        tidy(x0 + ((u - EDGE) / wide) * (x1 - x0), limits.x, x1 - x0),
        tidy(y0 + ((HEIGHT - EDGE - v) / high) * (y1 - y0), limits.y, y1 - y0),
      ]
    },
  }
}
type CurveView = ReturnType<typeof viewOf>

/** What can be done to the points of a curve. */
function editsOf(
  { curve, limits, onChange }: CurveEditorProps,
  view: CurveView,
  choose: (n: number | null) => void,
) {
  /** Puts a point elsewhere, between its neighbours. */
  function place(index: number, [px, py]: Point, gesture?: string): void {
    const gap = view.width / 1000
    const low = index > 0 ? curve[index - 1]![0] + gap : limits.x[0]
    const high = index + 1 < curve.length ? curve[index + 1]![0] - gap : limits.x[1]
    const [, , ease] = curve[index]!
    const point: Point = [within(px, [low, high]), within(py, limits.y)]
    onChange(curve.with(index, ease ? [...point, ease] : point), gesture)
  }
  function add([px, py]: Point): void {
    if (curve.some((key) => Math.abs(key[0] - px) < view.width / 500)) return
    const next: Key[] = [...curve, [px, py, 'smooth'] as Key].sort((a, b) => a[0] - b[0])
    onChange(next)
    choose(next.findIndex((key) => key[0] === px))
  }
  function remove(index: number): void {
    if (curve.length < 2) return
    onChange(curve.filter((_, i) => i !== index))
    choose(null)
  }
  const pressed = (index: number) => (event: KeyboardEvent) => {
    const [px, py] = curve[index]!
    const [dx, dy] = [view.width / 50, view.height / 50]
    const to: Record<string, Point> = {
      ArrowLeft: [px - dx, py],
      ArrowRight: [px + dx, py],
      ArrowUp: [px, py + dy],
      ArrowDown: [px, py - dy],
    }
    if (event.key === 'Delete' || event.key === 'Backspace') remove(index)
    else if (to[event.key]) place(index, to[event.key]!)
    else return
    event.preventDefault()
    event.stopPropagation()
  }
  return { place, add, pressed }
}

/** A curve by points: drag them, double-click to add one, Delete to take one away, arrows to nudge. */
export function CurveEditor(props: CurveEditorProps) {
  const { name, curve, x, y } = props
  const box = useRef<SVGSVGElement>(null)
  const [chosen, setChosen] = useState<number | null>(null)
  const drag = useRef<{ index: number; gesture: string } | null>(null)
  const view = viewOf(props)
  const { place, add, pressed } = editsOf(props, view, setChosen)
  const under = (event: Place): Point => view.under(event, box.current!.getBoundingClientRect())
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
          onDoubleClick={(event) => add(under(event))}
          onPointerMove={(event: PointerEvent) => {
            if (!drag.current || event.buttons !== 1) return
            place(drag.current.index, under(event), drag.current.gesture)
          }}
          onPointerUp={() => (drag.current = null)}
        >
          <path
            d={lineOf(curve, view)}
            fill="none"
            stroke="var(--mui-palette-primary-main)"
            strokeWidth="1.8"
          />
          {curve.map(([px, py], i) => (
            <rect
              key={i}
              x={view.left(px) - 4}
              y={view.top(py) - 4}
              width="8"
              height="8"
              rx="2"
              tabIndex={0}
              role="button"
              aria-label={`${name}, point ${i + 1}: ${px}, ${py}`}
              fill={chosen === i ? 'var(--mui-palette-warning-main)' : 'var(--mui-palette-text-primary)'}
              style={{ cursor: 'move' }}
              onFocus={() => setChosen(i)}
              onKeyDown={pressed(i)}
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
      {chosen !== null && curve[chosen] && <PointFields {...props} index={chosen} place={place} />}
    </Box>
  )
}

function lineOf(curve: Key[], { x0, width, left, top }: CurveView): string {
  const steps = 120
  return Array.from({ length: steps + 1 }, (_, i) => {
    const value = x0 + (width * i) / steps
    return `${i === 0 ? 'M' : 'L'}${left(value).toFixed(1)} ${top(curveAt(curve, value)).toFixed(1)}`
  }).join('')
}

interface PointFieldsProps extends CurveEditorProps {
  index: number
  place(index: number, point: Point): void
}

/** The chosen point in numbers, and how the curve goes on from it. */
function PointFields({ name, curve, limits, index, place, onChange }: PointFieldsProps) {
  const [px, py, ease] = curve[index]!
  return (
    <Box sx={{ mt: 0.5 }}>
      <Box sx={{ display: 'flex', gap: 0.5 }}>
        <NumberInput
          name={`${name} point x`}
          value={px}
          range={limits.x}
          onChange={(next) => place(index, [next, py])}
        />
        <NumberInput
          name={`${name} point y`}
          value={py}
          range={limits.y}
          onChange={(next) => place(index, [px, next])}
        />
      </Box>
      {index + 1 < curve.length && (
        <Choices
          name={`${name} ease`}
          value={ease ?? 'linear'}
          options={EASE_WORDS}
          onChange={(next) => onChange(curve.with(index, [px, py, next as Ease]))}
        />
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
