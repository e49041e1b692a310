import { Box, Typography } from '@mui/material'
import { valueAt, type Influence } from '@tangle/core'
import { engine } from '../engine/engine.ts'
import { useEngine } from '../engine/useEngine.ts'
import { useShot } from '../store/index.ts'
import { MONO } from '../theme.ts'

const useFrames = () => useShot().frames

/** Frame numbers above the strengths, with the playhead's mark. */
export function Ruler() {
  const { first, last } = useFrames()
  const frame = useEngine((e) => e.frame)
  const span = Math.max(1, last - first)
  const every = [5, 10, 20, 50, 100, 200, 500, 1000].find((n) => span / n <= 12) ?? 2000
  const numbers = [
    first,
    ...Array.from({ length: Math.floor(last / every) + 1 }, (_, i) => i * every).filter(
      (n) => n > first + every / 2 && n <= last,
    ),
  ]
  return (
    <Box
      sx={{ position: 'relative', height: '100%', mr: 2.5, cursor: 'pointer' }}
      onPointerDown={(event) => {
        const { x, width } = event.currentTarget.getBoundingClientRect()
        engine.seek(first + ((event.clientX - x) / width) * span)
      }}
    >
      {numbers.map((n) => (
        <Typography
          key={n}
          sx={{
            position: 'absolute',
            left: `${((n - first) / span) * 100}%`,
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
      <Box
        sx={{
          position: 'absolute',
          left: `${((frame - first) / span) * 100}%`,
          bottom: 0,
          ml: '-4px',
          borderLeft: '4px solid transparent',
          borderRight: '4px solid transparent',
          borderTop: '5px solid',
          borderTopColor: 'warning.main',
        }}
      />
    </Box>
  )
}

const HEIGHT = 30
const POINTS = 160

/** The strength over the frames of the shot, scaled to its own highest value. */
export function StrengthLine({
  influence,
  chosen,
  quiet,
}: {
  influence: Influence
  chosen: boolean
  quiet: boolean
}) {
  const { first, last } = useFrames()
  const frame = useEngine((e) => e.frame)
  const span = Math.max(1, last - first)
  const { strength } = influence
  const values = Array.from({ length: POINTS + 1 }, (_, i) => valueAt(strength, first + (span * i) / POINTS))
  const high = Math.max(0, ...values)
  const low = Math.min(0, ...values)
  const y = (value: number): number =>
    high === low ? HEIGHT / 2 : HEIGHT - 6 - ((value - low) / (high - low)) * (HEIGHT - 12)
  const x = (at: number): number => ((at - first) / span) * 1000
  const line = values
    .map((value, i) => `${i === 0 ? 'M' : 'L'}${((1000 * i) / POINTS).toFixed(1)} ${y(value).toFixed(1)}`)
    .join('')
  return (
    <Box sx={{ position: 'relative', height: HEIGHT, mr: 2.5, opacity: quiet ? 0.35 : 1 }}>
      <svg
        width="100%"
        height={HEIGHT}
        viewBox={`0 0 1000 ${HEIGHT}`}
        preserveAspectRatio="none"
        style={{ overflow: 'visible', display: 'block' }}
        aria-hidden
      >
        <path
          d={line}
          fill="none"
          stroke={chosen ? 'var(--mui-palette-primary-main)' : 'var(--mui-palette-text-secondary)'}
          strokeWidth={chosen ? 2 : 1.3}
          vectorEffect="non-scaling-stroke"
        />
        <path
          d={`M${x(frame)} 0V${HEIGHT}`}
          stroke="var(--mui-palette-warning-main)"
          strokeWidth="1.3"
          vectorEffect="non-scaling-stroke"
        />
      </svg>
      {typeof strength === 'object' &&
        strength.keys
          .filter((key) => key[0] >= first && key[0] <= last)
          .map((key) => (
            <Box
              key={key[0]}
              sx={{
                position: 'absolute',
                left: `${((key[0] - first) / span) * 100}%`,
                top: y(key[1]),
                width: 7,
                height: 7,
                m: '-3.5px',
                borderRadius: '2px',
                bgcolor: 'text.primary',
              }}
            />
          ))}
    </Box>
  )
}
