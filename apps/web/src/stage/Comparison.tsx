import { Box, Button, Typography } from '@mui/material'
import { distancesApart, type Shot } from '@tangle/core'
import type { KeyboardEvent, PointerEvent } from 'react'
import { engine } from '../engine/engine.ts'
import { useEngineSlowly } from '../engine/useEngine.ts'
import { api } from '../store/api.ts'
import { differencesInWords } from '../store/changes.ts'
import { useAct, useShot, useStore } from '../store/index.ts'
import { shownAs } from '../store/session.ts'
import { count } from '../words.ts'

/** So many differences are said one by one. */
const MOST_SAID = 6
const STEP = 0.02

/** What is compared on the stage: the line between both, what either is, and in what they differ. */
export function Comparison() {
  const shotId = useStore((state) => state.session.shotId)!
  const compared = useStore((state) => state.session.compared)
  const split = useStore((state) => state.session.split)
  const chosen = useStore((state) => state.session.selected.take)
  const { data: takes } = api.useTakesQuery(shotId)
  const open = useShot()
  const other = useEngineSlowly((e) => e.comparedShot)
  if (compared === null || !other) return null
  const nameOf = (id: string | null): string => {
    const number = takes?.find((one) => one.id === id)?.number
    return number === undefined ? 'Preview' : `Take ${number}`
  }
  const between = 100 * (split ?? 0.5)
  return (
    <Box sx={{ position: 'absolute', inset: 0, overflow: 'hidden', pointerEvents: 'none' }}>
      {split !== null && <Line split={split} />}
      <Side name={nameOf(chosen)} place={{ right: `calc(${100 - between}% + 12px)` }} />
      <Side name={nameOf(compared)} place={{ left: `calc(${between}% + 12px)` }} />
      <Differences one={engine.takeShot ?? open} other={other} isLine={split !== null} />
    </Box>
  )
}

/** The line between what is shown and what it is compared with: dragged, or moved by keys. */
function Line({ split }: { split: number }) {
  const act = useAct()
  const move = (to: number): void => void act(shownAs({ split: Math.min(1, Math.max(0, to)) }))
  const drag = (event: PointerEvent<HTMLElement>): void => {
    const { left, width } = event.currentTarget.parentElement!.getBoundingClientRect()
    if (event.buttons === 1) move((event.clientX - left) / width)
  }
  const press = (event: KeyboardEvent): void => {
    const step = { ArrowLeft: -STEP, ArrowRight: STEP, Home: -1, End: 1 }[event.key]
    if (step === undefined) return
    event.preventDefault()
    event.stopPropagation()
    move(split + step)
  }
  const percent = Math.round(100 * split)
  return (
    <Box
      role="slider"
      tabIndex={0}
      aria-label="Line between them"
      aria-valuenow={percent}
      aria-valuetext={`${percent} % of the width`}
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

/** In what their documents differ, in words, and how they are compared. */
function Differences({ one, other, isLine }: { one: Shot; other: Shot; isLine: boolean }) {
  const act = useAct()
  const isApart = useStore((state) => state.session.apart)
  const all = differencesInWords(other, one)
  const said =
    all.length > MOST_SAID ? [...all.slice(0, MOST_SAID), `and ${all.length - MOST_SAID} more`] : all
  return (
    <Box sx={{ ...LABEL, right: 8, top: 8, maxWidth: 280, py: 0.75, pointerEvents: 'auto' }} role="status">
      {(said.length > 0 ? said : ['Their documents are the same.']).map((words, n) => (
        <Typography key={n} sx={{ fontSize: 12.5 }}>
          {words}
        </Typography>
      ))}
      {isApart && <Apart />}
      <Box sx={{ display: 'flex', flexWrap: 'wrap', mt: 0.5, '& button': { whiteSpace: 'nowrap' } }}>
        <Button color="inherit" onClick={() => act(shownAs({ split: isLine ? null : 0.5 }))}>
          {isLine ? 'Side by side' : 'By a line'}
        </Button>
        <Button
          color="inherit"
          aria-pressed={isApart}
          title="Colours particles by how far they are from where they are on the other side"
          onClick={() => act(shownAs({ apart: !isApart }))}
        >
          How far apart
        </Button>
        <Button color="inherit" onClick={() => act(shownAs({ compared: null }))}>
          Stop comparing
        </Button>
      </Box>
    </Box>
  )
}

/** How far particles are from where they are on the other side, at the frame. */
function Apart() {
  const said = useEngineSlowly((e) => {
    const others = e.opposite()
    const all = e.populations().flatMap((one) => {
      const other = others?.find(({ id }) => id === one.id)
      return other ? [...distancesApart(one, other)] : []
    })
    const [both, alone] = [
      all.filter(Number.isFinite).toSorted((a, b) => a - b),
      all.filter((x) => x === Infinity),
    ]
    if (both.length === 0) return 'Nobody is on both sides at this frame.'
    const [half, most] = [both[both.length >> 1]!, both.at(-1)!].map((x) => Number(x.toPrecision(2)))
    const rest = alone.length > 0 ? `; ${count(alone.length)} on this side alone` : ''
    return most === 0 && !rest
      ? 'They are the same at this frame.'
      : `Half of them at most ${half} m apart, all at most ${most} m${rest}.`
  }, 400)
  return <Typography sx={{ fontSize: 12.5 }}>{said}</Typography>
}
