import { Box, Dialog, InputBase, List, ListItemButton, Typography } from '@mui/material'
import { useState } from 'react'
import type { Command } from '../commands.ts'
import { engine } from '../engine/engine.ts'
import { useAct, useShot, useStore } from '../store/index.ts'
import { finderToggled, selected } from '../store/session.ts'
import { MONO } from '../theme.ts'

/** Finds commands by any part of their words, meshes and influences by name, and frames by number. */
export function Finder({ commands }: { commands: Command[] }) {
  const open = useStore((state) => state.session.finder)
  const act = useAct()
  const close = (): void => void act(finderToggled(false))
  return (
    <Dialog
      open={open}
      onClose={close}
      fullWidth
      maxWidth="sm"
      aria-label="Finder"
      slotProps={{ paper: { sx: { position: 'absolute', top: 60, m: 0 } } }}
      disableRestoreFocus
    >
      {open && <Results commands={commands} close={close} />}
    </Dialog>
  )
}

function Results({ commands, close }: { commands: Command[]; close(): void }) {
  const [text, setText] = useState('')
  const [at, setAt] = useState(0)
  const all = useEverything(commands, text)
  const words = text.toLowerCase().split(/\s+/).filter(Boolean)
  const found = all
    .filter(({ label }) => words.every((word) => label.toLowerCase().includes(word)))
    .slice(0, 12)
  const run = (command: Command | undefined): void => {
    if (!command) return
    close()
    command.run()
  }
  return (
    <Box>
      <InputBase
        autoFocus
        fullWidth
        placeholder="Find a command, mesh, influence, frame…"
        value={text}
        inputProps={{ 'aria-label': 'Find' }}
        onChange={(event) => {
          setText(event.target.value)
          setAt(0)
        }}
        onKeyDown={(event) => {
          event.stopPropagation()
          if (event.key === 'ArrowDown') setAt(Math.min(at + 1, found.length - 1))
          if (event.key === 'ArrowUp') setAt(Math.max(at - 1, 0))
          if (event.key === 'Enter') run(found[at])
          if (event.key === 'Escape') close()
        }}
        sx={{ px: 2, py: 1, borderBottom: 1, borderColor: 'divider', fontSize: 15 }}
      />
      <List dense sx={{ py: 0.5, minHeight: 120 }}>
        {found.map((command, i) => (
          <ListItemButton
            key={command.id}
            selected={i === at}
            onClick={() => run(command)}
            sx={{ justifyContent: 'space-between', minHeight: 28, py: 0.25 }}
          >
            <Typography variant="body2">{command.label}</Typography>
            <Typography sx={{ fontFamily: MONO, fontSize: 12, color: 'text.secondary' }}>
              {command.shortcut}
            </Typography>
          </ListItemButton>
        ))}
        {found.length === 0 && (
          <Typography variant="body2" sx={{ px: 2, py: 1, color: 'text.secondary' }}>
            Nothing is called that. Try “wind”, “take”, or a frame number.
          </Typography>
        )}
      </List>
    </Box>
  )
}

/** Commands, and what the shot holds, as things to go to. */
function useEverything(commands: Command[], text: string): Command[] {
  const shot = useShot()
  const act = useAct()
  const goTo = (step: string): void => commands.find((command) => command.id === `step-${step}`)?.run()
  const frame = /^\d+$/.test(text.trim()) ? Number(text) : null
  const jump = { id: 'frame-number', label: `Go to frame ${frame}`, run: () => engine.seek(frame ?? 0) }
  return [
    ...(frame === null ? [] : [jump]),
    ...commands,
    ...shot.meshes.map((mesh) => ({
      id: `mesh-${mesh.id}`,
      label: `Mesh: ${mesh.name}`,
      run: () => {
        act(selected({ mesh: mesh.id }))
        goTo('meshes')
      },
    })),
    ...shot.populations.flatMap((population) =>
      population.influences.map((influence) => ({
        id: `influence-${influence.id}`,
        label: `Influence: ${influence.name ?? influence.kind}`,
        run: () => {
          act(selected({ population: population.id, influence: influence.id }))
          goTo('motion')
        },
      })),
    ),
  ]
}
