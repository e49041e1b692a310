import { Box, Typography } from '@mui/material'
import { isKeyed, valueAt, type Key, type Keyed, type NumberParameter } from '@tangle/core'
import { useRef, useState, type KeyboardEvent, type PointerEvent } from 'react'
import { engine } from '../engine/engine.ts'
import { useEngine } from '../engine/useEngine.ts'
import { shown } from '../fields/formula.ts'
import { MONO } from '../theme.ts'
import { KeyTools } from './KeyTools.tsx'
import { keyedOf, keysOf, removed, slid, type Edited } from './keyEdits.ts'
import { pathOf } from './StrengthLine.tsx'
import { useView } from './useView.ts'

const CURVE_HEIGHT = 96
const TOOLS = 24
const EDGE = 7
const POINTS = 240

interface StrengthCurveProps {
  name: string
  strength: Keyed
  parameter: NumberParameter
  onChange(strength: Keyed, gesture?: string): void
}

interface Drag {
  x: number
  y: number
  gesture: string
  /** Keys and chosen frames when it began. */
  keys: Key[]
  frames: Set<number>
  /** A box over empty ground chooses keys. */
  box: boolean
}
let gestures = 0

/**
 * The strength of the selected influence over frames: drag keys (Shift leaves the whole frames), double-click
 * to add one (Enter: at the playhead), drag a box to choose many (comma and full stop: one after the other),
 * arrows to nudge, Delete to take away.
 */
export function StrengthCurve({ name, strength, parameter, onChange }: StrengthCurveProps) {
  const view = useView()
  const frame = useEngine((e) => e.frame)
  const area = useRef<HTMLDivElement>(null)
  const drag = useRef<Drag | null>(null)
  const [chosen, setChosen] = useState<Set<number>>(new Set())
  const [box, setBox] = useState<{ from: [number, number]; to: [number, number] } | null>(null)
  const keys = keysOf(strength, view.from)
  const still = valueAt(strength, frame)
  const apply = ({ keys: next, frames }: Edited, gesture?: string): void => {
    setChosen(frames)
    onChange(keyedOf(next, still), gesture)
  }

  const values = Array.from({ length: POINTS + 1 }, (_, i) =>
    valueAt(strength, view.from + (view.span * i) / POINTS),
  )
  const all = [...values, ...keys.map((key) => key[1])]
  const fitted = { high: Math.max(...all, 0), low: Math.min(...all, 0) }
  // while a key is dragged the scale stands still
  const [scale, setScale] = useState<typeof fitted | null>(null)
  const { high, low } = scale ?? (fitted.high === fitted.low ? { high: 1, low: 0 } : fitted)
  const height = CURVE_HEIGHT - TOOLS
  const y = (value: number): number => height - EDGE - ((value - low) / (high - low)) * (height - 2 * EDGE)
  const perPixel = (high - low) / (height - 2 * EDGE)
  const at = (event: { clientX: number; clientY: number }): [frame: number, value: number] => {
    const { left, top, width } = area.current!.getBoundingClientRect()
    return [
      view.from + ((event.clientX - left) / width) * view.span,
      low + (height - EDGE - (event.clientY - top)) * perPixel,
    ]
  }
  const tidy = (value: number): number => {
    const step = 10 ** Math.floor(Math.log10((high - low) / 50))
    return Number((Math.round(value / step) * step).toPrecision(10))
  }

  const press = (event: PointerEvent<HTMLElement>, key: Key | null): void => {
    event.stopPropagation()
    area.current!.setPointerCapture(event.pointerId)
    area.current!.focus()
    let frames = chosen
    if (key) {
      const one = new Set([key[0]])
      frames = chosen.has(key[0]) ? chosen : event.shiftKey ? new Set([...chosen, key[0]]) : one
      setChosen(frames)
      setScale({ high, low })
    } else if (!event.shiftKey) setChosen((frames = new Set()))
    drag.current = {
      x: event.clientX,
      y: event.clientY,
      gesture: `keys${++gestures}`,
      keys,
      frames,
      box: !key,
    }
  }
  const move = (event: PointerEvent): void => {
    const { current } = drag
    if (!current || event.buttons !== 1) return
    const [dx, dy] = [event.clientX - current.x, event.clientY - current.y]
    if (Math.abs(dx) + Math.abs(dy) < 3) return
    if (current.box) {
      const from = at({ clientX: current.x, clientY: current.y })
      const to = at(event)
      setBox({ from, to })
      const within = (x: number, a: number, b: number): boolean => x >= Math.min(a, b) && x <= Math.max(a, b)
      setChosen(
        new Set(
          keys
            .filter((key) => within(key[0], from[0], to[0]) && within(key[1], from[1], to[1]))
            .map((key) => key[0]),
        ),
      )
      return
    }
    const { width } = area.current!.getBoundingClientRect()
    const frames = (dx / width) * view.span
    const by = {
      frames: event.shiftKey ? Math.round(frames * 10) / 10 : Math.round(frames),
      value: tidy(-dy * perPixel),
    }
    apply(slid(current.keys, current.frames, by, parameter.range), current.gesture)
  }
  const release = (): void => {
    drag.current = null
    setBox(null)
    setScale(null)
  }
  const addAt = (at: number, value: number): void => {
    const key: Key = [at, value, 'smooth']
    const others = isKeyed(strength) ? keys.filter((one) => one[0] !== at) : []
    apply({ keys: [...others, key].sort((a, b) => a[0] - b[0]), frames: new Set([at]) })
  }
  const add = (event: { clientX: number; clientY: number }): void => {
    const [x, value] = at(event)
    const [limitLow, limitHigh] = parameter.range
    addAt(Math.round(x), tidy(Math.min(Math.max(value, limitLow), limitHigh)))
  }
  /** Chooses the key after the chosen one, or before it. */
  const chooseNext = (by: number): void => {
    const last = keys.findIndex((key) => chosen.has(key[0]))
    const next = keys[(last + by + keys.length) % keys.length]
    if (next && isKeyed(strength)) setChosen(new Set([next[0]]))
  }
  const keyPressed = (event: KeyboardEvent): void => {
    const nudge = (frames: number, value: number): void =>
      apply(slid(keys, chosen, { frames, value: value * parameter.step }, parameter.range))
    const far = event.shiftKey ? 10 : 1
    if (event.key === 'a' && (event.ctrlKey || event.metaKey)) setChosen(new Set(keys.map((key) => key[0])))
    else if (event.key === 'Enter') addAt(frame, still)
    else if (event.key === ',' || event.key === '.') chooseNext(event.key === '.' ? 1 : -1)
    else if (chosen.size === 0) return
    else if (event.key === 'Delete' || event.key === 'Backspace') apply(removed(keys, chosen))
    else if (event.key === 'ArrowLeft') nudge(-far, 0)
    else if (event.key === 'ArrowRight') nudge(far, 0)
    else if (event.key === 'ArrowUp') nudge(0, far)
    else if (event.key === 'ArrowDown') nudge(0, -far)
    else if (event.key === 'Escape') setChosen(new Set())
    else return
    event.preventDefault()
    event.stopPropagation()
  }
  const line = pathOf(values, y)
  const lone = chosen.size === 1 ? keys.find((key) => chosen.has(key[0])) : undefined
  return (
    <Box sx={{ mr: 2.5 }} onClick={(event) => event.stopPropagation()}>
      <KeyTools
        keys={keys}
        chosen={isKeyed(strength) ? chosen : new Set()}
        frame={frame}
        limits={parameter.range}
        lone={isKeyed(strength) ? lone : undefined}
        onEdit={apply}
        onAll={() => setChosen(new Set(keys.map((key) => key[0])))}
      />
      <Box
        ref={area}
        tabIndex={0}
        role="application"
        aria-label={`Strength of ${name} over frames`}
        onWheel={view.onWheel}
        onKeyDown={keyPressed}
        onPointerDown={(event) => press(event, null)}
        onPointerMove={move}
        onPointerUp={release}
        onDoubleClick={add}
        sx={{
          position: 'relative',
          height,
          bgcolor: 'background.default',
          borderRadius: 0.5,
          touchAction: 'none',
          overflow: 'hidden',
        }}
      >
        <svg
          width="100%"
          height={height}
          viewBox={`0 0 1000 ${height}`}
          preserveAspectRatio="none"
          style={{ display: 'block' }}
          aria-hidden
        >
          <path
            d={`M0 ${y(0)}H1000`}
            stroke="var(--mui-palette-divider)"
            strokeWidth="1"
            vectorEffect="non-scaling-stroke"
          />
          <path
            d={line}
            fill="none"
            stroke="var(--mui-palette-primary-main)"
            strokeWidth="2"
            vectorEffect="non-scaling-stroke"
          />
          <path
            d={`M${view.share(frame) * 1000} 0V${height}`}
            stroke="var(--mui-palette-warning-main)"
            strokeWidth="1.3"
            vectorEffect="non-scaling-stroke"
          />
          {box && (
            <rect
              x={Math.min(view.share(box.from[0]), view.share(box.to[0])) * 1000}
              width={Math.abs(view.share(box.from[0]) - view.share(box.to[0])) * 1000}
              y={Math.min(y(box.from[1]), y(box.to[1]))}
              height={Math.abs(y(box.from[1]) - y(box.to[1]))}
              fill="var(--mui-palette-primary-main)"
              opacity="0.18"
            />
          )}
        </svg>
        <Typography
          sx={{
            position: 'absolute',
            left: 4,
            top: 0,
            fontFamily: MONO,
            fontSize: 12,
            color: 'text.secondary',
            pointerEvents: 'none',
          }}
        >
          {shown(high)} {parameter.unit}
        </Typography>
        {!isKeyed(strength) && (
          <Typography
            sx={{
              position: 'absolute',
              right: 6,
              bottom: 2,
              fontSize: 12,
              color: 'text.secondary',
              pointerEvents: 'none',
            }}
          >
            double-click adds a key
          </Typography>
        )}
        {isKeyed(strength) &&
          keys.map((key) => (
            <Box
              key={key[0]}
              role="button"
              aria-label={`Key at frame ${key[0]}: ${shown(key[1])}`}
              aria-pressed={chosen.has(key[0])}
              onPointerDown={(event) => press(event, key)}
              onDoubleClick={(event) => {
                event.stopPropagation()
                engine.seek(key[0])
              }}
              sx={{
                position: 'absolute',
                left: view.left(key[0]),
                top: y(key[1]),
                width: 11,
                height: 11,
                m: '-5.5px',
                borderRadius: '3px',
                bgcolor: chosen.has(key[0]) ? 'warning.main' : 'text.primary',
                border: 1,
                borderColor: 'background.default',
                cursor: 'move',
              }}
            />
          ))}
      </Box>
    </Box>
  )
}
