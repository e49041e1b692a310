import type { Shot } from '@tangle/core'
import { emptyShot, renumbered } from '@tangle/core'
import { createAction, createSlice, current, type PayloadAction } from '@reduxjs/toolkit'
import undoable from 'redux-undo'
import { withNames } from './names.ts'
import {
  withoutAttribute,
  withoutCombing,
  withoutGoal,
  withoutMask,
  withoutMesh,
  withoutPhase,
  withoutPopulation,
  withPhaseRenamed,
} from './pruning.ts'

/** Where in the document: keys and list places from its root. */
export type Path = (string | number)[]

interface Edit {
  path: Path
  /** Edits of one gesture (a drag, a scrub) are one step of undo. */
  gesture?: string
}

type Tree = Record<string | number, unknown>

/** The record or list that holds the last part of a path. */
function holder(shot: Shot, path: Path): Tree {
  return path.slice(0, -1).reduce<Tree>((at, part) => at[part] as Tree, shot as unknown as Tree)
}

/** The document. Every edit goes through one of these, so undo, autosave and preview see all. */
const slice = createSlice({
  name: 'shot',
  initialState: emptyShot('New shot'),
  reducers: {
    /** Another document; whoever loads it clears the history too. */
    loaded: (_, { payload }: PayloadAction<Shot>) => payload,
    set(shot, { payload: { path, value } }: PayloadAction<Edit & { value: unknown }>) {
      const at = holder(shot as Shot, path)
      if (value === undefined) delete at[path.at(-1)!]
      else at[path.at(-1)!] = value
    },
    /** Puts a value into the list at `path`, at its end unless told where. */
    inserted(shot, { payload: { path, value, at } }: PayloadAction<Edit & { value: unknown; at?: number }>) {
      const list = holder(shot as Shot, path)[path.at(-1)!] as unknown[]
      list.splice(at ?? list.length, 0, value)
    },
    /** Takes an entry out of its list; the path ends in its place. */
    removed(shot, { payload: { path } }: PayloadAction<Edit>) {
      ;(holder(shot as Shot, path) as unknown as unknown[]).splice(path.at(-1) as number, 1)
    },
    /** Moves an entry of the list at `path` to another place in it. */
    moved(shot, { payload: { path, from, to } }: PayloadAction<Edit & { from: number; to: number }>) {
      const list = holder(shot as Shot, path)[path.at(-1)!] as unknown[]
      list.splice(to, 0, ...list.splice(from, 1))
    },
    /** Takes an attribute of a population's own out, with what names it. */
    attributeRemoved: (shot, { payload }: PayloadAction<{ index: number; attribute: string }>) =>
      withoutAttribute(current(shot) as Shot, payload.index, payload.attribute),
    /** Takes a mesh out, with what needs it. */
    meshRemoved: (shot, { payload }: PayloadAction<string>) => withoutMesh(current(shot) as Shot, payload),
    /** Takes a mask out, with what needs it. */
    maskRemoved: (shot, { payload }: PayloadAction<string>) => withoutMask(current(shot) as Shot, payload),
    /** Takes a combing out, with what follows it. */
    combingRemoved: (shot, { payload }: PayloadAction<string>) =>
      withoutCombing(current(shot) as Shot, payload),
    /** Takes a population out, with the goals on it and what leads to them. */
    populationRemoved: (shot, { payload }: PayloadAction<string>) =>
      withoutPopulation(current(shot) as Shot, payload),
    /** Takes a goal out, with what leads to it. */
    goalRemoved: (shot, { payload: { index, goal } }: PayloadAction<{ index: number; goal: string }>) =>
      withoutGoal(current(shot) as Shot, index, goal),
    /** Several edits as one step of undo. */
    mended(shot, { payload }: PayloadAction<{ path: Path; value: unknown }[]>) {
      for (const { path, value } of payload) holder(shot as Shot, path)[path.at(-1)!] = value
    },
    /** Moves the whole shot by so many frames, with all that happens in it. */
    shifted: (shot, { payload: by }: PayloadAction<number>) => renumbered(current(shot) as Shot, by),
    /** Gives a phase another name, wherever it stands. */
    phaseRenamed: (
      shot,
      { payload: { index, from, to } }: PayloadAction<{ index: number; from: string; to: string }>,
    ) => withPhaseRenamed(current(shot) as Shot, index, from, to),
    /** Takes a phase out, with its weights and cues; births into it go into the first that is left. */
    phaseRemoved: (shot, { payload: { index, phase } }: PayloadAction<{ index: number; phase: string }>) =>
      withoutPhase(current(shot) as Shot, index, phase),
  },
})

export const {
  loaded,
  set,
  inserted,
  removed,
  moved,
  meshRemoved,
  maskRemoved,
  combingRemoved,
  populationRemoved,
  goalRemoved,
  attributeRemoved,
  mended,
  shifted,
  phaseRenamed,
  phaseRemoved,
} = slice.actions

/** Names follow every edit; another document has those that it came with. */
const named: typeof slice.reducer = (before, action) => {
  const after = slice.reducer(before, action)
  return before === undefined || loaded.match(action) ? after : withNames(before, after)
}

const undoableReducer = undoable(named, {
  limit: 300,
  syncFilter: true,
  filter: (_, now, history) => now !== history.present,
  groupBy: (action) => (action as { payload?: { gesture?: string } }).payload?.gesture ?? null,
})

/** Steps of undo and redo that were kept over a reload. */
export const historyRestored = createAction<{ past: Shot[]; future: Shot[] }>('shot/historyRestored')

export const shotReducer: typeof undoableReducer = (state, action) => {
  if (!state || !historyRestored.match(action)) return undoableReducer(state, action)
  const { past, future } = action.payload
  return { ...state, past, future, index: past.length, group: null }
}
