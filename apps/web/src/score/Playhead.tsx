import { Box } from '@mui/material'
import { useEngine } from '../engine/useEngine.ts'
import { useView } from './useView.ts'

/** The playhead over all rows of the score: the only part of it that is drawn anew in every frame. */
export function Playhead({ columns }: { columns: string }) {
  return (
    <Box
      aria-hidden
      sx={{
        position: 'absolute',
        inset: 0,
        display: 'grid',
        gridTemplateColumns: columns,
        pl: 1.5,
        pointerEvents: 'none',
      }}
    >
      <Box sx={{ gridColumn: '-2 / -1', position: 'relative', mr: 2.5, overflow: 'hidden' }}>
        <Line />
      </Box>
    </Box>
  )
}

function Line() {
  const view = useView()
  const frame = useEngine((e) => e.frame)
  return (
    <Box
      data-testid="score-playhead"
      sx={{
        position: 'absolute',
        top: 0,
        bottom: 0,
        left: view.left(frame),
        width: '1.3px',
        ml: '-0.65px',
        bgcolor: 'warning.main',
      }}
    />
  )
}
