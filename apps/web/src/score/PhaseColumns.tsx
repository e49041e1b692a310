import { Box, ButtonBase } from '@mui/material'
import type { ReactNode, UIEvent } from 'react'
import { useAct, useStore } from '../store/index.ts'
import { selected } from '../store/session.ts'

/** Of the column of a phase, pixels. */
export const CELL_WIDTH = 72

/** How far the phases are scrolled, by the names of their columns; each row follows them. */
const SCROLLED = '--phases-scrolled'

/** The names above the weights: a click chooses the phase in which new influences act. They scroll where there are many. */
export function PhaseNames({ phases }: { phases: string[] }) {
  const act = useAct()
  const chosen = useStore((state) => state.session.selected.phase)
  const follow = ({ currentTarget }: UIEvent<HTMLElement>): void =>
    currentTarget
      .closest<HTMLElement>('[data-score]')
      ?.style.setProperty(SCROLLED, `${-currentTarget.scrollLeft}px`)
  return (
    <Box
      data-phase-names
      onScroll={follow}
      sx={{ ...columnsOf(phases), overflowX: 'auto', overflowY: 'hidden', scrollbarWidth: 'thin' }}
    >
      {phases.map((phase) => (
        <ButtonBase
          key={phase}
          aria-pressed={phase === chosen}
          title={
            phase === chosen
              ? 'New influences act here; a click: in all phases'
              : `New influences act in ${phase}`
          }
          onClick={() => act(selected({ phase: phase === chosen ? null : phase }))}
          sx={{
            fontSize: 12,
            height: 24,
            px: 0.5,
            borderRadius: 0.5,
            color: phase === chosen ? 'primary.main' : 'text.secondary',
            fontWeight: phase === chosen ? 600 : 400,
          }}
        >
          <Box component="span" sx={{ overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }}>
            {phase}
          </Box>
        </ButtonBase>
      ))}
    </Box>
  )
}

/** One cell for each phase, below its name. */
export function PhaseCells({ phases, children }: { phases: string[]; children(phase: string): ReactNode }) {
  return (
    <Box sx={{ overflow: 'clip', minWidth: 0 }}>
      <Box
        sx={{
          ...columnsOf(phases),
          height: 30,
          alignItems: 'center',
          transform: `translateX(var(${SCROLLED}, 0px))`,
        }}
        onFocus={({ currentTarget, target }) => showColumn(currentTarget, target)}
      >
        {phases.map((phase) => (
          <Box key={phase}>{children(phase)}</Box>
        ))}
      </Box>
    </Box>
  )
}

/** Scrolls the names to the column of what has the focus. */
function showColumn(cells: HTMLElement, focused: EventTarget): void {
  const place = [...cells.children].findIndex((cell) => cell.contains(focused as Node))
  const names = cells.closest('[data-score]')?.querySelector('[data-phase-names]')
  names?.children[place]?.scrollIntoView?.({ block: 'nearest', inline: 'nearest' })
}

const columnsOf = ({ length }: string[]) => ({
  display: 'grid',
  gridTemplateColumns: `repeat(${length}, ${CELL_WIDTH}px)`,
})
