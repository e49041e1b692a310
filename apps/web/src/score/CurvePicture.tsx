import type { ReactNode } from 'react'

/** A picture as wide as its place, a thousand units across, in which curves are drawn. */
export function CurvePicture({ height, children }: { height: number; children: ReactNode }) {
  return (
    <svg
      width="100%"
      height={height}
      viewBox={`0 0 1000 ${height}`}
      preserveAspectRatio="none"
      style={{ display: 'block' }}
      aria-hidden
    >
      {children}
    </svg>
  )
}

/** A line in a colour of the palette, so many pixels wide however the picture is stretched. */
export function CurvePath({ d, colour, width }: { d: string; colour: string; width: number }) {
  return (
    <path
      d={d}
      fill="none"
      stroke={`var(--mui-palette-${colour})`}
      strokeWidth={width}
      vectorEffect="non-scaling-stroke"
    />
  )
}
