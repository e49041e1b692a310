import { Box, ButtonBase, Typography } from '@mui/material'
import { engine } from '../engine/engine.ts'
import { useEngine } from '../engine/useEngine.ts'
import { MONO } from '../theme.ts'
import { useView } from './useView.ts'

/** Frame numbers above the strengths, with the playhead's mark. Wheel with Ctrl zooms, with Shift goes along. */
export function Ruler() {
  const view = useView()
  const frame = useEngine((e) => e.frame)
  const every = [1, 2, 5, 10, 20, 50, 100, 200, 500, 1000].find((n) => view.span / n <= 12) ?? 2000
  const start = Math.ceil(view.from / every) * every
  const numbers = Array.from(
    { length: Math.floor((view.to - start) / every) + 1 },
    (_, i) => start + i * every,
  )
  const shown =
    view.from % every === 0
      ? numbers
      : [Math.round(view.from), ...numbers.filter((n) => n > view.from + every / 2)]
  return (
    <Box
      sx={{ position: 'relative', height: '100%', mr: 2.5, cursor: 'pointer', overflow: 'visible' }}
      onWheel={view.onWheel}
      onPointerDown={(event) => {
        const { x, width } = event.currentTarget.getBoundingClientRect()
        engine.seek(view.from + ((event.clientX - x) / width) * view.span)
      }}
    >
      {shown.map((n) => (
        <Typography
          key={n}
          sx={{
            position: 'absolute',
            left: view.left(n),
            top: 4,
            transform: 'translateX(-50%)',
            fontFamily: MONO,
            fontSize: 12,
            color: 'text.secondary',
          }}
        >
          {n}
        </Typography>
      ))}
      {frame >= view.from && frame <= view.to && (
        <Box
          sx={{
            position: 'absolute',
            left: view.left(frame),
            bottom: 0,
            ml: '-4px',
            borderLeft: '4px solid transparent',
            borderRight: '4px solid transparent',
            borderTop: '5px solid',
            borderTopColor: 'warning.main',
          }}
        />
      )}
    </Box>
  )
}

/** Buttons for the frames that the score shows. */
export function ViewButtons() {
  const view = useView()
  const middle = (view.from + view.to) / 2
  const button = (label: string, sign: string, onClick: () => void) => (
    <ButtonBase
      aria-label={label}
      title={label}
      onClick={onClick}
      sx={{
        width: 22,
        height: 20,
        fontFamily: MONO,
        fontSize: 13,
        color: 'text.secondary',
        borderRadius: 0.5,
      }}
    >
      {sign}
    </ButtonBase>
  )
  return (
    <Box sx={{ display: 'flex', alignItems: 'center' }}>
      {button('Earlier frames', '‹', () => view.pan(-view.span / 6))}
      {button('Later frames', '›', () => view.pan(view.span / 6))}
      {button('Show fewer frames', '+', () => view.zoom(1.5, middle))}
      {button('Show more frames', '−', () => view.zoom(1 / 1.5, middle))}
      {button('Show all frames', '⤢', () => view.fit())}
    </Box>
  )
}
