import { Box, Popover, Typography } from '@mui/material'
import { useState } from 'react'
import { Row } from '../fields/Choices.tsx'
import { NumberInput } from '../fields/NumberField.tsx'
import { useAct, useShot } from '../store/index.ts'
import { set } from '../store/shot.ts'
import { MONO } from '../theme.ts'

interface FrameRangeProps {
  first: number
  last: number
  rate: number
  computedTo: number | null
  busy: boolean
  take: boolean
}

/** The range and the rate, with a small form to change them, the substeps and the iterations. */
export function FrameRange({ first, last, rate, computedTo, busy, take }: FrameRangeProps) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null)
  const progress = busy && !take ? ` · computed to ${computedTo ?? '–'}` : ''
  return (
    <>
      <Typography
        component="button"
        onClick={(event) => setAnchor(event.currentTarget)}
        disabled={take}
        aria-label="Frame range and rate"
        sx={{
          all: 'unset',
          cursor: take ? 'default' : 'pointer',
          fontFamily: MONO,
          fontSize: 12,
          color: 'text.secondary',
          whiteSpace: 'nowrap',
          '&:focus-visible': { outline: '2px solid', outlineColor: 'primary.main' },
        }}
      >
        {first}–{last} · {rate}/s{progress}
      </Typography>
      <Popover
        open={anchor !== null}
        anchorEl={anchor}
        onClose={() => setAnchor(null)}
        anchorOrigin={{ vertical: 'top', horizontal: 'right' }}
        transformOrigin={{ vertical: 'bottom', horizontal: 'right' }}
      >
        <Box sx={{ p: 1.5, width: 230 }}>
          <FrameFields />
        </Box>
      </Popover>
    </>
  )
}

interface Field {
  label: string
  /** Its name for those who do not see it, where that is another. */
  name?: string
  help?: string
  unit?: string
  path: [string, string]
  range: [number, number]
  /** Any number, not whole ones only. */
  fractions?: true
}

function FrameFields() {
  const act = useAct()
  const shot = useShot()
  const { frames } = shot
  const fields: Field[] = [
    { label: 'First frame', path: ['frames', 'first'], range: [-100000, frames.last] },
    { label: 'Last frame', path: ['frames', 'last'], range: [frames.first, 100000] },
    {
      label: 'Rate',
      name: 'Frame rate',
      unit: '/s',
      path: ['frames', 'rate'],
      range: [1, 240],
      fractions: true,
    },
    { label: 'Substeps', path: ['quality', 'substeps'], range: [1, 64] },
    {
      label: 'Iterations',
      help: 'Rounds of links and contacts in a substep: more make heaps and bodies firmer',
      path: ['quality', 'iterations'],
      range: [1, 256],
    },
    {
      label: 'Settle for',
      help: 'Runs ahead so many frames, or until all is at rest, and starts from there: heaps lie, bodies hang',
      unit: 'frames',
      path: ['quality', 'settle'],
      range: [0, 10000],
    },
  ]
  return fields.map(({ label, name = label, help, unit, path, range, fractions }) => {
    const values = shot[path[0] as 'frames' | 'quality'] as unknown as Record<string, number>
    return (
      <Row key={label} label={label} {...(help !== undefined && { help })}>
        <NumberInput
          name={name}
          {...(unit !== undefined && { unit })}
          value={values[path[1]]!}
          range={range}
          whole={!fractions}
          onChange={(value) => act(set({ path, value }))}
        />
      </Row>
    )
  })
}
