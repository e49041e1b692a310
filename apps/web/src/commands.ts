/** Every command in one place: the finder lists them, the keyboard calls them. */
import { MASKS } from '@tangle/core'
import { RECIPES } from '@tangle/recipes'
import { ActionCreators } from 'redux-undo'
import { engine } from './engine/engine.ts'
import { underPointer } from './fields/KeyButton.tsx'
import { ALL_HELP } from './help/kinds.ts'
import { stage } from './stage/Stage.tsx'
import { store } from './store/index.ts'
import {
  finderToggled,
  handleChosen,
  helpAsked,
  loopToggled,
  movieOpened,
  recipeOpened,
  selected,
  shownAs,
  soloed,
  type Session,
} from './store/session.ts'
import { set } from './store/shot.ts'
import { addCombing } from './steps/combings.ts'
import { addMask, missingFor } from './steps/masks.ts'
import { copyInfluences, pasteInfluences } from './steps/populations.ts'
import { STEPS, type Step } from './steps/steps.ts'

export interface Command {
  id: string
  label: string
  /** Other words by which it is found. */
  words?: string
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

const dispatch = (action: Parameters<typeof store.dispatch>[0]) => () => void store.dispatch(action)
const command = (id: string, label: string, run: () => void, keys?: string, shortcut?: string): Command => ({
  id,
  label,
  run,
  ...(keys !== undefined && shortcut !== undefined && { keys, shortcut }),
})

const playing: Command[] = [
  command('play', 'Play or pause', () => (engine.playing ? engine.pause() : engine.play()), 'space', 'Space'),
  command('play-back', 'Play backward', () => engine.play(-1)),
  command('next', 'Next frame', seekBy(1), 'right', '→'),
  command('previous', 'Previous frame', seekBy(-1), 'left', '←'),
  command('next-ten', 'Ten frames on', seekBy(10), 'shift+right', 'Shift →'),
  command('previous-ten', 'Ten frames back', seekBy(-10), 'shift+left', 'Shift ←'),
  command('first', 'First frame', () => engine.seek(engine.frames.first), 'home', 'Home'),
  command('last', 'Last frame', () => engine.seek(engine.frames.last), 'end', 'End'),
  command('loop', 'Loop on or off', dispatch(loopToggled())),
]

const editing: Command[] = [
  command('undo', 'Undo', dispatch(ActionCreators.undo()), 'mod+z', 'Ctrl Z'),
  command('redo', 'Redo', dispatch(ActionCreators.redo()), 'mod+shift+z, mod+y', 'Ctrl Shift Z'),
  command('find', 'Find a command', dispatch(finderToggled(true)), 'mod+k', 'Ctrl K'),
  command('key', 'Key the value under the pointer', () => underPointer.toggleKey?.(), 'k', 'K'),
  command('copy', 'Copy the selected influence', () => copyInfluences(false), 'mod+c', 'Ctrl C'),
  command('copy-all', 'Copy all influences of the population', () => copyInfluences(true)),
  command('paste', 'Paste influences', pasteInfluences, 'mod+v', 'Ctrl V'),
  command('help', 'Help on the selected influence', helpOnSelected, 'h', 'H'),
  command('mute', 'Mute the selected influence', mute, 'm', 'M'),
  command('solo', 'Solo the selected influence', solo),
]

const QUALITIES = ['auto', 'plain', 'shadows', 'full'] as const
const showing: Command[] = [
  command('charts', 'Charts', () => toggleDrawer('charts'), 'c', 'C'),
  command('table', 'Particle table', () => toggleDrawer('table'), 'p', 'P'),
  command('events', 'Events table', () => toggleDrawer('events')),
  command('phase-colours', 'Colour particles by phase', () => toggleShown('phaseColours')),
  command('goal-lines', 'Show where they go', () => toggleShown('goalLines')),
  command('rings', 'Rings of the selected influence on or off', () => toggleShown('rings')),
  command('ghost', 'See through the meshes', () => toggleShown('ghosted'), 'g', 'G'),
  ...QUALITIES.map((quality) =>
    command(`draw-${quality}`, `Draw the stage: ${quality}`, () => void store.dispatch(shownAs({ quality }))),
  ),
  command('frame', 'Frame the selection', () => stage.world?.frameAll(), 'f', 'F'),
  command('view-before', 'Back to the view before', () => stage.world?.viewBefore(), 'b', 'B'),
  command('front', 'Look from the front', () => stage.world?.lookAlong([0, 0, 1])),
  command('side', 'Look from the side', () => stage.world?.lookAlong([1, 0, 0])),
  command('top', 'Look from above', () => stage.world?.lookAlong([0, 1, 0.0001])),
  command('move', 'Handles: move', dispatch(handleChosen('move'))),
  command('turn', 'Handles: turn', dispatch(handleChosen('turn'))),
  command('scale', 'Handles: scale', dispatch(handleChosen('scale'))),
]

export function commandsOf({ goTo, makeTake, toggleTheme }: Doings): Command[] {
  function showGoals(): void {
    goTo('motion')
    store.dispatch(selected({ goal: '', cue: null }))
  }
  function addMaskOf(kind: string): void {
    if (missingFor(kind, store.getState().shot.present) === null) addMask(kind)
    goTo('masks')
  }
  return [
    ...playing,
    ...editing,
    ...showing,
    command('goals', 'Goals of the population', showGoals),
    ...MASKS.map(({ kind, label }) => command(`mask-${kind}`, `Add a mask: ${label}`, () => addMaskOf(kind))),
    command('recipes', 'Start from a recipe', dispatch(recipeOpened(''))),
    ...RECIPES.map(({ id, label }) =>
      command(`recipe-${id}`, `Recipe: ${label}`, dispatch(recipeOpened(id))),
    ),
    command('combing', 'Add a combing', () => (addCombing(), goTo('masks'))),
    command('take', 'Make a take', makeTake),
    command('movie', 'Make a movie', dispatch(movieOpened(true))),
    command('theme', 'Light or dark', toggleTheme),
    ...STEPS.map(({ id, label }, i) =>
      command(`step-${id}`, `Go to ${label}`, () => goTo(id), String(i + 1), String(i + 1)),
    ),
    ...ALL_HELP.map(({ sort, kind, label, words }) => ({
      ...command(`help-${sort}-${kind}`, `Help: ${label}`, dispatch(helpAsked({ sort, kind }))),
      words,
    })),
  ]
}

function toggleShown(name: 'phaseColours' | 'goalLines' | 'rings' | 'ghosted'): void {
  store.dispatch(shownAs({ [name]: !store.getState().session[name] }))
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

function helpOnSelected(): void {
  const found = selectedInfluence()
  if (found) store.dispatch(helpAsked({ sort: 'influence', kind: found.influence.kind }))
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
