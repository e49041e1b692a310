import HelpOutlineOutlined from '@mui/icons-material/HelpOutlineOutlined'
import { Box, IconButton, Popover, Typography } from '@mui/material'
import type { Parameter } from '@tangle/core'
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

/** What the kind that was asked for does, moving, what goes wrong with it, and each of its values. */
export function HelpCard() {
  const act = useAct()
  const asked = useStore((state) => state.session.help)
  const kind = asked && helpedKind(asked)
  if (!asked || !kind) return null
  return (
    <Popover
      open
      onClose={() => act(helpAsked(null))}
      anchorReference="anchorPosition"
      anchorPosition={{ top: 56, left: innerWidth - 328 }}
      transformOrigin={{ vertical: 'top', horizontal: 'right' }}
      slotProps={{
        paper: {
          role: 'dialog',
          'aria-labelledby': 'help-title',
          sx: { width: 348, maxHeight: '80vh', p: 2 },
        },
      }}
    >
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
    </Popover>
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
