import { Box, Popover, Typography } from '@mui/material'
import { useState } from 'react'
import { qualityOf, type Quality, type QualityLevel } from '@tangle/core'
import { Choices, Row } from '../fields/Choices.tsx'
import { NumberInput } from '../fields/NumberField.tsx'
import { useAct, useShot } from '../store/index.ts'
import { set, shifted } from '../store/shot.ts'
import { MONO } from '../theme.ts'

interface FrameRangeProps {
  first: number
  last: number
  rate: number
  computedTo: number | null
  busy: boolean
  take: boolean
}

/** The range and the rate, with a small form to change them and the quality. */
export function FrameRange({ first, last, rate, computedTo, busy, take }: FrameRangeProps) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null)
  const progress = busy && !take ? ` · computed to ${computedTo ?? '–'}` : ''
  return (
    <>
      <Typography
        component="button"
        onClick={(event) => setAnchor(event.currentTarget)}
        disabled={take}
        aria-label={`${first}–${last} · ${rate}/s${progress}: frame range and rate`}
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
        <Box sx={{ p: 1.5, width: 250 }}>
          <FrameFields />
        </Box>
      </Popover>
    </>
  )
}

interface FieldProps {
  label: string
  /** Its name for those who do not see it, where that is another. */
  name?: string
  help?: string
  unit?: string
  value: number
  range: [number, number]
  /** Any number, not whole ones only. */
  fractions?: true
  onChange(value: number): void
}

function Field({ label, name = label, help, unit, fractions, ...input }: FieldProps) {
  return (
    <Row label={label} {...(help !== undefined && { help })}>
      <NumberInput name={name} {...(unit !== undefined && { unit })} whole={!fractions} {...input} />
    </Row>
  )
}

const LEVELS: Record<Exclude<QualityLevel, 'own'>, string> = { draft: 'Draft', good: 'Good', fine: 'Fine' }

function FrameFields() {
  const act = useAct()
  const shot = useShot()
  const { frames, quality } = shot
  const { level } = quality
  const used = qualityOf(shot)
  const put = (part: 'frames' | 'quality', key: string) => (value: unknown) =>
    act(set({ path: [part, key], value }))
  // a number that is typed stands for itself, and so does the other one from then on
  const type = (key: keyof Quality) => (value: number) =>
    act(set({ path: ['quality'], value: { ...quality, ...used, [key]: value, level: 'own' } }))
  return (
    <>
      <Field
        label="First frame"
        value={frames.first}
        range={[-100000, frames.last]}
        onChange={put('frames', 'first')}
      />
      <Field
        label="Last frame"
        value={frames.last}
        range={[frames.first, 100000]}
        onChange={put('frames', 'last')}
      />
      <Field
        label="Renumber from"
        help="Moves the whole shot to begin at this frame: keys, births and cues go along. First frame alone cuts it off"
        value={frames.first}
        range={[-100000, 100000 - (frames.last - frames.first)]}
        onChange={(first) => act(shifted(first - frames.first))}
      />
      <Field
        label="Rate"
        name="Frame rate"
        unit="/s"
        value={frames.rate}
        range={[1, 240]}
        fractions
        onChange={put('frames', 'rate')}
      />
      <Row
        label="Quality"
        help="Substeps and iterations by what acts, and by the size and speed of what moves; or type them"
      >
        <Choices name="Quality" value={level} options={LEVELS} onChange={put('quality', 'level')} />
      </Row>
      <Field
        label="Substeps"
        help={HELP[level === 'own' ? 'own' : 'follows']}
        value={used.substeps}
        range={[1, 64]}
        onChange={type('substeps')}
      />
      <Field
        label="Iterations"
        help="Rounds of links and contacts in a substep: more make heaps and bodies firmer"
        value={used.iterations}
        range={[1, 256]}
        onChange={type('iterations')}
      />
      <Field
        label="Run before the first frame"
        help="Runs ahead so many frames, or until all is at rest, and starts from there: heaps lie, bodies hang"
        unit="frames"
        value={quality.settle}
        range={[0, 10000]}
        onChange={put('quality', 'settle')}
      />
    </>
  )
}
const HELP = {
  own: 'Typed: they stay as they are',
  follows: 'From the quality: small, heavy or fast bodies that touch need more',
}
