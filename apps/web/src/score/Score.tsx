import {
  closestCenter,
  DndContext,
  KeyboardSensor,
  PointerSensor,
  TouchSensor,
  useSensor,
  useSensors,
  type DragEndEvent,
} from '@dnd-kit/core'
import { SortableContext, sortableKeyboardCoordinates, verticalListSortingStrategy } from '@dnd-kit/sortable'
import { Box, Typography } from '@mui/material'
import { INFLUENCES, type Population } from '@tangle/core'
import { useCallback, useMemo } from 'react'
import { usePopulation } from '../steps/usePopulation.ts'
import { useAct } from '../store/index.ts'
import { moved, type Path } from '../store/shot.ts'
import { CueLine } from './CueLine.tsx'
import { CELL_WIDTH, PhaseNames } from './PhaseColumns.tsx'
import { Playhead } from './Playhead.tsx'
import { Ruler, ViewButtons } from './Ruler.tsx'
import { ScoreRow } from './ScoreRow.tsx'

const NAME_WIDTH = 250
/** The timeline is never narrower: phases that have no room beside it scroll. */
const LEAST_TIMELINE = 360

/** The heart: every influence a row, its weight in each phase on the left, its strength over time on the right. */
export function Score() {
  const { population, index } = usePopulation()
  if (!population) {
    return (
      <Box sx={{ p: 2, color: 'text.secondary' }}>
        <Typography sx={{ fontSize: 13 }}>
          Nothing acts yet: add a population in the Births step first.
        </Typography>
      </Box>
    )
  }
  const phases = population.phases.length * CELL_WIDTH
  const columns = `${NAME_WIDTH}px minmax(0, ${phases}px) 16px minmax(${LEAST_TIMELINE}px, 1fr)`
  return (
    <Box
      component="section"
      aria-label="Score"
      data-score
      sx={{ height: '100%', display: 'flex', flexDirection: 'column', minHeight: 0 }}
    >
      <CueLine population={population} index={index} />
      <Head population={population} columns={columns} />
      <Rows population={population} index={index} columns={columns} />
    </Box>
  )
}

/** The names of the columns, and the ruler. */
function Head({ population, columns }: { population: Population; columns: string }) {
  return (
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
      <PhaseNames phases={population.phases} />
      <span />
      <Ruler />
    </Box>
  )
}

/** How a row is taken up; kept, as new ones would draw every row anew. */
const BY_POINTER = { activationConstraint: { distance: 4 } }
const BY_TOUCH = { activationConstraint: { delay: 150, tolerance: 6 } }
const BY_KEYS = { coordinateGetter: sortableKeyboardCoordinates }

/** One row for each influence; a row is carried by its glyph, with the mouse, a finger or the keys. */
function Rows({ population, index, columns }: { population: Population; index: number; columns: string }) {
  const act = useAct()
  const { influences } = population
  const list = useMemo((): Path => ['populations', index, 'influences'], [index])
  const sensors = useSensors(
    useSensor(PointerSensor, BY_POINTER),
    useSensor(TouchSensor, BY_TOUCH),
    useSensor(KeyboardSensor, BY_KEYS),
  )
  const count = influences.length
  const names = influences.map((one) => one.id).join()
  // the same list as long as the rows are the same: what is new draws every row anew
  const ids = useMemo(() => names.split(','), [names])
  const move = useCallback(
    (from: number, to: number): void => {
      if (to >= 0 && to < count && to !== from) act(moved({ path: list, from, to }))
    },
    [act, list, count],
  )
  const drop = ({ active, over }: DragEndEvent): void => {
    const placeOf = (id: unknown): number => influences.findIndex((one) => one.id === id)
    if (over) move(placeOf(active.id), placeOf(over.id))
  }
  return (
    <Box sx={{ overflowY: 'auto', flex: 1, minHeight: 0 }}>
      <Box sx={{ position: 'relative' }}>
        <DndContext sensors={sensors} collisionDetection={closestCenter} onDragEnd={drop}>
          <SortableContext items={ids} strategy={verticalListSortingStrategy}>
            {influences.map((influence, i) => (
              <ScoreRow
                key={influence.id}
                population={population}
                influence={influence}
                // the schema knows no other kinds
                kind={INFLUENCES.find((one) => one.kind === influence.kind)!}
                place={i}
                index={index}
                columns={columns}
                onMove={move}
              />
            ))}
          </SortableContext>
        </DndContext>
        {influences.length > 0 && <Playhead columns={columns} />}
      </Box>
      {influences.length === 0 && (
        <Typography sx={{ p: 2, fontSize: 13, color: 'text.secondary' }}>
          Nothing moves these particles yet. Add gravity, wind or turbulence above; each becomes a row here.
        </Typography>
      )}
    </Box>
  )
}
