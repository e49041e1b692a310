import { Box, Button, ButtonBase, Typography } from '@mui/material'
import { RAMPS, stopsOf, type RampChoice } from '@tangle/core'
import { useRef, useState, type KeyboardEvent, type PointerEvent } from 'react'
import { ColourInput } from './ColourInput.tsx'
import { NumberInput } from './NumberField.tsx'

type Stops = [number, string][]
const gradient = (ramp: RampChoice): string =>
  `linear-gradient(90deg, ${stopsOf(ramp)
    .map(([at, hex]) => `${hex} ${at * 100}%`)
    .join()})`

interface RampFieldProps {
  name: string
  value: RampChoice
  onChange(value: RampChoice, gesture?: string): void
}

/** A ramp by name, or one of one's own: drag its stops, double-click the strip to add one, Delete to take one away. */
export function RampField({ name, value, onChange }: RampFieldProps) {
  const own = typeof value === 'object'
  return (
    <Box>
      {Object.entries(RAMPS).map(([id, ramp]) => (
        <Line key={id} label={ramp.label} ramp={id} chosen={id === value} onChoose={() => onChange(id)} />
      ))}
      {own ? (
        <>
          <Typography sx={{ fontSize: 13, color: 'primary.main' }}>Own</Typography>
          <StopsEditor
            name={name}
            stops={value.stops}
            onChange={(stops, gesture) => onChange({ stops }, gesture)}
          />
        </>
      ) : (
        <Button
          size="small"
          onClick={() => onChange({ stops: stopsOf(value).map(([at, hex]) => [at, hex]) })}
        >
          Make it my own
        </Button>
      )}
    </Box>
  )
}

function Line({
  label,
  ramp,
  chosen,
  onChoose,
}: {
  label: string
  ramp: string
  chosen: boolean
  onChoose(): void
}) {
  return (
    <ButtonBase
      aria-pressed={chosen}
      onClick={onChoose}
      sx={{
        display: 'grid',
        gridTemplateColumns: '84px 1fr',
        width: '100%',
        gap: 1,
        height: 26,
        textAlign: 'left',
      }}
    >
      <Typography sx={{ fontSize: 13, color: chosen ? 'primary.main' : 'text.primary' }}>{label}</Typography>
      <Box
        sx={{
          height: 14,
          borderRadius: 0.5,
          outline: chosen ? '2px solid' : 'none',
          outlineColor: 'primary.main',
          background: gradient(ramp),
        }}
      />
    </ButtonBase>
  )
}

let gestures = 0

interface StopsEditorProps {
  name: string
  stops: Stops
  onChange(stops: Stops, gesture?: string): void
}

/** What can be done to the stops of a ramp. */
function editsOf({ stops, onChange }: StopsEditorProps, choose: (n: number) => void) {
  const inOrder = (all: Stops): Stops => [...all].sort((a, b) => a[0] - b[0])
  /** Puts a stop elsewhere; it may pass others. */
  function place(index: number, to: number, gesture?: string): void {
    const kept: [number, string] = [Math.min(1, Math.max(0, to)), stops[index]![1]]
    const next = inOrder(stops.with(index, kept))
    choose(next.indexOf(kept))
    onChange(next, gesture)
  }
  /** Adds one in the colour of its nearest neighbour. */
  function add(at: number): void {
    const near = [...stops].sort((a, b) => Math.abs(a[0] - at) - Math.abs(b[0] - at))[0]!
    const added: [number, string] = [at, near[1]]
    const next = inOrder([...stops, added])
    choose(next.indexOf(added))
    onChange(next)
  }
  function remove(index: number): void {
    if (stops.length <= 2) return
    choose(0)
    onChange(stops.filter((_, i) => i !== index))
  }
  const pressed = (index: number) => (event: KeyboardEvent) => {
    if (event.key === 'Delete' || event.key === 'Backspace') remove(index)
    else if (event.key === 'ArrowLeft') place(index, stops[index]![0] - 0.02)
    else if (event.key === 'ArrowRight') place(index, stops[index]![0] + 0.02)
    else return
    event.preventDefault()
    event.stopPropagation()
  }
  return { place, add, remove, pressed }
}

function StopsEditor(props: StopsEditorProps) {
  const { name, stops } = props
  const strip = useRef<HTMLDivElement>(null)
  const [chosen, setChosen] = useState(0)
  const drag = useRef<{ gesture: string } | null>(null)
  const { place, add, remove, pressed } = editsOf(props, setChosen)
  const index = Math.min(chosen, stops.length - 1)
  const under = (event: { clientX: number }): number => {
    const { left, width } = strip.current!.getBoundingClientRect()
    return Math.round(Math.min(1, Math.max(0, (event.clientX - left) / width)) * 200) / 200
  }
  return (
    <Box>
      <Box
        ref={strip}
        aria-label={`${name}: double-click to add a stop`}
        onDoubleClick={(event) => add(under(event))}
        sx={{ height: 18, borderRadius: 0.5, background: gradient({ stops }), cursor: 'copy' }}
      />
      <Box sx={{ position: 'relative', height: 18 }}>
        {stops.map(([at, hex], i) => (
          <Box
            key={i}
            role="slider"
            tabIndex={0}
            aria-label={`${name}, stop ${i + 1}`}
            aria-valuenow={at}
            aria-valuemin={0}
            aria-valuemax={1}
            onFocus={() => setChosen(i)}
            onKeyDown={pressed(i)}
            onPointerDown={(event: PointerEvent<HTMLElement>) => {
              event.currentTarget.setPointerCapture(event.pointerId)
              setChosen(i)
              drag.current = { gesture: `ramp${++gestures}` }
            }}
            onPointerMove={(event: PointerEvent) =>
              drag.current && event.buttons === 1 && place(chosen, under(event), drag.current.gesture)
            }
            onPointerUp={() => (drag.current = null)}
            sx={stopStyle(at, hex, i === chosen)}
          />
        ))}
      </Box>
      <StopFields {...props} index={index} place={(to) => place(index, to)} remove={() => remove(index)} />
      <Typography sx={{ fontSize: 12, color: 'text.secondary' }}>
        Double-click the strip to add a stop.
      </Typography>
    </Box>
  )
}

const stopStyle = (at: number, hex: string, isChosen: boolean) => ({
  position: 'absolute',
  left: `${at * 100}%`,
  top: 2,
  width: 12,
  height: 14,
  ml: '-6px',
  borderRadius: '3px',
  bgcolor: hex,
  border: 2,
  borderColor: isChosen ? 'primary.main' : 'text.primary',
  cursor: 'ew-resize',
  touchAction: 'none',
})

interface StopFieldsProps extends StopsEditorProps {
  index: number
  place(to: number): void
  remove(): void
}

/** The chosen stop: its colour and its place. */
function StopFields({ name, stops, index, place, remove, onChange }: StopFieldsProps) {
  const [at, hex] = stops[index]!
  return (
    <Box sx={{ display: 'flex', gap: 1, alignItems: 'center' }}>
      <ColourInput
        name={`${name}: colour of the stop`}
        value={hex}
        onChange={(colour, gesture) => onChange(stops.with(index, [at, colour]), gesture)}
      />
      <NumberInput name={`${name}: place of the stop`} value={at} range={[0, 1]} onChange={place} />
      <Button onClick={remove} disabled={stops.length <= 2}>
        Remove
      </Button>
    </Box>
  )
}
