import {
  Alert,
  Box,
  Button,
  ButtonBase,
  Dialog,
  DialogActions,
  DialogContent,
  DialogTitle,
  Typography,
} from '@mui/material'
import { RECIPES, type Recipe } from '@tangle/recipes'
import { useState } from 'react'
import { api, type StoredMesh } from '../store/api.ts'
import { useAct, useShot, useStore } from '../store/index.ts'
import { recipeOpened } from '../store/session.ts'
import { makeRecipe, takeable, type Choice } from './makeRecipe.ts'
import { SlotFields } from './SlotFields.tsx'

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
                display: 'flex',
                flexDirection: 'column',
                alignItems: 'stretch',
                justifyContent: 'flex-start',
                textAlign: 'left',
                border: 1,
                borderColor: 'divider',
                borderRadius: 1,
                overflow: 'hidden',
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
