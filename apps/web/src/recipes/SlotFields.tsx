import { Box, Button, ListSubheader, MenuItem, Select, TextField, Typography } from '@mui/material'
import { MESH_ENDINGS } from '@tangle/formats'
import type { Slot } from '@tangle/recipes'
import { useRef, useState, type DragEvent } from 'react'
import { engine } from '../engine/engine.ts'
import { useEngineSlowly } from '../engine/useEngine.ts'
import { faultOfFile, inSequences, storeFile } from '../steps/meshFiles.ts'
import type { StoredMesh } from '../store/api.ts'
import { useShot } from '../store/index.ts'
import { takeable, type Choice } from './makeRecipe.ts'

interface SlotProps {
  slot: Slot
  choice: Choice | undefined
  samples: StoredMesh[]
  onChoose(choice: Choice): void
  onFault(fault: string | null): void
}

const keyOf = (choice: Choice): string =>
  choice.from === 'shot' ? `shot ${choice.id}` : choice.from === 'stored' ? `stored ${choice.asset}` : 'text'

/** Which mesh: one of the shot, a ready-made shape, lettering, or a file. */
export function SlotFields({ slot, choice, samples, onChoose, onFault }: SlotProps) {
  const input = useRef<HTMLInputElement>(null)
  const [reading, setReading] = useState(false)
  const take = async (files: File[]): Promise<void> => {
    setReading(true)
    try {
      const [file, ...others] = await inSequences(files)
      if (!file) return
      const { asset, name } = await storeFile(file)
      onChoose({ from: 'stored', asset, name })
      if (others.length > 0) onFault(`${name} was taken: there is room for one mesh here`)
    } catch (error) {
      onFault(faultOfFile(files[0]!, error))
    } finally {
      setReading(false)
    }
  }
  const drop = (event: DragEvent): void => {
    event.preventDefault()
    event.stopPropagation()
    void take([...event.dataTransfer.files])
  }
  return (
    <Box
      onDrop={drop}
      onDragOver={(event) => event.preventDefault()}
      sx={{ mb: 2 }}
      role="group"
      aria-label={slot.label}
    >
      <Typography sx={{ fontSize: 13.5, fontWeight: 600 }}>{slot.label}</Typography>
      <Typography sx={{ fontSize: 12.5, color: 'text.secondary', mb: 0.5 }}>{slot.help}</Typography>
      <Box sx={{ display: 'flex', gap: 1 }}>
        <MeshSelect label={slot.label} choice={choice} samples={samples} onChoose={onChoose} />
        <Button
          variant="outlined"
          disabled={reading}
          onClick={() => input.current?.click()}
          sx={{ flexShrink: 0 }}
        >
          {reading ? 'Reading…' : 'A file…'}
        </Button>
      </Box>
      {choice?.from === 'text' && (
        <TextField
          size="small"
          fullWidth
          value={choice.text}
          onChange={(event) => onChoose({ from: 'text', text: event.target.value })}
          slotProps={{
            htmlInput: { 'aria-label': `Lettering for ${slot.label.toLowerCase()}`, maxLength: 400 },
          }}
          sx={{ mt: 1 }}
        />
      )}
      {slot.closed && choice && <OpenWarning choice={choice} />}
      <input
        ref={input}
        type="file"
        hidden
        multiple
        accept={MESH_ENDINGS.map((ending) => `.${ending}`).join()}
        data-testid={`recipe-file-${slot.id}`}
        onChange={(event) => {
          void take([...(event.target.files ?? [])])
          event.target.value = ''
        }}
      />
    </Box>
  )
}

/** The meshes that may fill a slot. */
function MeshSelect({
  label,
  choice,
  samples,
  onChoose,
}: Omit<SlotProps, 'slot' | 'onFault'> & { label: string }) {
  const meshes = takeable(useShot())
  const change = (key: string): void => {
    const shape = samples.find(({ asset }) => key === `stored ${asset}`)
    if (shape) onChoose({ from: 'stored', asset: shape.asset, name: shape.name })
    else if (key === 'text') onChoose({ from: 'text', text: 'QUAY' })
    else if (key.startsWith('shot ')) onChoose({ from: 'shot', id: key.slice(5) })
  }
  const stored =
    choice?.from === 'stored' && !samples.some(({ asset }) => asset === choice.asset) ? choice : null
  return (
    <Select
      value={choice ? keyOf(choice) : ''}
      size="small"
      fullWidth
      inputProps={{ 'aria-label': label }}
      onChange={(event) => change(event.target.value)}
    >
      {meshes.length > 0 && <ListSubheader>In this shot</ListSubheader>}
      {meshes.map(({ id, name }) => (
        <MenuItem key={id} value={`shot ${id}`}>
          {name}
        </MenuItem>
      ))}
      {stored && <MenuItem value={keyOf(stored)}>{stored.name}</MenuItem>}
      <MenuItem value="text">Lettering</MenuItem>
      <ListSubheader>Ready-made shapes</ListSubheader>
      {samples.map(({ asset, name }) => (
        <MenuItem key={asset} value={`stored ${asset}`}>
          {name}
        </MenuItem>
      ))}
    </Select>
  )
}

/** Says when a mesh that should enclose a volume is open. */
function OpenWarning({ choice }: { choice: Choice }) {
  const { meshes } = useShot()
  const source = choice.from === 'shot' ? meshes.find(({ id }) => id === choice.id)?.source : choice.from === 'stored' ? { asset: choice.asset } : undefined // prettier-ignore
  const open = useEngineSlowly((e) => (source ? (e.meshOf(source)?.facts.openEdges ?? 0) : 0), 120, JSON.stringify(source)) // prettier-ignore
  if (open === 0) return null
  return (
    <Typography sx={{ fontSize: 12.5, color: 'warning.main', mt: 0.5 }}>
      {engine.meshOf(source!)?.facts.triangles === 0
        ? 'It has points only, and nothing inside: choose a mesh with faces.'
        : 'It is open: what counts as inside is a guess where it has holes.'}
    </Typography>
  )
}
