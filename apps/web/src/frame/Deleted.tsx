import { Button, Menu, MenuItem } from '@mui/material'
import { useState } from 'react'

interface DeletedProps {
  /** What they are, of one and of several. */
  words: [one: string, several: string]
  items: { id: string; label: string }[]
  onRestore(id: string): void
}

/** What was deleted and is still there: a click brings it back. Nothing where there is none. */
export function Deleted({ words, items, onRestore }: DeletedProps) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null)
  if (items.length === 0) return null
  return (
    <>
      <Button
        color="inherit"
        aria-haspopup="menu"
        onClick={(event) => setAnchor(event.currentTarget)}
        sx={{ color: 'text.secondary' }}
      >
        {items.length} deleted {words[items.length === 1 ? 0 : 1]}…
      </Button>
      <Menu open={anchor !== null} anchorEl={anchor} onClose={() => setAnchor(null)}>
        {items.map(({ id, label }) => (
          <MenuItem
            key={id}
            onClick={() => {
              setAnchor(null)
              onRestore(id)
            }}
          >
            Bring {label} back
          </MenuItem>
        ))}
      </Menu>
    </>
  )
}
