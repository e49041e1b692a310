import type { Influence } from '@tangle/core'
import { OUR_SPACE } from '@tangle/formats'
import type { Helped } from '../help/kinds.ts'
import { createSlice, type PayloadAction } from '@reduxjs/toolkit'

/** What belongs to this window and is neither saved nor undone. */
/** By the time that pictures take, or by hand: without shadows, with them, or with all there is. */
export type StageQuality = 'auto' | 'plain' | 'shadows' | 'full'

export interface Session {
  /** The shot that is open. */
  shotId: string | null
  /** How many shots have been opened. */
  openings: number
  /** The version that our edits are based on. */
  version: number
  save: {
    state: 'saved' | 'edited' | 'saving' | 'failed' | 'conflict'
    at: number | null
    message: string | null
  }
  selected: {
    mesh: string | null
    population: string | null
    birth: string | null
    influence: string | null
    take: string | null
    mask: string | null
    /** Instead of the mask, in the step of both. */
    combing: string | null
    cue: string | null
    goal: string | null
    /** In which new influences act; null: in all. */
    phase: string | null
    /** A particle, by its population and id. */
    particle: { population: string; id: number } | null
  }
  /** The only influence that acts in the preview. */
  solo: string | null
  /** Particles show their phase instead of their look, in the Motion step. */
  phaseColours: boolean
  /** Goals and the ways to them are drawn on the stage, in the Motion step. */
  goalLines: boolean
  /** The radii of the selected influence are drawn on the stage, in the Motion step. */
  rings: boolean
  /** Meshes are seen through. */
  ghosted: boolean
  /** The camera of the shot that one looks through. */
  camera: string | null
  /** The take that what is shown is compared with, and where the line between them is: a share of the width; null: they are side by side. */
  compared: string | null
  split: number | null
  /** Particles show how far they are from where they are on the other side. */
  apart: boolean
  /** How well the stage is drawn: by what pictures cost, or by hand. */
  quality: StageQuality
  /** What the drawer under the stage shows. */
  drawer: 'charts' | 'table' | 'events' | null
  /** Takes play and are written in reverse. */
  backward: boolean
  /** The format in which takes are written, the unit of length and the axis that is up in it. */
  format: string
  unit: string
  up: string
  /** Which meshes are written, how often a frame is, and how long voxels are ("": by the radii of particles). */
  scenery: string
  samples: string
  voxel: string
  /** Frames that the score shows; null is the whole shot. */
  view: { from: number; to: number } | null
  /** How the Masks step shows masks and paints. */
  masks: {
    /** The input of the selected mask that is switched off to compare. */
    off: string | null
    plane: 'none' | 'x' | 'y' | 'z'
    /** From −1 to 1 of the reach of the meshes. */
    planeAt: number
    brush: string
    radius: number
    strength: number
    painting: boolean
  }
  /** The brush that combs. */
  combing: {
    brush: string
    radius: number
    strength: number
    /** Degrees off the surface, of the brush that lifts. */
    lift: number
    mirror: 'none' | 'x' | 'y' | 'z'
    on: boolean
  }
  /** Influences that were copied, of this shot or another. */
  clipboard: Influence[] | null
  loop: boolean
  /** The dialog that makes a movie is open. */
  movie: boolean
  finder: boolean
  /** The recipe that is being chosen: its id, or "" for the list of all. */
  recipe: string | null
  /** What help is shown on. */
  help: Helped | null
  handle: 'move' | 'turn' | 'scale'
  notice: {
    text: string
    tone: 'info' | 'error'
    undo?: { kind: 'shot' | 'take'; id: string } | { kind: 'takes'; ids: string[] } | { kind: 'edit' }
  } | null
}

const initialState: Session = {
  shotId: null,
  openings: 0,
  version: 0,
  save: { state: 'saved', at: null, message: null },
  selected: {
    mesh: null,
    population: null,
    birth: null,
    influence: null,
    take: null,
    mask: null,
    combing: null,
    cue: null,
    goal: null,
    phase: null,
    particle: null,
  },
  phaseColours: false,
  goalLines: false,
  rings: true,
  ghosted: false,
  camera: null,
  compared: null,
  split: 0.5,
  apart: false,
  quality: 'auto',
  drawer: null,
  backward: false,
  format: 'usdc',
  unit: OUR_SPACE.unit,
  up: OUR_SPACE.up,
  scenery: 'changing',
  samples: '1',
  voxel: '',
  view: null,
  masks: { off: null, plane: 'none', planeAt: 0, brush: 'add', radius: 0.2, strength: 0.8, painting: false },
  combing: { brush: 'comb', radius: 0.2, strength: 0.8, lift: 45, mirror: 'none', on: true },
  clipboard: null,
  solo: null,
  loop: true,
  finder: false,
  movie: false,
  recipe: null,
  help: null,
  handle: 'move',
  notice: null,
}

const slice = createSlice({
  name: 'session',
  initialState,
  reducers: {
    opened: (session, { payload }: PayloadAction<{ shotId: string; version: number }>) => ({
      ...initialState,
      loop: session.loop,
      quality: session.quality,
      clipboard: session.clipboard,
      notice: session.notice,
      openings: session.openings + 1,
      ...payload,
    }),
    saveChanged(session, { payload }: PayloadAction<Partial<Session['save']> & { version?: number }>) {
      const { version, ...save } = payload
      Object.assign(session.save, save)
      if (version !== undefined) session.version = version
    },
    selected(session, { payload }: PayloadAction<Partial<Session['selected']>>) {
      // an influence takes the place that goals and a cue had beside the stage
      const { goal, cue } = payload.influence === undefined ? session.selected : { goal: null, cue: null }
      Object.assign(session.selected, { goal, cue, ...payload })
    },
    soloed(session, { payload }: PayloadAction<string>) {
      session.solo = session.solo === payload ? null : payload
    },
    loopToggled(session) {
      session.loop = !session.loop
    },
    /** Changes how this window shows things. */
    shownAs(
      session,
      {
        payload,
      }: PayloadAction<
        Partial<
          Pick<
            Session,
            | 'phaseColours'
            | 'goalLines'
            | 'rings'
            | 'ghosted'
            | 'quality'
            | 'camera'
            | 'compared'
            | 'split'
            | 'apart'
            | 'drawer'
            | 'backward'
            | 'format'
            | 'unit'
            | 'up'
            | 'scenery'
            | 'samples'
            | 'voxel'
            | 'view'
          >
        >
      >,
    ) {
      Object.assign(session, payload)
    },
    masksShownAs(session, { payload }: PayloadAction<Partial<Session['masks']>>) {
      Object.assign(session.masks, payload)
    },
    combedWith(session, { payload }: PayloadAction<Partial<Session['combing']>>) {
      Object.assign(session.combing, payload)
    },
    copied(session, { payload }: PayloadAction<Influence[]>) {
      session.clipboard = payload
    },
    finderToggled(session, { payload }: PayloadAction<boolean>) {
      session.finder = payload
    },
    movieOpened(session, { payload }: PayloadAction<boolean>) {
      session.movie = payload
    },
    recipeOpened(session, { payload }: PayloadAction<string | null>) {
      session.recipe = payload
    },
    helpAsked(session, { payload }: PayloadAction<Helped | null>) {
      session.help = payload
    },
    handleChosen(session, { payload }: PayloadAction<Session['handle']>) {
      session.handle = payload
    },
    noticed(session, { payload }: PayloadAction<Session['notice']>) {
      session.notice = payload
    },
  },
})

export const {
  opened,
  saveChanged,
  selected,
  soloed,
  loopToggled,
  shownAs,
  masksShownAs,
  combedWith,
  copied,
  finderToggled,
  movieOpened,
  recipeOpened,
  helpAsked,
  handleChosen,
  noticed,
} = slice.actions
export const sessionReducer = slice.reducer
