/** How the pointer and the keyboard change the keys of a curve. */
import { isKeyed, valueAt, type Key, type Keyed, type NumberParameter } from '@tangle/core'
import { useRef, useState, type KeyboardEvent, type PointerEvent, type RefObject } from 'react'
import { engine } from '../engine/engine.ts'
import { keyedOf, keysOf, removed, slid, type Edited } from './keyEdits.ts'
import { sampled } from './StrengthLine.tsx'
import type { useView } from './useView.ts'

export const CURVE_HEIGHT = 96
export const TOOLS = 24
const HEIGHT = CURVE_HEIGHT - TOOLS
const EDGE = 7
const POINTS = 240

/** A frame and a value. */
type Spot = [frame: number, value: number]

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

/** The values that the curve spans, and how they lie on the screen. */
interface Scale {
  high: number
  low: number
  y(value: number): number
  perPixel: number
}

function scaleOf(high: number, low: number): Scale {
  const perPixel = (high - low) / (HEIGHT - 2 * EDGE)
  return { high, low, perPixel, y: (value) => HEIGHT - EDGE - (value - low) / perPixel }
}

/** A value as round as can be told apart on the screen. */
function tidied(value: number, { high, low }: Scale): number {
  const step = 10 ** Math.floor(Math.log10((high - low) / 50))
  return Number((Math.round(value / step) * step).toPrecision(10))
}

export interface KeyEditorProps {
  strength: Keyed
  parameter: NumberParameter
  onChange(strength: Keyed, gesture?: string): void
}

export function useKeyEditor(
  { strength, parameter, onChange }: KeyEditorProps,
  view: ReturnType<typeof useView>,
  area: RefObject<HTMLElement | null>,
) {
  const [chosen, setChosen] = useState<Set<number>>(new Set())
  // while a key is dragged the scale stands still
  const [held, setHeld] = useState<Scale | null>(null)
  const keys = keysOf(strength, view.from)
  const values = sampled(strength, view, POINTS)
  const all = [...values, ...keys.map((key) => key[1])]
  const [high, low] = [Math.max(...all, 0), Math.min(...all, 0)]
  const scale = held ?? (high === low ? scaleOf(1, 0) : scaleOf(high, low))
  const apply = ({ keys: next, frames }: Edited, gesture?: string): void => {
    setChosen(frames)
    onChange(keyedOf(next, strength, valueAt(strength, engine.frame)), gesture)
  }
  const addAt = (at: number, value: number): void => {
    const key: Key = [at, value, 'smooth']
    const others = isKeyed(strength) ? keys.filter((one) => one[0] !== at) : []
    apply({ keys: [...others, key].sort((a, b) => a[0] - b[0]), frames: new Set([at]) })
  }
  const editing = { keys, chosen, setChosen, scale, apply, addAt, parameter, strength }
  const pointer = usePointer(editing, view, area, setHeld)
  return { ...editing, ...pointer, values, onKeyDown: keyboard(editing) }
}

interface Editing extends Pick<KeyEditorProps, 'parameter' | 'strength'> {
  keys: Key[]
  chosen: Set<number>
  setChosen(frames: Set<number>): void
  scale: Scale
  apply(edited: Edited, gesture?: string): void
  addAt(frame: number, value: number): void
}

/** Drags keys, or a box that chooses them; a double click adds one. */
function usePointer(
  editing: Editing,
  view: ReturnType<typeof useView>,
  area: RefObject<HTMLElement | null>,
  hold: (scale: Scale | null) => void,
) {
  const { keys, chosen, setChosen, scale, apply, addAt, parameter } = editing
  const drag = useRef<Drag | null>(null)
  const [box, setBox] = useState<{ from: Spot; to: Spot } | null>(null)
  const spotAt = (event: { clientX: number; clientY: number }): Spot => {
    const { left, top, width } = area.current!.getBoundingClientRect()
    return [
      view.from + ((event.clientX - left) / width) * view.span,
      scale.low + (HEIGHT - EDGE - (event.clientY - top)) * scale.perPixel,
    ]
  }
  const press = (event: PointerEvent<HTMLElement>, key: Key | null): void => {
    event.stopPropagation()
    area.current!.setPointerCapture(event.pointerId)
    area.current!.focus()
    let frames = chosen
    if (key) {
      const one = new Set([key[0]])
      frames = chosen.has(key[0]) ? chosen : event.shiftKey ? new Set([...chosen, key[0]]) : one
      hold(scale)
    } else if (!event.shiftKey) frames = new Set()
    setChosen(frames)
    const { clientX: x, clientY: y } = event
    drag.current = { x, y, gesture: `keys${++gestures}`, keys, frames, box: !key }
  }
  const dragBox = (current: Drag, event: PointerEvent): void => {
    const [from, to] = [spotAt({ clientX: current.x, clientY: current.y }), spotAt(event)]
    setBox({ from, to })
    const within = (x: number, a: number, b: number): boolean => x >= Math.min(a, b) && x <= Math.max(a, b)
    const inside = keys.filter((key) => within(key[0], from[0], to[0]) && within(key[1], from[1], to[1]))
    setChosen(new Set(inside.map((key) => key[0])))
  }
  const move = (event: PointerEvent): void => {
    const { current } = drag
    if (!current || event.buttons !== 1) return
    const [dx, dy] = [event.clientX - current.x, event.clientY - current.y]
    if (Math.abs(dx) + Math.abs(dy) < 3) return
    if (current.box) return dragBox(current, event)
    const { width } = area.current!.getBoundingClientRect()
    const frames = (dx / width) * view.span
    const by = {
      // Shift leaves the whole frames
      frames: event.shiftKey ? Math.round(frames * 10) / 10 : Math.round(frames),
      value: tidied(-dy * scale.perPixel, scale),
    }
    apply(slid(current.keys, current.frames, by, parameter.range), current.gesture)
  }
  const release = (): void => {
    drag.current = null
    setBox(null)
    hold(null)
  }
  const add = (event: { clientX: number; clientY: number }): void => {
    const [frame, value] = spotAt(event)
    const [low, high] = parameter.range
    addAt(Math.round(frame), tidied(Math.min(Math.max(value, low), high), scale))
  }
  return { box, press, move, release, add }
}

/** Ctrl A, Enter, comma and full stop, Delete, the arrows and Escape. */
function keyboard({ keys, chosen, setChosen, apply, addAt, parameter, strength }: Editing) {
  /** Chooses the key after the chosen one, or before it. */
  const chooseNext = (by: number): void => {
    const last = keys.findIndex((key) => chosen.has(key[0]))
    const next = keys[(last + by + keys.length) % keys.length]
    if (next && isKeyed(strength)) setChosen(new Set([next[0]]))
  }
  const nudge = (frames: number, value: number): void =>
    apply(slid(keys, chosen, { frames, value: value * parameter.step }, parameter.range))
  return (event: KeyboardEvent): void => {
    const far = event.shiftKey ? 10 : 1
    if (event.key === 'a' && (event.ctrlKey || event.metaKey)) setChosen(new Set(keys.map((key) => key[0])))
    else if (event.key === 'Enter') addAt(engine.frame, valueAt(strength, engine.frame))
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
}
