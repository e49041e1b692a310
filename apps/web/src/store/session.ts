import { createSlice, type PayloadAction } from '@reduxjs/toolkit'

/** What belongs to this window and is neither saved nor undone. */
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
  }
  /** The only influence that acts in the preview. */
  solo: string | null
  loop: boolean
  finder: boolean
  handle: 'move' | 'turn' | 'scale'
  notice: {
    text: string
    tone: 'info' | 'error'
    undo?: { kind: 'shot' | 'take'; id: string } | { kind: 'edit' }
  } | null
}

const initialState: Session = {
  shotId: null,
  openings: 0,
  version: 0,
  save: { state: 'saved', at: null, message: null },
  selected: { mesh: null, population: null, birth: null, influence: null, take: null },
  solo: null,
  loop: true,
  finder: false,
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
      Object.assign(session.selected, payload)
    },
    soloed(session, { payload }: PayloadAction<string>) {
      session.solo = session.solo === payload ? null : payload
    },
    loopToggled(session) {
      session.loop = !session.loop
    },
    finderToggled(session, { payload }: PayloadAction<boolean>) {
      session.finder = payload
    },
    handleChosen(session, { payload }: PayloadAction<Session['handle']>) {
      session.handle = payload
    },
    noticed(session, { payload }: PayloadAction<Session['notice']>) {
      session.notice = payload
    },
  },
})

export const { opened, saveChanged, selected, soloed, loopToggled, finderToggled, handleChosen, noticed } =
  slice.actions
export const sessionReducer = slice.reducer
