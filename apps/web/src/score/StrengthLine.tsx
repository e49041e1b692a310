import { Box } from '@mui/material'
import { isKeyed, valueAt, type Influence } from '@tangle/core'
import { useEngine } from '../engine/useEngine.ts'
import { useView } from './useView.ts'

const ROW_HEIGHT = 30
const POINTS = 160

/** An SVG path through values that stand evenly over a width of 1000. */
export const pathOf = (values: number[], y: (value: number) => number): string =>
  values
    .map(
      (value, i) =>
        `${i === 0 ? 'M' : 'L'}${((1000 * i) / (values.length - 1)).toFixed(1)} ${y(value).toFixed(1)}`,
    )
    .join('')

/** The strength over the frames that the score shows, scaled to its own values. */
export function StrengthLine({ influence, quiet }: { influence: Influence; quiet: boolean }) {
  const view = useView()
  const frame = useEngine((e) => e.frame)
  const { strength } = influence
  const values = Array.from({ length: POINTS + 1 }, (_, i) =>
    valueAt(strength, view.from + (view.span * i) / POINTS),
  )
  const high = Math.max(0, ...values)
  const low = Math.min(0, ...values)
  const y = (value: number): number =>
    high === low ? ROW_HEIGHT / 2 : ROW_HEIGHT - 6 - ((value - low) / (high - low)) * (ROW_HEIGHT - 12)
  const line = pathOf(values, y)
  return (
    <Box
      onWheel={view.onWheel}
      sx={{
        position: 'relative',
        height: ROW_HEIGHT,
        mr: 2.5,
        opacity: quiet ? 0.35 : 1,
        overflow: 'hidden',
      }}
    >
      <svg
        width="100%"
        height={ROW_HEIGHT}
        viewBox={`0 0 1000 ${ROW_HEIGHT}`}
        preserveAspectRatio="none"
        style={{ display: 'block' }}
        aria-hidden
      >
        <path
          d={line}
          fill="none"
          stroke="var(--mui-palette-text-secondary)"
          strokeWidth="1.3"
          vectorEffect="non-scaling-stroke"
        />
        <path
          d={`M${view.share(frame) * 1000} 0V${ROW_HEIGHT}`}
          stroke="var(--mui-palette-warning-main)"
          strokeWidth="1.3"
          vectorEffect="non-scaling-stroke"
        />
      </svg>
      {isKeyed(strength) &&
        strength.keys.map((key) => (
          <Box
            key={key[0]}
            sx={{
              position: 'absolute',
              left: view.left(key[0]),
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
