import { Box, Button, Typography } from '@mui/material'
import type { Shot } from '@tangle/core'
import { useRef, type KeyboardEvent, type PointerEvent } from 'react'
import { engine } from '../engine/engine.ts'
import { useEngineSlowly } from '../engine/useEngine.ts'
import { api } from '../store/api.ts'
import { differencesInWords } from '../store/changes.ts'
import { useAct, useShot, useStore } from '../store/index.ts'
import { shownAs } from '../store/session.ts'

/** So many differences are said one by one. */
const MOST_SAID = 6
const STEP = 0.02

/** The line between what is shown and what it is compared with, what either is, and in what they differ. */
export function Comparison() {
  const act = useAct()
  const shotId = useStore((state) => state.session.shotId)!
  const { compared, split } = useStore((state) => state.session)
  const chosen = useStore((state) => state.session.selected.take)
  const { data: takes } = api.useTakesQuery(shotId)
  const open = useShot()
  const other = useEngineSlowly((e) => e.comparedShot)
  const box = useRef<HTMLDivElement>(null)
  if (compared === null || !other) return null
  const nameOf = (id: string | null): string => {
    const number = takes?.find((one) => one.id === id)?.number
    return number === undefined ? 'Preview' : `Take ${number}`
  }
  const move = (to: number): void => void act(shownAs({ split: Math.min(1, Math.max(0, to)) }))
  const drag = (event: PointerEvent): void => {
    const { left, width } = box.current!.getBoundingClientRect()
    if (event.buttons === 1) move((event.clientX - left) / width)
  }
  const press = (event: KeyboardEvent): void => {
    const step = { ArrowLeft: -STEP, ArrowRight: STEP, Home: -1, End: 1 }[event.key]
    if (step === undefined) return
    event.preventDefault()
    event.stopPropagation()
    move(split + step)
  }
  return (
    <Box ref={box} sx={{ position: 'absolute', inset: 0, overflow: 'hidden', pointerEvents: 'none' }}>
      <Box
        role="slider"
        tabIndex={0}
        aria-label="Line between them"
        aria-valuenow={Math.round(100 * split)}
        aria-valuetext={`${Math.round(100 * split)} % of the width`}
        aria-valuemin={0}
        aria-valuemax={100}
        onPointerDown={(event) => event.currentTarget.setPointerCapture(event.pointerId)}
        onPointerMove={drag}
        onKeyDown={press}
        sx={{
          position: 'absolute',
          top: 0,
          bottom: 0,
          left: `${100 * split}%`,
          width: 14,
          ml: '-7px',
          pointerEvents: 'auto',
          cursor: 'ew-resize',
          touchAction: 'none',
          '&::before': { content: '""', position: 'absolute', inset: '0 6px', bgcolor: 'primary.main' },
        }}
      />
      <Side name={nameOf(chosen)} place={{ right: `calc(${100 - 100 * split}% + 12px)` }} />
      <Side name={nameOf(compared)} place={{ left: `calc(${100 * split}% + 12px)` }} />
      <Differences
        one={engine.takeShot ?? open}
        other={other}
        leave={() => act(shownAs({ compared: null }))}
      />
    </Box>
  )
}

const LABEL = {
  position: 'absolute',
  px: 1,
  py: 0.25,
  borderRadius: 1,
  color: 'onDarkStage',
  bgcolor: 'shadeDark',
} as const

function Side({ name, place }: { name: string; place: { left?: string; right?: string } }) {
  return (
    <Typography noWrap sx={{ ...LABEL, bottom: 44, fontSize: 13, fontWeight: 600, ...place }}>
      {name}
    </Typography>
  )
}

/** In what their documents differ, in words. */
function Differences({ one, other, leave }: { one: Shot; other: Shot; leave(): void }) {
  const all = differencesInWords(other, one)
  const more = all.length - MOST_SAID
  return (
    <Box sx={{ ...LABEL, right: 8, top: 8, maxWidth: 280, py: 0.75, pointerEvents: 'auto' }} role="status">
      {all.length === 0 && <Typography sx={{ fontSize: 12.5 }}>Their documents are the same.</Typography>}
      {all.slice(0, MOST_SAID).map((words) => (
        <Typography key={words} sx={{ fontSize: 12.5 }}>
          {words}
        </Typography>
      ))}
      {more > 0 && <Typography sx={{ fontSize: 12.5 }}>and {more} more</Typography>}
      <Button color="inherit" onClick={leave} sx={{ mt: 0.5 }}>
        Stop comparing
      </Button>
    </Box>
  )
}
