import { Box, Button, Menu, MenuItem, Tooltip, Typography } from '@mui/material'
import { INFLUENCES, type Population } from '@tangle/core'
import { useState } from 'react'
import { useEngineSlowly } from '../engine/useEngine.ts'
import { addInfluence } from '../steps/populations.ts'
import { useAct, useShot } from '../store/index.ts'
import { selected } from '../store/session.ts'
import { set } from '../store/shot.ts'
import { MONO } from '../theme.ts'
import { count } from '../words.ts'

/** The phases in order with how many are in each now, and what can be added. */
export function CueLine({ population, index }: { population: Population; index: number }) {
  const act = useAct()
  const shot = useShot()
  const [anchor, setAnchor] = useState<HTMLElement | null>(null)
  const measures = useEngineSlowly((e) => e.measures()?.populations.find((p) => p.id === population.id))
  const share = shot.quality.previewShare
  return (
    <Box
      sx={{
        display: 'flex',
        alignItems: 'center',
        gap: 1,
        height: 36,
        px: 1.5,
        borderBottom: 1,
        borderColor: 'divider',
      }}
    >
      {shot.populations.length > 1 &&
        shot.populations.map((one) => (
          <Button
            key={one.id}
            color={one.id === population.id ? 'primary' : 'inherit'}
            onClick={() => act(selected({ population: one.id, influence: null }))}
          >
            {one.name}
          </Button>
        ))}
      {population.phases.map((phase) => (
        <Box
          key={phase}
          sx={{
            border: 1,
            borderColor: 'divider',
            bgcolor: 'background.raised',
            borderRadius: 3,
            px: 1.25,
            height: 26,
            display: 'flex',
            alignItems: 'center',
            gap: 1,
          }}
        >
          <Typography sx={{ fontSize: 13, fontWeight: 600 }}>{phase}</Typography>
          <Typography sx={{ fontFamily: MONO, fontSize: 12, color: 'text.secondary' }}>
            {count(measures?.phases[phase] ?? 0)}
          </Typography>
        </Box>
      ))}
      <Typography sx={{ fontSize: 12.5, color: 'text.secondary' }}>— end of life ⟶ gone</Typography>
      <Box sx={{ flex: 1 }} />
      <Tooltip title="Part of the particles that the preview computes; takes compute all">
        <Typography component="span" sx={{ fontSize: 12.5, color: 'text.secondary' }}>
          Share
        </Typography>
      </Tooltip>
      {[1, 0.3, 0.1].map((part) => (
        <Button
          key={part}
          color={part === share ? 'primary' : 'inherit'}
          aria-pressed={part === share}
          onClick={() => act(set({ path: ['quality', 'previewShare'], value: part }))}
          sx={{ px: 0.75, fontFamily: MONO, fontSize: 12 }}
        >
          {Math.round(part * 100)} %
        </Button>
      ))}
      <Button variant="outlined" onClick={(event) => setAnchor(event.currentTarget)}>
        + Influence
      </Button>
      <Menu
        open={anchor !== null}
        anchorEl={anchor}
        onClose={() => setAnchor(null)}
        anchorOrigin={{ vertical: 'top', horizontal: 'right' }}
        transformOrigin={{ vertical: 'bottom', horizontal: 'right' }}
      >
        {INFLUENCES.map((kind) => (
          <MenuItem
            key={kind.kind}
            onClick={() => {
              addInfluence(population, index, kind.kind)
              setAnchor(null)
            }}
          >
            <Box component="span" aria-hidden sx={{ width: 24 }}>
              {kind.glyph}
            </Box>
            <Box>
              {kind.label}
              <Typography sx={{ fontSize: 12, color: 'text.secondary' }}>{kind.help}</Typography>
            </Box>
          </MenuItem>
        ))}
      </Menu>
    </Box>
  )
}
