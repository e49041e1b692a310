/** Every command in one place: the finder lists them, the keyboard calls them. */
import { MASKS } from '@tangle/core'
import { ActionCreators } from 'redux-undo'
import { engine } from './engine/engine.ts'
import { underPointer } from './fields/KeyButton.tsx'
import { stage } from './stage/Stage.tsx'
import { store } from './store/index.ts'
import {
  finderToggled,
  handleChosen,
  loopToggled,
  selected,
  shownAs,
  soloed,
  type Session,
} from './store/session.ts'
import { set } from './store/shot.ts'
import { addMask, missingFor } from './steps/masks.ts'
import { copyInfluences, pasteInfluences } from './steps/populations.ts'
import { STEPS, type Step } from './steps/steps.ts'

export interface Command {
  id: string
  label: string
  /** As react-hotkeys-hook writes it. */
  keys?: string
  /** As a person reads it. */
  shortcut?: string
  run(): void
}

export interface Doings {
  goTo(step: Step): void
  makeTake(): void
  toggleTheme(): void
}

const seekBy = (frames: number) => () => engine.seek(engine.frame + frames)

export function commandsOf({ goTo, makeTake, toggleTheme }: Doings): Command[] {
  return [
    {
      id: 'play',
      label: 'Play or pause',
      keys: 'space',
      shortcut: 'Space',
      run: () => (engine.playing ? engine.pause() : engine.play()),
    },
    { id: 'play-back', label: 'Play backward', run: () => engine.play(-1) },
    { id: 'next', label: 'Next frame', keys: 'right', shortcut: '→', run: seekBy(1) },
    { id: 'previous', label: 'Previous frame', keys: 'left', shortcut: '←', run: seekBy(-1) },
    { id: 'next-ten', label: 'Ten frames on', keys: 'shift+right', shortcut: 'Shift →', run: seekBy(10) },
    {
      id: 'previous-ten',
      label: 'Ten frames back',
      keys: 'shift+left',
      shortcut: 'Shift ←',
      run: seekBy(-10),
    },
    {
      id: 'first',
      label: 'First frame',
      keys: 'home',
      shortcut: 'Home',
      run: () => engine.seek(engine.frames.first),
    },
    {
      id: 'last',
      label: 'Last frame',
      keys: 'end',
      shortcut: 'End',
      run: () => engine.seek(engine.frames.last),
    },
    { id: 'loop', label: 'Loop on or off', run: () => void store.dispatch(loopToggled()) },
    {
      id: 'undo',
      label: 'Undo',
      keys: 'mod+z',
      shortcut: 'Ctrl Z',
      run: () => void store.dispatch(ActionCreators.undo()),
    },
    {
      id: 'redo',
      label: 'Redo',
      keys: 'mod+shift+z, mod+y',
      shortcut: 'Ctrl Shift Z',
      run: () => void store.dispatch(ActionCreators.redo()),
    },
    {
      id: 'find',
      label: 'Find a command',
      keys: 'mod+k',
      shortcut: 'Ctrl K',
      run: () => void store.dispatch(finderToggled(true)),
    },
    {
      id: 'key',
      label: 'Key the value under the pointer',
      keys: 'k',
      shortcut: 'K',
      run: () => underPointer.toggleKey?.(),
    },
    {
      id: 'copy',
      label: 'Copy the selected influence',
      keys: 'mod+c',
      shortcut: 'Ctrl C',
      run: () => copyInfluences(false),
    },
    { id: 'copy-all', label: 'Copy all influences of the population', run: () => copyInfluences(true) },
    {
      id: 'paste',
      label: 'Paste influences',
      keys: 'mod+v',
      shortcut: 'Ctrl V',
      run: pasteInfluences,
    },
    {
      id: 'charts',
      label: 'Charts',
      keys: 'c',
      shortcut: 'C',
      run: () => toggleDrawer('charts'),
    },
    { id: 'table', label: 'Particle table', keys: 'p', shortcut: 'P', run: () => toggleDrawer('table') },
    { id: 'events', label: 'Events table', run: () => toggleDrawer('events') },
    {
      id: 'phase-colours',
      label: 'Colour particles by phase',
      run: () => void store.dispatch(shownAs({ phaseColours: !store.getState().session.phaseColours })),
    },
    {
      id: 'goal-lines',
      label: 'Show where they go',
      run: () => void store.dispatch(shownAs({ goalLines: !store.getState().session.goalLines })),
    },
    {
      id: 'goals',
      label: 'Goals of the population',
      run: () => {
        goTo('motion')
        store.dispatch(selected({ goal: '', cue: null }))
      },
    },
    ...MASKS.map((kind) => ({
      id: `mask-${kind.kind}`,
      label: `Add a mask: ${kind.label}`,
      run: () => {
        if (missingFor(kind.kind, store.getState().shot.present) === null) addMask(kind.kind)
        goTo('masks')
      },
    })),
    { id: 'mute', label: 'Mute the selected influence', keys: 'm', shortcut: 'M', run: mute },
    { id: 'solo', label: 'Solo the selected influence', run: solo },
    {
      id: 'frame',
      label: 'Frame the selection',
      keys: 'f',
      shortcut: 'F',
      run: () => stage.world?.frameAll(),
    },
    { id: 'front', label: 'Look from the front', run: () => stage.world?.lookAlong([0, 0, 1]) },
    { id: 'side', label: 'Look from the side', run: () => stage.world?.lookAlong([1, 0, 0]) },
    { id: 'top', label: 'Look from above', run: () => stage.world?.lookAlong([0, 1, 0.0001]) },
    { id: 'move', label: 'Handles: move', run: () => void store.dispatch(handleChosen('move')) },
    { id: 'turn', label: 'Handles: turn', run: () => void store.dispatch(handleChosen('turn')) },
    { id: 'scale', label: 'Handles: scale', run: () => void store.dispatch(handleChosen('scale')) },
    { id: 'take', label: 'Make a take', run: makeTake },
    { id: 'theme', label: 'Light or dark', run: toggleTheme },
    ...STEPS.map(({ id, label }, i) => ({
      id: `step-${id}`,
      label: `Go to ${label}`,
      keys: String(i + 1),
      shortcut: String(i + 1),
      run: () => goTo(id),
    })),
  ]
}

function toggleDrawer(drawer: Session['drawer']): void {
  const open = store.getState().session.drawer
  store.dispatch(shownAs({ drawer: open === drawer ? null : drawer }))
}

/** The selected influence and where it stands in the document. */
function selectedInfluence() {
  const { shot, session } = store.getState()
  for (const [p, population] of shot.present.populations.entries()) {
    const i = population.influences.findIndex((one) => one.id === session.selected.influence)
    if (i >= 0) return { influence: population.influences[i]!, path: ['populations', p, 'influences', i] }
  }
  return null
}

function mute(): void {
  const found = selectedInfluence()
  if (found)
    store.dispatch(set({ path: [...found.path, 'muted'], value: found.influence.muted ? undefined : true }))
}
function solo(): void {
  const found = selectedInfluence()
  if (found) store.dispatch(soloed(found.influence.id))
}
