import { frameNumber } from '@tangle/formats'
import Pause from '@mui/icons-material/Pause'
import PlayArrow from '@mui/icons-material/PlayArrow'
import Repeat from '@mui/icons-material/Repeat'
import SkipNext from '@mui/icons-material/SkipNext'
import SkipPrevious from '@mui/icons-material/SkipPrevious'
import { Box, IconButton, Tooltip, Typography } from '@mui/material'
import { engine } from '../engine/engine.ts'
import { useEngine } from '../engine/useEngine.ts'
import { useAct, useShot, useStore } from '../store/index.ts'
import { loopToggled } from '../store/session.ts'
import { MONO } from '../theme.ts'
import { FrameRange } from './FrameRange.tsx'
import { Track } from './Track.tsx'

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
        {frameNumber(frame)}
      </Typography>
      <Track first={first} last={last} frame={frame} computedTo={computedTo} />
      <FrameRange first={first} last={last} rate={rate} computedTo={computedTo} busy={busy} take={take} />
    </Box>
  )
}
