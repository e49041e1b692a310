import { Box, InputBase, Slider, Tooltip, Typography } from '@mui/material'
import {
  useRef,
  useState,
  type ChangeEvent,
  type FocusEvent,
  type KeyboardEvent,
  type PointerEvent,
  type ReactNode,
} from 'react'
import { MONO } from '../theme.ts'
import { evaluate, shown } from './formula.ts'
import { leaveField } from './leave.ts'

export interface NumberFieldProps {
  label: ReactNode
  /** For who can't see the label. */
  name: string
  value: number
  unit?: string
  help?: string
  range: [number, number]
  usual: [number, number]
  step: number
  whole?: boolean
  /** The default, one click on the label away. */
  standard?: number
  slider?: boolean
  /** `gesture` is the same for all values of one drag. */
  onChange(value: number, gesture?: string): void
  children?: ReactNode
}

let gestures = 0

/** Brings raw values of a drag to steps within the range, and names the drag so that it is one step of undo. */
export function useSnap({ step, range, whole }: Pick<NumberFieldProps, 'step' | 'range' | 'whole'>) {
  const gesture = useRef('')
  return {
    gesture,
    begin: (kind: string): void => void (gesture.current = `${kind}${++gestures}`),
    snap(raw: number): number {
      const stepped = Math.round(raw / step) * step
      const clean = Number(Math.min(Math.max(stepped, range[0]), range[1]).toPrecision(12))
      return whole ? Math.round(clean) : clean
    },
  }
}

/** A slider narrower than this is none, pixels. */
const LEAST_SLIDER = 90

/** A number with its unit: drag the label to scrub, use the slider where there is room for one, or type. */
export function NumberField(props: NumberFieldProps) {
  const {
    label,
    name,
    value,
    unit,
    help,
    range,
    usual,
    step,
    whole,
    standard,
    slider = true,
    onChange,
    children,
  } = props
  const { snap, gesture, begin } = useSnap(props)
  const [low, high] = useReach(usual, value)
  const tip = help
    ? `${help}${standard === undefined ? '' : `. Usually ${shown(standard)} ${unit ?? ''}`}`
    : ''
  return (
    <Box
      sx={{
        display: 'grid',
        gridTemplateColumns: slider ? '76px minmax(0, 1fr) minmax(78px, auto) 18px' : '76px 1fr 18px',
        alignItems: 'center',
        gap: 0.5,
        minHeight: 28,
      }}
    >
      <Tooltip title={tip} placement="left">
        <Scrubbed
          value={value}
          step={step}
          onStart={() => begin('scrub')}
          onScrub={(v) => onChange(snap(v), gesture.current)}
          onReset={standard === undefined ? undefined : () => onChange(standard)}
        >
          {label}
        </Scrubbed>
      </Tooltip>
      {slider && (
        <Box sx={{ containerType: 'inline-size', minWidth: 0, px: 0.75 }}>
          <Slider
            aria-label={`${name} slider`}
            min={low}
            max={high}
            step={step}
            value={value}
            onPointerDown={() => begin('slide')}
            onChange={(_, v) => onChange(snap(v as number), gesture.current)}
            sx={{ display: 'block', [`@container (max-width: ${LEAST_SLIDER - 1}px)`]: { display: 'none' } }}
          />
        </Box>
      )}
      <NumberInput name={name} value={value} unit={unit} range={range} whole={whole} onChange={onChange} />
      {children ?? <span />}
    </Box>
  )
}

/** What a slider reaches: what is usual, and whatever the value has been while it is seen. */
function useReach([low, high]: [number, number], value: number): [number, number] {
  const [reach, setReach] = useState<[number, number]>([low, high])
  const wider: [number, number] = [Math.min(reach[0], low, value), Math.max(reach[1], high, value)]
  if (wider[0] !== reach[0] || wider[1] !== reach[1]) setReach(wider)
  return wider
}

interface ScrubbedProps {
  value: number
  step: number
  children: ReactNode
  onStart(): void
  onScrub(value: number): void
  onReset?: (() => void) | undefined
}

/** A label that changes its value when it is dragged sideways; a double click brings the default back. */
export function Scrubbed({ value, step, children, onStart, onScrub, onReset, ...rest }: ScrubbedProps) {
  const from = useRef<{ x: number; value: number } | null>(null)
  const start = (event: PointerEvent<HTMLElement>): void => {
    event.currentTarget.setPointerCapture(event.pointerId)
    from.current = { x: event.clientX, value }
    onStart()
  }
  const move = (event: PointerEvent): void => {
    if (!from.current) return
    const pixels = event.clientX - from.current.x
    if (Math.abs(pixels) > 2)
      onScrub(from.current.value + Math.round(pixels / 3) * step * (event.shiftKey ? 10 : 1))
  }
  return (
    <Typography
      {...rest}
      component="span"
      variant="body2"
      onPointerDown={start}
      onPointerMove={move}
      onPointerUp={() => (from.current = null)}
      onDoubleClick={onReset}
      sx={{
        // a long label takes two lines rather than being cut off
        lineHeight: '14px',
        overflowWrap: 'anywhere',
        flexShrink: 0,
        cursor: 'ew-resize',
        userSelect: 'none',
        touchAction: 'none',
      }}
    >
      {children}
    </Typography>
  )
}

interface NumberInputProps {
  name: string
  value: number
  unit?: string | undefined
  range: [number, number]
  whole?: boolean | undefined
  onChange(value: number): void
  /** Whether it widens with what is written, and shows the unit. */
  room?: 'fixed' | 'wide'
}

/** The typed part alone. Enter or leaving takes it; Escape brings back what was. */
export function NumberInput(props: NumberInputProps) {
  const { name, unit, room = 'wide' } = props
  const { written, fault, input } = useTyped(props)
  return (
    <Tooltip title={fault ?? ''} open={fault !== null} placement="left">
      <InputBase
        value={written}
        error={fault !== null}
        {...input}
        inputProps={{ 'aria-label': name, 'aria-invalid': fault !== null, inputMode: 'decimal', size: 1 }}
        endAdornment={unit && room === 'wide' ? <Unit unit={unit} /> : undefined}
        sx={{
          fontFamily: MONO,
          // where three share a row, each has room for six digits
          ...(room === 'fixed' ? { fontSize: 11.5, px: 0.25, flex: 1 } : { fontSize: 12.5, px: 0.5 }),
          height: 24,
          borderRadius: 1,
          minWidth: 0,
          border: 1,
          borderColor: fault ? 'error.main' : 'transparent',
          '&:hover, &.Mui-focused': { borderColor: fault ? 'error.main' : 'line' },
          '& input': { textAlign: 'right', p: 0, minWidth: room === 'fixed' ? 0 : `${written.length}ch` },
        }}
      />
    </Tooltip>
  )
}

function Unit({ unit }: { unit: string }) {
  return (
    <Typography
      variant="caption"
      sx={{ color: 'text.secondary', pl: 0.5, fontFamily: MONO, whiteSpace: 'nowrap' }}
    >
      {unit}
    </Typography>
  )
}

/** What is typed until it is taken or given up, what is wrong with it, and the arrows that nudge the value. */
function useTyped({ value, unit, range, whole, onChange }: NumberInputProps) {
  const [text, setText] = useState<string | null>(null)
  const [fault, setFault] = useState<string | null>(null)
  /** What was typed has been taken or given up: leaving does nothing more. */
  const settled = useRef(false)
  const show = (typed: string | null): void => {
    setText(typed)
    setFault(null)
  }
  const take = (): boolean => {
    if (text === null) return true
    try {
      const number = numberIn(text, unit, range, whole)
      show(null)
      if (number !== value) onChange(number)
      return true
    } catch (error) {
      setFault((error as Error).message)
      return false
    }
  }
  const nudge = (steps: number): void => {
    const size = 10 ** Math.floor(Math.log10(Math.max(Math.abs(value), range[1] < 2 ? 0.01 : 0.1))) / 10
    const next = value + steps * (whole ? Math.max(1, Math.round(size)) : size)
    onChange(Number(Math.min(Math.max(next, range[0]), range[1]).toPrecision(10)))
    setText(null)
  }
  const input = {
    onFocus: (event: FocusEvent<HTMLInputElement>) => event.target.select(),
    onChange: (event: ChangeEvent<HTMLInputElement>) => show(event.target.value),
    onBlur: () => {
      if (!settled.current) take()
      settled.current = false
      show(null)
    },
    onKeyDown: (event: KeyboardEvent<HTMLElement>) => {
      event.stopPropagation()
      // a fault keeps one in the field
      if (event.key === 'Escape' || (event.key === 'Enter' && take())) {
        settled.current = true
        leaveField(event.target as HTMLElement)
      }
      if (event.key !== 'ArrowUp' && event.key !== 'ArrowDown') return
      event.preventDefault()
      nudge((event.key === 'ArrowUp' ? 1 : -1) * (event.shiftKey ? 10 : 1))
    },
  }
  return { written: text ?? shown(value), fault, input }
}

/** The number that a text says, within its range; throws what is wrong with it. */
function numberIn(
  text: string,
  unit: string | undefined,
  [low, high]: [number, number],
  whole?: boolean,
): number {
  const typed = evaluate(text, unit)
  const number = whole ? Math.round(typed) : typed
  if (number < low || number > high) throw new Error(`From ${shown(low)} to ${shown(high)}`)
  return number
}
