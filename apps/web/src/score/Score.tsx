import { Box, Typography } from '@mui/material'
import { INFLUENCES } from '@tangle/core'
import { useRef } from 'react'
import { usePopulation } from '../steps/usePopulation.ts'
import { useAct } from '../store/index.ts'
import { moved } from '../store/shot.ts'
import { CueLine } from './CueLine.tsx'
import { Ruler, ViewButtons } from './Ruler.tsx'
import { ScoreRow } from './ScoreRow.tsx'

const NAME_WIDTH = 250
const CELL_WIDTH = 72

let gestures = 0

/** The heart: every influence a row, its weight in each phase on the left, its strength over time on the right. */
export function Score() {
  const act = useAct()
  const { population, index } = usePopulation()
  const carried = useRef<{ at: number; gesture: string } | null>(null)
  if (!population) {
    return (
      <Box sx={{ p: 2, color: 'text.secondary' }}>
        <Typography sx={{ fontSize: 13 }}>
          Nothing acts yet: add a population in the Births step first.
        </Typography>
      </Box>
    )
  }
  const columns = `${NAME_WIDTH}px repeat(${population.phases.length}, ${CELL_WIDTH}px) 16px minmax(0, 1fr)`
  const list = ['populations', index, 'influences']
  const move = (from: number, to: number, gesture?: string): void => {
    if (to < 0 || to >= population.influences.length || to === from) return
    act(moved({ path: list, from, to, ...(gesture ? { gesture } : {}) }))
  }
  return (
    <Box
      component="section"
      aria-label="Score"
      sx={{ height: '100%', display: 'flex', flexDirection: 'column', minHeight: 0 }}
    >
      <CueLine population={population} index={index} />
      <Box
        sx={{
          display: 'grid',
          gridTemplateColumns: columns,
          alignItems: 'center',
          height: 26,
          flexShrink: 0,
          borderBottom: 1,
          borderColor: 'divider',
          pl: 1.5,
        }}
      >
        <Box sx={{ display: 'flex', alignItems: 'center', pr: 1 }}>
          <Typography sx={{ fontSize: 12, color: 'text.secondary', pl: 3, flex: 1 }}>Influence</Typography>
          <ViewButtons />
        </Box>
        {population.phases.map((phase) => (
          <Typography key={phase} noWrap sx={{ fontSize: 12, color: 'text.secondary', textAlign: 'center' }}>
            {phase}
          </Typography>
        ))}
        <span />
        <Ruler />
      </Box>
      <Box
        sx={{ overflowY: 'auto', flex: 1, minHeight: 0, position: 'relative' }}
        onPointerMove={(event) => {
          if (!carried.current || event.buttons !== 1) return
          const row = document
            .elementFromPoint(event.clientX, event.clientY)
            ?.closest<HTMLElement>('[data-row]')
          const to = Number(row?.dataset.row ?? NaN)
          if (Number.isNaN(to) || to === carried.current.at) return
          move(carried.current.at, to, carried.current.gesture)
          carried.current.at = to
        }}
        onPointerUp={() => (carried.current = null)}
      >
        {population.influences.map((influence, i) => (
          <ScoreRow
            key={influence.id}
            population={population}
            influence={influence}
            kind={INFLUENCES.find((one) => one.kind === influence.kind)!}
            place={i}
            path={[...list, i]}
            columns={columns}
            onCarry={() => (carried.current = { at: i, gesture: `carry${++gestures}` })}
            onMove={(by) => move(i, i + by)}
          />
        ))}
        {population.influences.length === 0 && (
          <Typography sx={{ p: 2, fontSize: 13, color: 'text.secondary' }}>
            Nothing moves these particles yet. Add gravity, wind or turbulence above; each becomes a row here.
          </Typography>
        )}
      </Box>
    </Box>
  )
}
