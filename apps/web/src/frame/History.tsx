import HistoryOutlined from '@mui/icons-material/HistoryOutlined'
import { Button, IconButton, ListItemText, Menu, MenuItem, Tooltip } from '@mui/material'
import type { Shot } from '@tangle/core'
import { useState } from 'react'
import { ActionCreators } from 'redux-undo'
import { changeInWords } from '../store/changes.ts'
import { useAct, useStore } from '../store/index.ts'
import { momentOf } from '../store/moments.ts'
import { clockTime } from '../words.ts'

/** Most steps that the list shows. */
const MOST = 30

/** Undo and redo, which say what they undo, and the list of what happened, to go back in. */
export function History() {
  const { past, present, future } = useStore((state) => state.shot)
  const act = useAct()
  return (
    <>
      <Step
        label="Undo"
        change={past.length > 0 ? () => changeInWords(past.at(-1)!, present) : null}
        onClick={() => act(ActionCreators.undo())}
      />
      <Step
        label="Redo"
        change={future.length > 0 ? () => changeInWords(present, future[0]!) : null}
        onClick={() => act(ActionCreators.redo())}
      />
      <Happened past={past} present={present} future={future} />
    </>
  )
}

interface StepProps {
  label: string
  /** What it would undo or redo, in words; null where there is nothing. */
  change: (() => string) | null
  onClick(): void
}

function Step({ label, change, onClick }: StepProps) {
  const [words, setWords] = useState('')
  return (
    <Tooltip title={words}>
      {/* a button that is off tells nothing of the pointer */}
      <span onPointerEnter={() => setWords(change ? `${label}: ${change()}` : '')}>
        <Button
          variant="outlined"
          color="inherit"
          disabled={!change}
          onClick={onClick}
          sx={{ borderColor: 'divider' }}
        >
          {label}
        </Button>
      </span>
    </Tooltip>
  )
}

interface Steps {
  past: Shot[]
  present: Shot
  future: Shot[]
}

/** What happened to the shot since it was opened, the newest on top; a click goes back to after it. */
function Happened(steps: Steps) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null)
  const close = (): void => setAnchor(null)
  return (
    <>
      <Tooltip title="What happened">
        <IconButton
          size="small"
          aria-label="What happened"
          aria-haspopup="menu"
          onClick={(event) => setAnchor(event.currentTarget)}
        >
          <HistoryOutlined fontSize="small" />
        </IconButton>
      </Tooltip>
      <Menu
        open={anchor !== null}
        anchorEl={anchor}
        onClose={close}
        slotProps={{ paper: { sx: { maxHeight: 420 } } }}
      >
        {anchor && <StepList {...steps} close={close} />}
      </Menu>
    </>
  )
}

function StepList({ past, present, future, close }: Steps & { close(): void }) {
  const act = useAct()
  const all = [...past, present, ...future]
  const now = past.length
  const from = Math.max(0, Math.min(now - MOST / 2, all.length - MOST))
  const places = all.map((_, i) => i).slice(from, from + MOST).toReversed() // prettier-ignore
  const go = (place: number): void => {
    close()
    if (place !== now) act(ActionCreators.jump(place - now))
  }
  return places.map((place) => (
    <MenuItem
      key={place}
      selected={place === now}
      aria-current={place === now ? 'step' : undefined}
      onClick={() => go(place)}
      sx={{ opacity: place > now ? 0.6 : 1, maxWidth: 420 }}
    >
      <ListItemText
        primary={place === 0 ? 'As it was opened' : changeInWords(all[place - 1]!, all[place]!)}
        secondary={momentInWords(all[place]!)}
      />
    </MenuItem>
  ))
}

function momentInWords(document: Shot): string {
  const { made, saved, takes = [] } = momentOf(document)
  const takesInWords = takes.length > 0 && `${takes.length > 1 ? 'takes' : 'take'} ${takes.join(', ')}`
  return [made && clockTime(made), saved && 'saved', takesInWords].filter(Boolean).join(' · ')
}
