import {
  Alert,
  Box,
  Button,
  ButtonBase,
  Dialog,
  DialogActions,
  DialogContent,
  DialogTitle,
  ListSubheader,
  MenuItem,
  Select,
  TextField,
  Typography,
} from '@mui/material'
import { MESH_ENDINGS } from '@tangle/formats'
import { RECIPES, type Recipe, type Slot } from '@tangle/recipes'
import { useRef, useState, type DragEvent } from 'react'
import { engine } from '../engine/engine.ts'
import { useEngineSlowly } from '../engine/useEngine.ts'
import { faultOfFile, inSequences, storeFile } from '../steps/meshFiles.ts'
import { api, type StoredMesh } from '../store/api.ts'
import { useAct, useShot, useStore } from '../store/index.ts'
import { recipeOpened } from '../store/session.ts'
import { makeRecipe, takeable, type Choice } from './makeRecipe.ts'

/** Chooses a recipe, then the meshes that it is made for. `onMade` is called once it is in the shot. */
export function RecipeDialog({ onMade }: { onMade(): void }) {
  const act = useAct()
  const chosen = useStore((state) => state.session.recipe)
  const recipe = RECIPES.find(({ id }) => id === chosen)
  const close = (): void => void act(recipeOpened(null))
  return (
    <Dialog
      open={chosen !== null}
      onClose={close}
      fullWidth
      maxWidth={recipe ? 'sm' : 'lg'}
      aria-labelledby="recipe-title"
    >
      {recipe ? (
        <Slots
          key={recipe.id}
          recipe={recipe}
          back={() => act(recipeOpened(''))}
          done={() => {
            close()
            onMade()
          }}
        />
      ) : (
        <List close={close} />
      )}
    </Dialog>
  )
}

function List({ close }: { close(): void }) {
  const act = useAct()
  return (
    <>
      <DialogTitle id="recipe-title">Start from a recipe</DialogTitle>
      <DialogContent>
        <Typography sx={{ fontSize: 13, color: 'text.secondary', mb: 1.5 }}>
          A ready shot for your own mesh, sized to it. Everything in it is an ordinary row that you can
          change.
        </Typography>
        <Box sx={{ display: 'grid', gridTemplateColumns: 'repeat(auto-fill, minmax(210px, 1fr))', gap: 1.5 }}>
          {RECIPES.map(({ id, label, help }) => (
            <ButtonBase
              key={id}
              onClick={() => act(recipeOpened(id))}
              sx={{
                display: 'block',
                textAlign: 'left',
                border: 1,
                borderColor: 'divider',
                borderRadius: 1,
                overflow: 'hidden',
                verticalAlign: 'top',
                '&:hover, &:focus-visible': { borderColor: 'primary.main' },
              }}
            >
              <Box
                component="img"
                src={`/recipes/${id}.png`}
                alt=""
                sx={{
                  width: '100%',
                  aspectRatio: '16 / 9',
                  objectFit: 'cover',
                  display: 'block',
                  bgcolor: 'background.default',
                }}
              />
              <Box sx={{ p: 1 }}>
                <Typography sx={{ fontSize: 13.5, fontWeight: 600 }}>{label}</Typography>
                <Typography sx={{ fontSize: 12, color: 'text.secondary' }}>{help}</Typography>
              </Box>
            </ButtonBase>
          ))}
        </Box>
      </DialogContent>
      <DialogActions>
        <Button color="inherit" onClick={close}>
          Cancel
        </Button>
      </DialogActions>
    </>
  )
}

/** The choice for each slot to begin with: a mesh of the shot that no other slot has, else the shape that suits it. */
function useChoices(recipe: Recipe, samples: StoredMesh[]) {
  const shot = useShot()
  const picked = useStore((state) => state.session.selected.mesh)
  const [own, setOwn] = useState<Record<string, Choice>>({})
  const free = takeable(shot).toSorted((a, b) => Number(b.id === picked) - Number(a.id === picked))
  const choices: Record<string, Choice> = {}
  for (const { id, sample } of recipe.slots) {
    const mesh = free.find((one) => !Object.values(choices).some((c) => c.from === 'shot' && c.id === one.id))
    const shape = samples.find(({ name }) => name === sample) ?? samples[0]
    const first: Choice | undefined = mesh
      ? { from: 'shot', id: mesh.id }
      : typeof sample === 'string'
        ? shape && { from: 'stored', asset: shape.asset, name: shape.name }
        : { from: 'text', text: sample.text }
    const choice = own[id] ?? first
    if (choice) choices[id] = choice
  }
  return { choices, choose: (slot: string, choice: Choice): void => setOwn({ ...own, [slot]: choice }) }
}

function Slots({ recipe, back, done }: { recipe: Recipe; back(): void; done(): void }) {
  const { data } = api.useMeshesQuery()
  const samples = data?.filter((one) => one.sample) ?? []
  const { choices, choose } = useChoices(recipe, samples)
  const [fault, setFault] = useState<string | null>(null)
  const [busy, setBusy] = useState(false)
  const make = async (): Promise<void> => {
    setBusy(true)
    const wrong = await makeRecipe(recipe, choices)
    setBusy(false)
    if (wrong === null) done()
    else setFault(wrong)
  }
  return (
    <>
      <DialogTitle id="recipe-title">{recipe.label}</DialogTitle>
      <DialogContent>
        <Typography sx={{ fontSize: 13, color: 'text.secondary', mb: 1.5 }}>{recipe.help}</Typography>
        {recipe.slots.map((slot) => (
          <SlotFields
            key={slot.id}
            slot={slot}
            choice={choices[slot.id]}
            samples={samples}
            onChoose={(choice) => {
              setFault(null)
              choose(slot.id, choice)
            }}
            onFault={setFault}
          />
        ))}
        {fault && (
          <Alert severity="error" sx={{ mt: 1 }}>
            {fault}
          </Alert>
        )}
      </DialogContent>
      <DialogActions>
        <Button color="inherit" onClick={back} sx={{ mr: 'auto' }}>
          Other recipes
        </Button>
        <Button variant="contained" disabled={busy} onClick={() => void make()}>
          {busy ? 'Making it…' : 'Make it'}
        </Button>
      </DialogActions>
    </>
  )
}

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
function SlotFields({ slot, choice, samples, onChoose, onFault }: SlotProps) {
  const meshes = takeable(useShot())
  const input = useRef<HTMLInputElement>(null)
  const [reading, setReading] = useState(false)
  const take = async (files: File[]): Promise<void> => {
    setReading(true)
    for (const file of (await inSequences(files)).slice(0, 1)) {
      try {
        const { asset, name } = await storeFile(file)
        onChoose({ from: 'stored', asset, name })
      } catch (error) {
        onFault(faultOfFile(file, error))
      }
    }
    setReading(false)
  }
  const drop = (event: DragEvent): void => {
    event.preventDefault()
    event.stopPropagation()
    void take([...event.dataTransfer.files])
  }
  const change = (key: string): void => {
    const shape = samples.find(({ asset }) => key === `stored ${asset}`)
    if (shape) onChoose({ from: 'stored', asset: shape.asset, name: shape.name })
    else if (key === 'text') onChoose({ from: 'text', text: 'QUAY' })
    else if (key.startsWith('shot ')) onChoose({ from: 'shot', id: key.slice(5) })
  }
  const stored =
    choice?.from === 'stored' && !samples.some(({ asset }) => asset === choice.asset) ? choice : null
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
        <Select
          value={choice ? keyOf(choice) : ''}
          size="small"
          fullWidth
          inputProps={{ 'aria-label': slot.label }}
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
