/** Parts of the interface on a page without a browser, over the real store. */
import './browser.ts'
import { ThemeProvider } from '@mui/material/styles'
import { act, cleanup, render, screen, within } from '@testing-library/react'
import user from '@testing-library/user-event'
import { readShot, type Shot } from '@tangle/core'
import { Profiler, type ReactNode } from 'react'
import { Provider } from 'react-redux'
import { ActionCreators } from 'redux-undo'
import { store } from '../src/store/index.ts'
import { opened } from '../src/store/session.ts'
import { loaded } from '../src/store/shot.ts'
import { theme } from '../src/theme.ts'

const asset = (n: number): string => `sha256:${String(n).repeat(64)}`
/** A shot as files have it, over two meshes and a mask. */
export function shotOf(population: object, more: object = {}): Shot {
  const read = readShot({
    format: 'tangle-shot',
    version: 1,
    name: 'Page',
    frames: { first: 1, last: 100, rate: 24 },
    meshes: [
      { id: 'rock', name: 'Rock', source: { asset: asset(1) } },
      { id: 'boat', name: 'Boat', source: { asset: asset(2) } },
    ],
    masks: [{ id: 'left', name: 'Left', kind: 'slab' }],
    populations: [{ id: 'dust', name: 'Dust', phases: ['Held', 'Loose'], ...population }],
    ...more,
  })
  if (read.problems) throw new Error(JSON.stringify(read.problems))
  return read.shot
}

/** Opens a shot in the store and shows a part of the interface; `renders` counts how often anything in it is drawn. */
export function show(shot: Shot, part: ReactNode) {
  cleanup()
  store.dispatch(loaded(shot))
  store.dispatch(ActionCreators.clearHistory())
  store.dispatch(opened({ shotId: 'here', version: 1 }))
  const counted = { renders: 0 }
  const view = render(
    <Provider store={store}>
      <ThemeProvider theme={theme} defaultMode="dark">
        <Profiler id="part" onRender={() => counted.renders++}>
          {part}
        </Profiler>
      </ThemeProvider>
    </Provider>,
  )
  return { ...view, counted, keys: user.setup(), document: (): Shot => store.getState().shot.present }
}
export const undo = (): void => act(() => void store.dispatch(ActionCreators.undo()))

/** A page with what is open in it. */
export type Page = ReturnType<typeof show>
export const button = (name: string | RegExp) => screen.getByRole('button', { name })
export const field = (name: string) => screen.getByRole('textbox', { name })
/** The document as a file would have it: nothing is wrong with it. */
export const expectSound = (document: Shot): void =>
  expect(readShot(JSON.parse(JSON.stringify(document))).problems ?? []).toEqual([])
/** Types into a field, and takes it. */
export async function fill({ keys }: Page, name: string, text: string): Promise<void> {
  await keys.clear(field(name))
  await keys.type(field(name), `${text}{Enter}`)
}
/** Chooses from one of the two forms that choices have: a few as buttons, many as a list. */
export async function choose({ keys }: Page, name: string, option: string): Promise<void> {
  const group = screen.queryByRole('radiogroup', { name }) ?? screen.queryByRole('group', { name })
  if (group) return keys.click(within(group).getByText(option))
  await keys.click(screen.getByRole('combobox', { name }))
  await keys.click(await screen.findByRole('option', { name: option }))
}
