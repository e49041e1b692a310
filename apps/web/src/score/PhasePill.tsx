import { Box, ButtonBase, Divider, Menu, MenuItem, Typography } from '@mui/material'
import { useTheme } from '@mui/material/styles'
import { CUES, DIES } from '@tangle/core'
import { useState } from 'react'
import { NameField } from '../fields/NameField.tsx'
import { useAct, useStore } from '../store/index.ts'
import { moved, phaseRemoved, phaseRenamed } from '../store/shot.ts'
import { MONO } from '../theme.ts'
import { count } from '../words.ts'

interface PhasePillProps {
  /** Of the population, which is the `index`-th. */
  phases: string[]
  index: number
  place: number
  /** Particles in it now. */
  alive: number
  onCue(kind: string): void
}

/** A phase with how many are in it, and what can be done with it. */
export function PhasePill(props: PhasePillProps) {
  const { phases, index, place, alive } = props
  const phase = phases[place]!
  const act = useAct()
  const { palette } = useTheme()
  const byPhase = useStore((state) => state.session.phaseColours)
  const [anchor, setAnchor] = useState<HTMLElement | null>(null)
  const [naming, setNaming] = useState(false)
  const rename = (to: string): void => {
    setNaming(false)
    if (phases.some((one) => one === to && one !== phase) || to === DIES || to.length > 40) return
    act(phaseRenamed({ index, from: phase, to }))
  }
  return (
    <>
      <ButtonBase
        aria-label={`${phase} ${count(alive)}: phase`}
        onClick={(event) => setAnchor(event.currentTarget)}
        onDoubleClick={() => setNaming(true)}
        sx={{
          border: 1,
          borderColor: 'divider',
          bgcolor: 'background.raised',
          borderRadius: 3,
          px: 1.25,
          height: 26,
          gap: 1,
        }}
      >
        {byPhase && <Box sx={{ width: 8, height: 8, borderRadius: 4, bgcolor: palette.phases[place % 8] }} />}
        {naming ? (
          <NameField label="Name of the phase" value={phase} onChange={rename} sx={{ width: 90 }} />
        ) : (
          <Typography sx={{ fontSize: 13, fontWeight: 600 }}>{phase}</Typography>
        )}
        <Typography sx={{ fontFamily: MONO, fontSize: 12, color: 'text.secondary' }}>
          {count(alive)}
        </Typography>
      </ButtonBase>
      <PhaseMenu
        {...props}
        anchor={anchor}
        onClose={() => setAnchor(null)}
        onRename={() => setNaming(true)}
      />
    </>
  )
}

interface PhaseMenuProps extends PhasePillProps {
  anchor: HTMLElement | null
  onClose(): void
  onRename(): void
}

function PhaseMenu({ phases, index, place, anchor, onClose, onCue, onRename }: PhaseMenuProps) {
  const act = useAct()
  const phase = phases[place]!
  const run = (what: () => void) => () => {
    onClose()
    what()
  }
  const toTheLeft = (): void =>
    void act(moved({ path: ['populations', index, 'phases'], from: place, to: place - 1 }))
  return (
    <Menu open={anchor !== null} anchorEl={anchor} onClose={onClose}>
      <MenuItem disabled sx={{ fontSize: 12 }}>
        Cue from {phase}…
      </MenuItem>
      {CUES.map(({ kind, glyph, label }) => (
        <MenuItem key={kind} onClick={run(() => onCue(kind))}>
          <Box component="span" aria-hidden sx={{ width: 24 }}>
            {glyph}
          </Box>
          {label}
        </MenuItem>
      ))}
      <Divider />
      <MenuItem onClick={run(onRename)}>Rename {phase}</MenuItem>
      <MenuItem disabled={place === 0} onClick={run(toTheLeft)}>
        Move to the left
      </MenuItem>
      <MenuItem disabled={phases.length < 2} onClick={run(() => act(phaseRemoved({ index, phase })))}>
        Remove {phase}
      </MenuItem>
    </Menu>
  )
}
