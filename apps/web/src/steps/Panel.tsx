import { Box, Button, Typography } from '@mui/material'
import type { ReactNode } from 'react'
import { useAct } from '../store/index.ts'
import { recipeOpened } from '../store/session.ts'

/** The details on the right. */
export function Panel({
  title,
  glyph,
  help,
  children,
  actions,
}: {
  title: string
  glyph?: string
  help?: string
  children: ReactNode
  actions?: ReactNode
}) {
  return (
    <Box
      component="aside"
      aria-label="Details"
      sx={{ p: 1.75, overflowY: 'auto', overflowX: 'hidden', height: '100%' }}
    >
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 1 }}>
        {glyph && (
          <Box aria-hidden sx={{ color: 'primary.main', fontSize: 18, lineHeight: 1 }}>
            {glyph}
          </Box>
        )}
        <Typography component="h2" sx={{ fontSize: 15, fontWeight: 600, flex: 1 }}>
          {title}
        </Typography>
        {actions}
      </Box>
      {help && <Typography sx={{ color: 'text.secondary', fontSize: 12.5, mt: 0.25 }}>{help}</Typography>}
      <Box sx={{ mt: 1 }}>{children}</Box>
    </Box>
  )
}

export function Section({
  title,
  children,
  action,
}: {
  title: string
  children: ReactNode
  action?: ReactNode
}) {
  return (
    <Box sx={{ borderTop: 1, borderColor: 'divider', pt: 1, mt: 1.25 }}>
      <Box sx={{ display: 'flex', alignItems: 'center', minHeight: 26 }}>
        <Typography sx={{ fontSize: 12, color: 'text.secondary', fontWeight: 600, flex: 1 }}>
          {title}
        </Typography>
        {action}
      </Box>
      {children}
    </Box>
  )
}

/** What a step is for and the one thing to do first. */
export function Empty({ text, children }: { text: string; children?: ReactNode }) {
  return (
    <Box sx={{ border: 1, borderStyle: 'dashed', borderColor: 'line', borderRadius: 1, p: 1.5, my: 1 }}>
      <Typography sx={{ fontSize: 13, color: 'text.secondary' }}>{text}</Typography>
      {children && <Box sx={{ mt: 1 }}>{children}</Box>}
    </Box>
  )
}

/** Offers a ready shot, where there is nothing yet. */
export function RecipesButton() {
  const act = useAct()
  return (
    <Button variant="outlined" onClick={() => act(recipeOpened(''))}>
      Start from a recipe…
    </Button>
  )
}

interface EntryProps {
  name: string
  note?: string
  glyph?: string
  selected: boolean
  quiet?: boolean
  onSelect(): void
  children?: ReactNode
}

/** One line of a list: selects on a click, with small buttons at its end. */
export function Entry({ name, note, glyph, selected, quiet, onSelect, children }: EntryProps) {
  return (
    <Box
      sx={{
        display: 'flex',
        alignItems: 'center',
        minHeight: 28,
        px: 1,
        mx: -1,
        borderRadius: 1,
        bgcolor: selected ? 'background.row' : 'transparent',
        boxShadow: (theme) => (selected ? `inset 2px 0 ${theme.vars?.palette.primary.main ?? ''}` : 'none'),
      }}
    >
      <Box
        component="button"
        onClick={onSelect}
        aria-pressed={selected}
        sx={{
          all: 'unset',
          flex: 1,
          minWidth: 0,
          cursor: 'pointer',
          display: 'flex',
          gap: 1,
          alignItems: 'baseline',
          opacity: quiet ? 0.5 : 1,
          '&:focus-visible': { outline: '2px solid', outlineColor: 'primary.main' },
        }}
      >
        {glyph && <span aria-hidden>{glyph}</span>}
        <Typography noWrap sx={{ fontSize: 13, fontWeight: selected ? 600 : 400 }}>
          {name}
        </Typography>
        {note && (
          <Typography noWrap sx={{ fontSize: 12, color: 'text.secondary' }}>
            {note}
          </Typography>
        )}
      </Box>
      {children}
    </Box>
  )
}
