import HelpOutlineOutlined from '@mui/icons-material/HelpOutlineOutlined'
import CloseOutlined from '@mui/icons-material/CloseOutlined'
import { Box, IconButton, Paper, Typography } from '@mui/material'
import type { Parameter } from '@tangle/core'
import { useCallback, useEffect, useRef } from 'react'
import { shown } from '../fields/formula.ts'
import { useAct, useStore } from '../store/index.ts'
import { helpAsked } from '../store/session.ts'
import { helpedKind, type Helped } from './kinds.ts'
import { MovingPicture } from './MovingPicture.tsx'

/** Opens the help of a kind beside the panel that shows it. */
export function HelpButton(of: Helped) {
  const act = useAct()
  return (
    <IconButton
      size="small"
      aria-label={`Help on ${helpedKind(of)?.label ?? ''}`}
      aria-haspopup="dialog"
      onClick={() => act(helpAsked(of))}
    >
      <HelpOutlineOutlined sx={{ fontSize: 17 }} />
    </IconButton>
  )
}

/** Beside the panel, which can be used meanwhile: what the kind that was asked for does, moving, what goes wrong with it, and each of its values. */
export function HelpCard() {
  const act = useAct()
  const asked = useStore((state) => state.session.help)
  const kind = asked && helpedKind(asked)
  const card = useRef<HTMLDivElement>(null)
  const close = useCallback((): void => void act(helpAsked(null)), [act])
  useEffect(() => {
    if (!asked) return
    card.current?.focus()
    const pressed = (event: KeyboardEvent): void => {
      if (event.key === 'Escape' && !event.defaultPrevented) close()
    }
    addEventListener('keydown', pressed)
    return () => removeEventListener('keydown', pressed)
  }, [asked, close])
  if (!asked || !kind) return null
  return (
    <Paper
      ref={card}
      role="dialog"
      aria-labelledby="help-title"
      tabIndex={-1}
      variant="outlined"
      sx={{
        position: 'fixed',
        top: 52,
        right: 328,
        width: 348,
        maxHeight: 'calc(100vh - 64px)',
        overflowY: 'auto',
        zIndex: 'modal',
        p: 2,
        '&:focus': { outline: 'none' },
      }}
    >
      <IconButton size="small" aria-label="Close the help" onClick={close} sx={{ float: 'right' }}>
        <CloseOutlined sx={{ fontSize: 16 }} />
      </IconButton>
      <Typography id="help-title" component="h2" sx={{ fontWeight: 600, fontSize: 15 }}>
        <span aria-hidden>{kind.glyph} </span>
        {kind.label}
      </Typography>
      <Typography sx={{ fontSize: 13 }}>{kind.help}</Typography>
      <MovingPicture {...asked} />
      <Title>When it goes wrong</Title>
      <Typography sx={{ fontSize: 13 }}>{kind.pitfall}</Typography>
      <Title>Its values</Title>
      <Box component="dl" sx={{ m: 0 }}>
        {Object.entries(kind.parameters).map(([name, parameter]) => (
          <Value key={name} parameter={parameter} />
        ))}
      </Box>
      {kind.source && (
        <Typography sx={{ fontSize: 12, color: 'text.secondary', mt: 1 }}>Source: {kind.source}</Typography>
      )}
    </Paper>
  )
}

const Title = ({ children }: { children: string }) => (
  <Typography component="h3" sx={{ fontSize: 12, fontWeight: 600, color: 'text.secondary', mt: 1 }}>
    {children}
  </Typography>
)

function Value({ parameter }: { parameter: Parameter }) {
  const usual = parameter.type === 'number' && ` Usually ${shown(parameter.default)} ${parameter.unit}.`
  return (
    <Box sx={{ mt: 0.5 }}>
      <Box component="dt" sx={{ fontSize: 13, fontWeight: 600 }}>
        {parameter.label}
      </Box>
      <Box component="dd" sx={{ m: 0, fontSize: 12.5, color: 'text.secondary' }}>
        {parameter.help}.{usual}
      </Box>
    </Box>
  )
}
