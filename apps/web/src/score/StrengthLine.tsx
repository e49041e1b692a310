import { Box } from '@mui/material'
import { isKeyed, valueAt, type Keyed } from '@tangle/core'
import { memo, useMemo } from 'react'
import { useView } from './useView.ts'
import { CurvePath, CurvePicture } from './CurvePicture.tsx'

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

/** Values of a strength, evenly over the frames that are shown. */
export const sampled = (
  strength: Keyed,
  { from, span }: { from: number; span: number },
  points: number,
): number[] => Array.from({ length: points + 1 }, (_, i) => valueAt(strength, from + (span * i) / points))

/** The strength over the frames that the score shows, scaled to its own values; drawn anew when those change. */
export const StrengthLine = memo(function StrengthLine({
  strength,
  quiet,
}: {
  strength: Keyed
  quiet: boolean
}) {
  const view = useView()
  const { from, span } = view
  const { line, y } = useMemo(() => {
    const values = sampled(strength, { from, span }, POINTS)
    const [high, low] = [Math.max(0, ...values), Math.min(0, ...values)]
    const y = (value: number): number =>
      high === low ? ROW_HEIGHT / 2 : ROW_HEIGHT - 6 - ((value - low) / (high - low)) * (ROW_HEIGHT - 12)
    return { line: pathOf(values, y), y }
  }, [strength, from, span])
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
      <CurvePicture height={ROW_HEIGHT}>
        <CurvePath d={line} colour="text-secondary" width={1.3} />
      </CurvePicture>
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
})
