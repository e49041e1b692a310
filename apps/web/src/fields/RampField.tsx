import { Box, Button, ButtonBase, Typography } from '@mui/material'
import { RAMPS, stopsOf, type RampChoice } from '@tangle/core'
import { useRef, useState, type KeyboardEvent, type PointerEvent } from 'react'
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

function StopsEditor({
  name,
  stops,
  onChange,
}: {
  name: string
  stops: Stops
  onChange(stops: Stops, gesture?: string): void
}) {
  const strip = useRef<HTMLDivElement>(null)
  const [chosen, setChosen] = useState(0)
  const drag = useRef<{ gesture: string } | null>(null)
  const stop = stops[Math.min(chosen, stops.length - 1)]!
  const at = (event: { clientX: number }): number => {
    const { left, width } = strip.current!.getBoundingClientRect()
    return Math.round(Math.min(1, Math.max(0, (event.clientX - left) / width)) * 200) / 200
  }
  /** Puts a stop elsewhere; it may pass others. */
  const place = (index: number, to: number, gesture?: string): void => {
    const moved: Stops = stops.with(index, [Math.min(1, Math.max(0, to)), stops[index]![1]])
    const kept = moved[index]!
    const next = [...moved].sort((a, b) => a[0] - b[0])
    setChosen(next.indexOf(kept))
    onChange(next, gesture)
  }
  const add = (event: { clientX: number }): void => {
    const place = at(event)
    const near = [...stops].sort((a, b) => Math.abs(a[0] - place) - Math.abs(b[0] - place))[0]!
    const added: [number, string] = [place, near[1]]
    const next = [...stops, added].sort((a, b) => a[0] - b[0])
    setChosen(next.indexOf(added))
    onChange(next)
  }
  const remove = (index: number): void => {
    if (stops.length <= 2) return
    setChosen(0)
    onChange(stops.filter((_, i) => i !== index))
  }
  const key = (index: number) => (event: KeyboardEvent) => {
    if (event.key === 'Delete' || event.key === 'Backspace') remove(index)
    else if (event.key === 'ArrowLeft') place(index, stops[index]![0] - 0.02)
    else if (event.key === 'ArrowRight') place(index, stops[index]![0] + 0.02)
    else return
    event.preventDefault()
    event.stopPropagation()
  }
  return (
    <Box>
      <Box
        ref={strip}
        aria-label={`${name}: double-click to add a stop`}
        onDoubleClick={add}
        sx={{ height: 18, borderRadius: 0.5, background: gradient({ stops }), cursor: 'copy' }}
      />
      <Box sx={{ position: 'relative', height: 18 }}>
        {stops.map(([place0, hex], i) => (
          <Box
            key={i}
            role="slider"
            tabIndex={0}
            aria-label={`${name}, stop ${i + 1}`}
            aria-valuenow={place0}
            aria-valuemin={0}
            aria-valuemax={1}
            onFocus={() => setChosen(i)}
            onKeyDown={key(i)}
            onPointerDown={(event: PointerEvent<HTMLElement>) => {
              event.currentTarget.setPointerCapture(event.pointerId)
              setChosen(i)
              drag.current = { gesture: `ramp${++gestures}` }
            }}
            onPointerMove={(event: PointerEvent) =>
              drag.current && event.buttons === 1 && place(chosen, at(event), drag.current.gesture)
            }
            onPointerUp={() => (drag.current = null)}
            sx={{
              position: 'absolute',
              left: `${place0 * 100}%`,
              top: 2,
              width: 12,
              height: 14,
              ml: '-6px',
              borderRadius: '3px',
              bgcolor: hex,
              border: 2,
              borderColor: i === chosen ? 'primary.main' : 'text.primary',
              cursor: 'ew-resize',
              touchAction: 'none',
            }}
          />
        ))}
      </Box>
      <Box sx={{ display: 'flex', gap: 1, alignItems: 'center' }}>
        <Box
          component="input"
          type="color"
          aria-label={`${name}: colour of the stop`}
          value={stop[1]}
          onChange={(event) =>
            onChange(stops.with(stops.indexOf(stop), [stop[0], event.target.value]), `colour${gestures}`)
          }
          sx={{ width: 40, height: 24, p: 0, border: 1, borderColor: 'divider', bgcolor: 'transparent' }}
        />
        <NumberInput
          name={`${name}: place of the stop`}
          value={stop[0]}
          range={[0, 1]}
          onChange={(next) => place(stops.indexOf(stop), next)}
        />
        <Button onClick={() => remove(stops.indexOf(stop))} disabled={stops.length <= 2}>
          Remove
        </Button>
      </Box>
      <Typography sx={{ fontSize: 12, color: 'text.secondary' }}>
        Double-click the strip to add a stop.
      </Typography>
    </Box>
  )
}
