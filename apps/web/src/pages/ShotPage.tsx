import { Alert, Box, Button, Typography } from '@mui/material'
import { useColorScheme } from '@mui/material/styles'
import type { Shot } from '@tangle/core'
import type { BirthSample } from '@tangle/runtime/browser'
import { useCallback, useEffect, useMemo, useRef, useState, type DragEvent } from 'react'
import { useHotkeys } from 'react-hotkeys-hook'
import { useLocation, useNavigate, useParams } from 'react-router'
import { commandsOf, type Command } from '../commands.ts'
import { engine } from '../engine/engine.ts'
import { Drawer } from '../drawer/Drawer.tsx'
import { Finder } from '../frame/Finder.tsx'
import { HelpCard } from '../help/HelpCard.tsx'
import { StepThread } from '../frame/StepThread.tsx'
import { TopBar } from '../frame/TopBar.tsx'
import { Transport } from '../frame/Transport.tsx'
import { MovieDialog } from '../movie/MovieDialog.tsx'
import { RecipeDialog } from '../recipes/RecipeDialog.tsx'
import { TryFirst } from '../recipes/TryFirst.tsx'
import { Score } from '../score/Score.tsx'
import { Comparison } from '../stage/Comparison.tsx'
import { CameraFrame } from '../stage/CameraFrame.tsx'
import { Checks, Readouts } from '../stage/Readouts.tsx'
import { Stage } from '../stage/Stage.tsx'
import { BirthsStep } from '../steps/BirthsStep.tsx'
import { LookStep } from '../steps/LookStep.tsx'
import { addDropped } from '../steps/meshFiles.ts'
import { MasksStep } from '../steps/MasksStep.tsx'
import { MeshesStep } from '../steps/MeshesStep.tsx'
import { MotionStep } from '../steps/MotionStep.tsx'
import { STEPS, type Step } from '../steps/steps.ts'
import { TakesStep } from '../steps/TakesStep.tsx'
import { useBirthSample } from '../steps/useBirthSample.ts'
import { ActionCreators } from 'redux-undo'
import { api, faultOf } from '../store/api.ts'
import { markSaved, watchShot } from '../store/autosave.ts'
import { restoreHistory } from '../store/history.ts'
import { makeTake } from '../store/makeTakes.ts'
import { useAgain } from '../store/again.ts'
import { store, useAct, useShot, useStore } from '../store/index.ts'
import { opened, recipeOpened, saveChanged } from '../store/session.ts'
import { loaded } from '../store/shot.ts'

/** One shot: loads it, then shows the step that the address names. */
export function ShotPage() {
  const { id = '', step = 'meshes' } = useParams()
  const act = useAct()
  const { data, error, refetch } = api.useShotQuery(id, { refetchOnMountOrArgChange: true })
  useAgain(error, refetch)
  // open once it has been loaded into the store since this page came up
  const [before] = useState(() => store.getState().session.openings)
  const open = useStore(({ session }) => session.openings > before && session.shotId === id)

  /** The shot of which another window's version was asked for: to take it is one more step, which can be undone. */
  const theirs = useRef<string | null>(null)
  useEffect(() => {
    if (!data || data.id !== id) return
    act(loaded(data.document))
    if (theirs.current !== id) {
      act(ActionCreators.clearHistory())
      restoreHistory(data.id, data.document)
    }
    theirs.current = null
    act(opened({ shotId: data.id, version: data.version }))
    markSaved()
  }, [data, id, act])
  useEffect(() => {
    if (!open) return
    const stop = watchShot()
    return () => {
      stop()
      engine.close()
    }
  }, [open])

  if (error) {
    return (
      <Box sx={{ p: 6 }}>
        <Typography variant="h6">This shot can’t be opened</Typography>
        <Typography sx={{ my: 2 }}>{faultOf(error)}</Typography>
        <Button variant="outlined" href="/">
          All shots
        </Button>
      </Box>
    )
  }
  if (!open) return <Box sx={{ p: 6, color: 'text.secondary' }}>Opening…</Box>
  return (
    <Workspace
      step={STEPS.some((one) => one.id === step) ? (step as Step) : 'meshes'}
      reload={() => {
        theirs.current = id
        void refetch()
      }}
    />
  )
}

function Workspace({ step, reload }: { step: Step; reload(): void }) {
  const navigate = useNavigate()
  const shotId = useStore((state) => state.session.shotId)!
  const { mode, setMode } = useColorScheme()
  const sample = useBirthSample(step === 'births')
  usePreview()
  useAskedRecipe()

  const goTo = useCallback(
    (next: Step): void => void navigate(`/shots/${shotId}/${next}`),
    [navigate, shotId],
  )
  const commands = useMemo(
    () =>
      commandsOf({
        goTo,
        makeTake: () => void makeTake(shotId, () => void navigate(`/shots/${shotId}/takes`)),
        toggleTheme: () => setMode(mode === 'light' ? 'dark' : 'light'),
      }),
    [goTo, navigate, shotId, mode, setMode],
  )
  useShortcuts(commands)
  const take = (): void => commands.find((command) => command.id === 'take')!.run()
  const drop = (event: DragEvent): void => {
    event.preventDefault()
    void addDropped(event.dataTransfer)
    void navigate(`/shots/${shotId}/meshes`)
  }
  return (
    <Box
      onDragOver={(event) => event.preventDefault()}
      onDrop={drop}
      sx={{
        height: '100%',
        display: 'grid',
        gridTemplateRows: step === 'motion' ? 'auto minmax(0, 1fr) min(284px, 42vh)' : 'auto minmax(0, 1fr)',
        gridTemplateColumns: '100px minmax(0, 1fr) min(320px, 42vw)',
      }}
    >
      <Box sx={{ gridColumn: '1 / -1' }}>
        <TopBar onTake={take} />
        <Conflict reload={reload} />
      </Box>
      <Box
        sx={{
          gridRow: step === 'motion' ? 'span 2' : 'auto',
          display: 'grid',
          bgcolor: 'background.default',
        }}
      >
        <StepThread step={step} />
      </Box>
      <Middle step={step} sample={sample} goTo={goTo} />
      <Box sx={{ borderLeft: 1, borderColor: 'divider', bgcolor: 'background.paper', minHeight: 0 }}>
        <StepPanel step={step} sample={sample} onTake={take} />
      </Box>
      {step === 'motion' && (
        <Box sx={{ ...BELOW, borderTop: 1, borderColor: 'divider', bgcolor: 'background.paper' }}>
          <Score />
        </Box>
      )}
      <Finder commands={commands} />
      <HelpCard />
      <MovieDialog />
      <RecipeDialog
        onMade={() => {
          void navigate(`/shots/${shotId}/motion`)
          engine.play()
        }}
      />
    </Box>
  )
}

const BELOW = { gridColumn: '2 / -1', minHeight: 0, minWidth: 0 }

/** The stage with what it says, and the frames below it. */
function Middle({ step, sample, goTo }: { step: Step; sample: BirthSample | null; goTo(step: Step): void }) {
  return (
    <Box
      component="main"
      sx={{ display: 'grid', gridTemplateRows: 'minmax(0, 1fr) auto auto', minWidth: 0, minHeight: 0 }}
    >
      <Box sx={{ position: 'relative', minHeight: 0, containerType: 'size' }}>
        <Stage step={step} births={sample} />
        <CameraFrame />
        {step === 'takes' && <Comparison />}
        <Readouts step={step} />
        <Checks onLead={goTo} />
      </Box>
      <Drawer />
      <Transport />
    </Box>
  )
}

function StepPanel({ step, sample, onTake }: { step: Step; sample: BirthSample | null; onTake(): void }) {
  switch (step) {
    case 'meshes':
      return <MeshesStep />
    case 'masks':
      return <MasksStep />
    case 'births':
      return <BirthsStep sample={sample} />
    case 'motion':
      return (
        <Box sx={{ height: '100%', display: 'flex', flexDirection: 'column' }}>
          <TryFirst />
          <Box sx={{ flex: 1, minHeight: 0 }}>
            <MotionStep />
          </Box>
        </Box>
      )
    case 'look':
      return <LookStep />
    case 'takes':
      return <TakesStep onTake={onTake} />
  }
}

/** Opens the recipes where the page was left for that. */
function useAskedRecipe(): void {
  const act = useAct()
  const { state } = useLocation()
  const asked = (state as { recipe?: string } | null)?.recipe
  useEffect(() => {
    if (asked === undefined) return
    act(recipeOpened(asked))
    // going back or reloading does not ask again
    history.replaceState({ ...(history.state as object), usr: null }, '')
  }, [asked, act])
}

/** Keeps the preview at the document, with only the soloed influence if there is one. */
function usePreview(): void {
  const shot = useShot()
  const solo = useStore((state) => state.session.solo)
  const loop = useStore((state) => state.session.loop)
  useEffect(() => engine.setShot(solo === null ? shot : withSolo(shot, solo)), [shot, solo])
  useEffect(() => {
    engine.loop = loop
  }, [loop])
}

function withSolo(shot: Shot, solo: string): Shot {
  const populations = shot.populations.map((population) =>
    population.influences.some((one) => one.id === solo)
      ? {
          ...population,
          influences: population.influences.map((one) => ({ ...one, muted: one.id !== solo })),
        }
      : population,
  )
  return { ...shot, populations }
}

/** Binds every command that has keys. Keys belong to a field while one types in it. */
function useShortcuts(commands: Command[]): void {
  // a button or link that was clicked gives the keys back, so that Space plays after it
  useEffect(() => {
    const release = (event: MouseEvent): void => {
      if (event.detail > 0) (event.target as HTMLElement).closest<HTMLElement>('button, a')?.blur()
    }
    document.addEventListener('click', release)
    return () => document.removeEventListener('click', release)
  }, [])
  const keys = commands.flatMap((command) => (command.keys ? [command.keys] : []))
  useHotkeys(
    keys.join(','),
    (event, hotkey) => {
      const command = commands.find((one) => one.keys?.split(/,\s*/).some((k) => k === hotkey.hotkey))
      if (!command) return
      const focused = document.activeElement
      // Space presses the button that the keyboard has gone to
      if (command.id === 'play' && focused instanceof HTMLButtonElement) return
      // text that is marked on the page is copied as text
      if (command.id === 'copy' && getSelection()?.toString()) return
      event.preventDefault()
      command.run()
    },
    { enableOnFormTags: true, ignoreEventWhen: ({ key, target }) => isTaken(key, target as HTMLElement) },
    [commands],
  )
}

/** Whether a key belongs to what has the focus: text while one types, arrows on a slider, menus. */
function isTaken(key: string, target: HTMLElement): boolean {
  if (target.closest('[role=menu], [role=listbox], [role=dialog], textarea')) return true
  const slider = target.matches('input[type=range], [role=slider]')
  return slider ? /^(Arrow|Page|Home|End)/.test(key) : target.matches('input')
}

/** Says that another window has changed the shot, and offers both ways out. */
function Conflict({ reload }: { reload(): void }) {
  const act = useAct()
  const navigate = useNavigate()
  const { state, message } = useStore((s) => s.session.save)
  if (state !== 'conflict') return null
  const keepAsCopy = async (): Promise<void> => {
    const document = store.getState().shot.present
    const name = `${document.name}, mine`.slice(0, 200)
    const created = await store.dispatch(api.endpoints.createShot.initiate({ name, document }))
    if (created.data) void navigate(`/shots/${created.data.id}/meshes`)
  }
  const takeTheirs = (): void => {
    act(saveChanged({ state: 'saved', message: null }))
    reload()
  }
  return (
    <Alert
      severity="warning"
      sx={{ py: 0, borderRadius: 0 }}
      action={
        <>
          <Button color="inherit" onClick={takeTheirs}>
            Load the other’s
          </Button>
          <Button color="inherit" onClick={() => void keepAsCopy()}>
            Keep mine as a copy
          </Button>
        </>
      }
    >
      {message}
    </Alert>
  )
}
