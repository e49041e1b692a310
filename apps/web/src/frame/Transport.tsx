import Pause from '@mui/icons-material/Pause'
import PlayArrow from '@mui/icons-material/PlayArrow'
import Repeat from '@mui/icons-material/Repeat'
import SkipNext from '@mui/icons-material/SkipNext'
import SkipPrevious from '@mui/icons-material/SkipPrevious'
import { Box, IconButton, Popover, Tooltip, Typography } from '@mui/material'
import { useRef, useState, type KeyboardEvent, type PointerEvent } from 'react'
import { engine } from '../engine/engine.ts'
import { useEngine } from '../engine/useEngine.ts'
import { NumberInput } from '../fields/NumberField.tsx'
import { Row } from '../fields/Choices.tsx'
import { useAct, useShot, useStore } from '../store/index.ts'
import { loopToggled } from '../store/session.ts'
import { set } from '../store/shot.ts'
import { MONO } from '../theme.ts'

/** Play, step, scrub and loop, and how far frames are computed. */
export function Transport() {
  const act = useAct()
  const frame = useEngine((e) => e.frame)
  const playing = useEngine((e) => e.playing)
  const computedTo = useEngine((e) => e.computedTo())
  const busy = useEngine((e) => e.takeId === null && (e.preview?.state.busy ?? false))
  const take = useEngine((e) => e.takeId !== null)
  const loop = useStore((state) => state.session.loop)
  const shot = useShot()
  const { first, last, rate } = take ? engine.frames : shot.frames
  const button = (label: string, icon: React.ReactNode, onClick: () => void, on = false) => (
    <Tooltip title={label}>
      <IconButton
        size="small"
        aria-label={label}
        color={on ? 'primary' : 'inherit'}
        onClick={onClick}
        sx={{ p: 0.25 }}
      >
        {icon}
      </IconButton>
    </Tooltip>
  )
  return (
    <Box
      role="group"
      aria-label="Transport"
      sx={{
        display: 'grid',
        gridTemplateColumns: 'auto 48px 1fr auto',
        alignItems: 'center',
        gap: 1.5,
        px: 1.25,
        height: 36,
        borderTop: 1,
        borderColor: 'divider',
        bgcolor: 'background.default',
      }}
    >
      <Box sx={{ display: 'flex' }}>
        {button('First frame', <SkipPrevious fontSize="small" />, () => engine.seek(first))}
        {playing
          ? button('Pause', <Pause fontSize="small" />, () => engine.pause(), true)
          : button('Play', <PlayArrow fontSize="small" />, () => engine.play(), true)}
        {button('Last frame', <SkipNext fontSize="small" />, () => engine.seek(last))}
        {button(
          loop ? 'Loop is on' : 'Loop is off',
          <Repeat sx={{ fontSize: 16, opacity: loop ? 1 : 0.45 }} />,
          () => act(loopToggled()),
          loop,
        )}
      </Box>
      <Typography data-testid="frame" sx={{ fontFamily: MONO, fontSize: 15 }}>
        {String(frame).padStart(4, '0')}
      </Typography>
      <Track first={first} last={last} frame={frame} computedTo={computedTo} />
      <FrameRange first={first} last={last} rate={rate} computedTo={computedTo} busy={busy} take={take} />
    </Box>
  )
}

/** The line of frames: ticks, what is computed, and the playhead. */
function Track({
  first,
  last,
  frame,
  computedTo,
}: {
  first: number
  last: number
  frame: number
  computedTo: number | null
}) {
  const box = useRef<HTMLDivElement>(null)
  const span = Math.max(1, last - first)
  const left = (at: number): string => `${((at - first) / span) * 100}%`
  const seek = (event: PointerEvent): void => {
    const { x, width } = box.current!.getBoundingClientRect()
    engine.seek(first + ((event.clientX - x) / width) * span)
  }
  const key = (event: KeyboardEvent): void => {
    const step = { ArrowRight: 1, ArrowLeft: -1, ArrowUp: 1, ArrowDown: -1, PageUp: 10, PageDown: -10 }[
      event.key
    ]
    if (step === undefined) return
    event.preventDefault()
    event.stopPropagation()
    engine.seek(engine.frame + step * (event.shiftKey ? 10 : 1))
  }
  const every = [1, 2, 5, 10, 20, 50, 100, 200, 500, 1000].find((n) => span / n <= 48) ?? 2000
  const ticks = Array.from({ length: Math.floor(span / every) + 1 }, (_, i) => first + i * every)
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
      onKeyDown={key}
      sx={{ position: 'relative', height: 30, cursor: 'pointer', touchAction: 'none' }}
    >
      {ticks.map((at, i) => (
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
      ))}
      <Box sx={{ position: 'absolute', left: 0, right: 0, bottom: 5, height: 2, bgcolor: 'divider' }} />
      {computedTo !== null && (
        <Box
          data-testid="computed"
          data-frame={computedTo}
          sx={{
            position: 'absolute',
            left: 0,
            width: left(computedTo),
            bottom: 5,
            height: 2,
            bgcolor: 'primary.main',
          }}
        />
      )}
      <Box
        sx={{
          position: 'absolute',
          left: left(frame),
          top: 2,
          bottom: 2,
          width: 2,
          ml: '-1px',
          bgcolor: 'warning.main',
        }}
      />
    </Box>
  )
}

interface FrameRangeProps {
  first: number
  last: number
  rate: number
  computedTo: number | null
  busy: boolean
  take: boolean
}

/** The range and the rate, with a small form to change them, the substeps and the iterations. */
function FrameRange({ first, last, rate, computedTo, busy, take }: FrameRangeProps) {
  const act = useAct()
  const { frames, quality } = useShot()
  const [anchor, setAnchor] = useState<HTMLElement | null>(null)
  const change = (value: Partial<typeof frames>): void =>
    void act(set({ path: ['frames'], value: { ...frames, ...value } }))
  const progress = take ? '' : busy ? ` · computed to ${computedTo ?? '–'}` : ''
  return (
    <>
      <Typography
        component="button"
        onClick={(event) => setAnchor(event.currentTarget)}
        disabled={take}
        aria-label="Frame range and rate"
        sx={{
          all: 'unset',
          cursor: take ? 'default' : 'pointer',
          fontFamily: MONO,
          fontSize: 12,
          color: 'text.secondary',
          whiteSpace: 'nowrap',
          '&:focus-visible': { outline: '2px solid', outlineColor: 'primary.main' },
        }}
      >
        {first}–{last} · {rate}/s{progress}
      </Typography>
      <Popover
        open={anchor !== null}
        anchorEl={anchor}
        onClose={() => setAnchor(null)}
        anchorOrigin={{ vertical: 'top', horizontal: 'right' }}
        transformOrigin={{ vertical: 'bottom', horizontal: 'right' }}
      >
        <Box sx={{ p: 1.5, width: 230 }}>
          <Row label="First frame">
            <NumberInput
              name="First frame"
              value={frames.first}
              range={[-100000, frames.last]}
              whole
              onChange={(next) => change({ first: next })}
            />
          </Row>
          <Row label="Last frame">
            <NumberInput
              name="Last frame"
              value={frames.last}
              range={[frames.first, 100000]}
              whole
              onChange={(next) => change({ last: next })}
            />
          </Row>
          <Row label="Rate">
            <NumberInput
              name="Frame rate"
              unit="/s"
              value={frames.rate}
              range={[1, 240]}
              onChange={(next) => change({ rate: next })}
            />
          </Row>
          <Row label="Substeps">
            <NumberInput
              name="Substeps"
              value={quality.substeps}
              range={[1, 64]}
              whole
              onChange={(next) => act(set({ path: ['quality', 'substeps'], value: next }))}
            />
          </Row>
          <Row
            label="Iterations"
            help="Rounds of links and contacts in a substep: more make heaps and bodies firmer"
          >
            <NumberInput
              name="Iterations"
              value={quality.iterations}
              range={[1, 256]}
              whole
              onChange={(next) => act(set({ path: ['quality', 'iterations'], value: next }))}
            />
          </Row>
          <Row
            label="Settle for"
            help="Runs ahead so many frames, or until all is at rest, and starts from there: heaps lie, bodies hang"
          >
            <NumberInput
              name="Settle for"
              unit="frames"
              value={quality.settle}
              range={[0, 10000]}
              whole
              onChange={(next) => act(set({ path: ['quality', 'settle'], value: next }))}
            />
          </Row>
        </Box>
      </Popover>
    </>
  )
}
