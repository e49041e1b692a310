import { Autocomplete, Box, createFilterOptions, Dialog, TextField, Typography } from '@mui/material'
import { useState } from 'react'
import type { Command } from '../commands.ts'
import { engine } from '../engine/engine.ts'
import { useAct, useShot, useStore } from '../store/index.ts'
import { finderToggled, selected } from '../store/session.ts'
import { HEARD, MONO } from '../theme.ts'

/** Most results that are shown. */
const MOST = 12
const byLabel = createFilterOptions<Command>({ stringify: ({ label }) => label })
const byWords = createFilterOptions<Command>({ stringify: ({ label, words = '' }) => `${label} ${words}` })
type State = Parameters<typeof byLabel>[1]

/** What every typed word is found in, wherever it stands: first where the label has them all, then where the help has. */
function found(all: Command[], state: State): Command[] {
  const parts = state.inputValue.split(/\s+/).filter(Boolean)
  const having = (filter: typeof byLabel): Command[] =>
    parts.reduce((some, inputValue) => filter(some, { ...state, inputValue }), all)
  return [...new Set([...having(byLabel), ...having(byWords)])].slice(0, MOST)
}

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
      aria-labelledby="finder"
      slotProps={{ paper: { sx: { position: 'absolute', top: 60, m: 0 } } }}
      disableRestoreFocus
    >
      <Box component="h2" id="finder" sx={HEARD}>
        Finder
      </Box>
      {/* what is typed here is no shortcut */}
      <Box onKeyDown={(event) => event.stopPropagation()}>
        {open && <Results commands={commands} close={close} />}
      </Box>
    </Dialog>
  )
}

function Results({ commands, close }: { commands: Command[]; close(): void }) {
  const [text, setText] = useState('')
  const run = (command: Command | null): void => {
    if (!command) return
    close()
    command.run()
  }
  return (
    <Autocomplete
      open
      disablePortal
      autoHighlight
      options={useEverything(commands, text)}
      filterOptions={found}
      getOptionLabel={(command) => command.label}
      getOptionKey={(command) => command.id}
      inputValue={text}
      onInputChange={(_, next, reason) => reason !== 'reset' && setText(next)}
      onChange={(_, chosen) => run(chosen)}
      onClose={(_, reason) => reason === 'escape' && close()}
      noOptionsText="Nothing is called that. Try “wind”, “take”, or a frame number."
      renderInput={(input) => (
        <TextField
          {...input}
          autoFocus
          placeholder="Find a command, mesh, influence, frame…"
          slotProps={{
            ...input.slotProps,
            htmlInput: { ...input.slotProps.htmlInput, 'aria-label': 'Find' },
          }}
          sx={{ p: 1 }}
        />
      )}
      renderOption={({ key, ...item }, command) => (
        <Box
          component="li"
          key={key}
          {...item}
          sx={{ display: 'flex', justifyContent: 'space-between !important', minHeight: '28px !important' }}
        >
          <Typography variant="body2">{command.label}</Typography>
          <Typography sx={{ fontFamily: MONO, fontSize: 12, color: 'text.secondary' }}>
            {command.shortcut}
          </Typography>
        </Box>
      )}
      slotProps={{
        popper: {
          sx: { position: 'static !important', transform: 'none !important', width: '100% !important' },
        },
        listbox: { sx: { maxHeight: 380 } },
        paper: { sx: { borderRadius: 0 } },
      }}
    />
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
        id: `influence-${population.id}-${influence.id}`,
        label: `Influence: ${influence.name ?? influence.kind}`,
        run: () => {
          act(selected({ population: population.id, influence: influence.id }))
          goTo('motion')
        },
      })),
    ),
  ]
}
