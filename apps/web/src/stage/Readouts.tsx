import { Box, Button, ButtonBase, Typography } from '@mui/material'
import {
  BACKDROPS,
  checkFrame,
  checkShot,
  type MeshFacts,
  type Population,
  type PopulationMeasures,
} from '@tangle/core'
import { useState } from 'react'
import { engine } from '../engine/engine.ts'
import { useEngineSlowly } from '../engine/useEngine.ts'
import { useAct, useShot } from '../store/index.ts'
import { selected } from '../store/session.ts'
import { mended } from '../store/shot.ts'
import type { Step } from '../steps/steps.ts'
import { MONO } from '../theme.ts'
import { count, megabytes } from '../words.ts'
import { leadOf } from './leads.ts'
import { RingLegend } from './RingLegend.tsx'
import { StageBar } from './StageBar.tsx'
import { stage } from './Stage.tsx'

/** What the frame holds, in the corner of the stage. */
export function Readouts({ step }: { step: string }) {
  const shot = useShot()
  const read = useEngineSlowly((e) => {
    const state = e.preview?.state
    return {
      populations: e.populations().map(({ id, count }) => ({ id, count })),
      measures: e.measures(),
      milliseconds: e.milliseconds(),
      bytes: state?.frameBytes ?? 0,
      full: state?.full ?? false,
      fault: e.fault,
      take: e.takeId !== null,
      waits: e.takeId === null && (state?.busy ?? false) && e.preview?.frame(e.frame) === undefined,
      sketch: state?.sketch ?? null,
      part: stage.world?.fineness().particles ?? 1,
    }
  })
  if (read.populations.length === 0 && !read.fault) return null
  return (
    <Box
      sx={{
        position: 'absolute',
        top: 8,
        left: 8,
        px: 0.75,
        py: 0.25,
        borderRadius: 1,
        bgcolor: onLight(shot.stage.backdrop) ? 'shadeLight' : 'shadeDark',
        pointerEvents: 'none',
        color: onLight(shot.stage.backdrop) ? 'onLightStage' : 'onDarkStage',
      }}
      data-testid="readouts"
    >
      {read.populations.map(({ id, count: alive }) => (
        <PopulationReadout
          key={id}
          population={shot.populations.find((one) => one.id === id)}
          alive={alive}
          measured={read.measures?.populations.find((one) => one.id === id)}
        />
      ))}
      <Typography component="div" sx={{ fontFamily: MONO, fontSize: 12, opacity: 0.85 }}>
        {read.take && 'take, from the server'}
        {!read.take && read.milliseconds !== undefined && (
          <>
            <Cost milliseconds={read.milliseconds} stages={read.measures?.milliseconds ?? {}} /> ·{' '}
            {megabytes(read.bytes)} of frames
          </>
        )}
        {shot.quality.previewShare < 1 && !read.take
          ? ` · share ${Math.round(shot.quality.previewShare * 100)} %`
          : ''}
      </Typography>
      {step === 'motion' && <RingLegend />}
      {read.part < 1 && (
        <Typography component="div" sx={{ fontFamily: MONO, fontSize: 12 }}>
          {`${Number((read.part * 100).toPrecision(2))} % of them drawn while it moves`}
        </Typography>
      )}
      {read.waits && (
        <Typography component="div" sx={{ fontFamily: MONO, fontSize: 12 }} data-testid="interim">
          {read.sketch === null
            ? 'computing; shown as it was before'
            : `sketch of ${Number((read.sketch * 100).toPrecision(2))} % of them; computing the rest`}
        </Typography>
      )}
      {read.full && (
        <Typography sx={{ fontSize: 12, color: 'warning.main' }}>
          Memory for frames is full: lower the share in Motion to see later frames.
        </Typography>
      )}
      {read.fault && (
        <Typography role="alert" sx={{ fontSize: 12, color: 'error.main', maxWidth: 420 }}>
          {read.fault}
        </Typography>
      )}
    </Box>
  )
}

interface PopulationReadoutProps {
  /** Undefined where a take shows one that the shot no longer has. */
  population: Population | undefined
  alive: number
  measured: PopulationMeasures | undefined
}

function PopulationReadout({ population, alive, measured }: PopulationReadoutProps) {
  // phases that nobody is in take no room
  const filled = Object.entries(measured?.phases ?? {}).filter(([, n]) => n > 0)
  const phases = filled.map(([phase, n]) => `${phase} ${count(n)}`)
  const goalName = (id: string): string => population?.goals.find((one) => one.id === id)?.name ?? id
  return (
    <Box sx={{ mb: 0.5 }}>
      <Typography sx={{ fontWeight: 600, fontSize: 13 }}>
        {population?.name ?? 'Another population'}
      </Typography>
      <Typography sx={{ fontFamily: MONO, fontSize: 12, opacity: 0.85 }} data-testid="alive">
        {phases.length > 0 ? phases.join(' · ') : `${count(alive)} alive`}
        {measured ? ` · ${measured.speed.median.toFixed(1)} m/s` : ''}
      </Typography>
      {measured?.goals
        .filter((goal) => goal.paired > 0)
        .map((goal) => (
          <Typography key={goal.id} sx={{ fontFamily: MONO, fontSize: 12, opacity: 0.85 }}>
            {goalName(goal.id)}: {count(goal.arrived)} of {count(goal.paired)} arrived ·{' '}
            {goal.median.toFixed(2)} m to go
          </Typography>
        ))}
    </Box>
  )
}

/** What a frame costs; a click says where it goes. */
function Cost({ milliseconds, stages }: { milliseconds: number; stages: Record<string, number> }) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null)
  return (
    <>
      <ButtonBase
        aria-label="Where the time of a frame goes"
        aria-expanded={anchor !== null}
        onClick={(event) => setAnchor(event.currentTarget)}
        sx={{ font: 'inherit', textDecoration: 'underline dotted', pointerEvents: 'auto' }}
      >
        {Math.round(milliseconds)} ms a frame
      </ButtonBase>
      <StageBar milliseconds={stages} anchor={anchor} onClose={() => setAnchor(null)} />
    </>
  )
}

const onLight = (backdrop: string): boolean => BACKDROPS[backdrop]?.light ?? false

/** Findings, as notes in the corner; each can be put aside. */
export function Checks({ onLead }: { onLead(step: Step): void }) {
  const shot = useShot()
  const [aside, setAside] = useState<string[]>([])
  const act = useAct()
  const { measures, frame } = useEngineSlowly((e) => ({ measures: e.measures(), frame: e.shownFrame }), 500)
  const facts = new Map<string, MeshFacts>()
  for (const mesh of shot.meshes) {
    const loaded = engine.meshOf(mesh.source)
    if (loaded) facts.set(mesh.id, loaded.facts)
  }
  const checks = [
    ...checkShot(shot, facts),
    ...(measures ? checkFrame(shot, measures, frame, facts) : []),
  ].filter((check) => !aside.includes(check.id))
  const check = checks[0]
  if (!check) return null
  const lead = leadOf(check, shot)
  return (
    <Box
      role="status"
      sx={{
        position: 'absolute',
        right: 12,
        bottom: 12,
        maxWidth: 'min(380px, calc(100% - 24px))',
        p: 1.25,
        '@container (max-height: 300px)': { p: 0.75, maxWidth: 300 },
        bgcolor: 'background.paper',
        border: 1,
        borderColor: 'warning.main',
        borderRadius: 1,
      }}
    >
      <Typography sx={{ color: 'warning.main', fontWeight: 600, fontSize: 13 }}>{check.title}</Typography>
      <Typography sx={{ fontSize: 13, '@container (max-height: 300px)': { display: 'none' } }}>
        {check.text}
      </Typography>
      {check.mend && (
        <Button variant="outlined" onClick={() => act(mended(check.mend!.edits))} sx={{ mt: 0.5, mr: 1 }}>
          {check.mend.label}
        </Button>
      )}
      {lead && (
        <Button
          onClick={() => {
            act(selected(lead.select))
            onLead(lead.step)
          }}
          sx={{ mt: 0.5, mr: 1 }}
        >
          Show it
        </Button>
      )}
      <Box
        component="button"
        onClick={() => setAside([...aside, check.id])}
        sx={{
          all: 'unset',
          cursor: 'pointer',
          fontSize: 12,
          mt: 0.5,
          color: 'text.secondary',
          '&:focus-visible': { outline: 1 },
        }}
      >
        Leave it{checks.length > 1 ? ` (${checks.length - 1} more)` : ''}
      </Box>
    </Box>
  )
}
