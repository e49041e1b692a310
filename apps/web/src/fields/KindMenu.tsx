import { Box, Button, Menu, MenuItem, Typography } from '@mui/material'
import { useState } from 'react'

interface KindMenuProps {
  /** What the button says. */
  label: string
  kinds: { kind: string; label: string; glyph: string; help: string }[]
  /** Why a kind can't be chosen yet, or null. */
  missing?(kind: string): string | null
  variant?: 'text' | 'outlined'
  disabled?: boolean
  onChoose(kind: string): void
}

/** A button that opens the kinds of something, each with what it does. */
export function KindMenu({ label, kinds, missing, variant = 'text', disabled, onChoose }: KindMenuProps) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null)
  return (
    <>
      <Button
        variant={variant}
        disabled={disabled ?? false}
        onClick={(event) => setAnchor(event.currentTarget)}
        sx={{ flexShrink: 0 }}
      >
        {label}
      </Button>
      <Menu open={anchor !== null} anchorEl={anchor} onClose={() => setAnchor(null)}>
        {kinds.map((kind) => {
          const reason = missing?.(kind.kind) ?? null
          return (
            <MenuItem
              key={kind.kind}
              disabled={reason !== null}
              onClick={() => {
                setAnchor(null)
                onChoose(kind.kind)
              }}
            >
              <Box component="span" aria-hidden sx={{ width: 24 }}>
                {kind.glyph}
              </Box>
              <Box>
                {kind.label}
                <Typography sx={{ fontSize: 12, color: 'text.secondary' }}>{reason ?? kind.help}</Typography>
              </Box>
            </MenuItem>
          )
        })}
      </Menu>
    </>
  )
}
