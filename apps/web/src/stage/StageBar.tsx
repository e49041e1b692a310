import { Box, Popover, Typography } from '@mui/material'
import { useTheme } from '@mui/material/styles'
import { STAGES } from '@tangle/core'
import { MONO } from '../theme.ts'

interface StageBarProps {
  /** Milliseconds of each stage in the frame. */
  milliseconds: Record<string, number>
  anchor: HTMLElement | null
  onClose(): void
}

/** Where the time of a frame went, stage by stage, and what would make the slowest cheaper. */
export function StageBar({ milliseconds, anchor, onClose }: StageBarProps) {
  const { palette } = useTheme()
  const spent = STAGES.map((stage) => ({ ...stage, ms: milliseconds[stage.name] ?? 0 })).filter(
    ({ ms }) => ms > 0,
  )
  const whole = spent.reduce((sum, { ms }) => sum + ms, 0)
  const slowest = spent.toSorted((a, b) => b.ms - a.ms)
  const [most] = slowest
  const tint = (name: string): string =>
    palette.phases[STAGES.findIndex((stage) => stage.name === name) % palette.phases.length]!
  return (
    <Popover
      open={anchor !== null}
      anchorEl={anchor}
      onClose={onClose}
      anchorOrigin={{ vertical: 'bottom', horizontal: 'left' }}
      slotProps={{ paper: { 'aria-label': 'Time of a frame', sx: { p: 1.25, width: 360 } } }}
    >
      {!most ? (
        <Typography sx={{ fontSize: 13 }}>This frame was not computed here.</Typography>
      ) : (
        <>
          <Box
            sx={{ display: 'flex', height: 14, borderRadius: 0.5, overflow: 'hidden', gap: '1px', mb: 1 }}
            aria-hidden
          >
            {spent.map(({ name, ms }) => (
              <Box key={name} sx={{ width: `${(100 * ms) / whole}%`, bgcolor: tint(name) }} />
            ))}
          </Box>
          {slowest.slice(0, 6).map(({ name, ms, does }) => (
            <Box
              key={name}
              title={does}
              sx={{ display: 'grid', gridTemplateColumns: '14px 1fr 70px 48px', fontSize: 12.5 }}
            >
              <Box sx={{ width: 8, height: 8, borderRadius: 1, bgcolor: tint(name), alignSelf: 'center' }} />
              {name}
              <Box sx={{ fontFamily: MONO, textAlign: 'right' }}>{ms.toFixed(1)} ms</Box>
              <Box sx={{ fontFamily: MONO, textAlign: 'right', color: 'text.secondary' }}>
                {Math.round((100 * ms) / whole)} %
              </Box>
            </Box>
          ))}
          <Typography sx={{ fontSize: 12.5, mt: 1 }}>
            Most goes into <b>{most.name}</b>. Cheaper: {most.cheaper}.
          </Typography>
        </>
      )}
    </Popover>
  )
}
