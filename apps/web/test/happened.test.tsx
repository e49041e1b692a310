/** @jest-environment jsdom */
/** The list of what happened: edits in words, when they were, what was saved and the takes that were made; a click goes back. */
import './browser.ts'
import { act, screen } from '@testing-library/react'
import { History } from '../src/frame/History.tsx'
import { markSaved, saveNow, watchShot } from '../src/store/autosave.ts'
import { keepHistory, restoreHistory } from '../src/store/history.ts'
import { makeSweep, makeTake } from '../src/store/makeTakes.ts'
import { store } from '../src/store/index.ts'
import { set } from '../src/store/shot.ts'
import { clockTime } from '../src/words.ts'
import { button, show, shotOf } from './page.tsx'

let version = 1
beforeEach(() => {
  sessionStorage.clear()
  version = 1
  globalThis.fetch = ((input: Request) => {
    const { url } = input
    const reply = (body: unknown) => Promise.resolve(new Response(JSON.stringify(body), { status: 200, headers: { 'content-type': 'application/json' } })) // prettier-ignore
    if (url.endsWith('/takes')) return reply({ id: 'take4', number: 4 })
    if (url.endsWith('/sweeps')) return reply({ sweep: 's', takes: [{ number: 6 }, { number: 5 }] })
    return reply({ version: ++version })
  }) as typeof fetch
})

const list = (): (string | null)[][] =>
  screen.getAllByRole('menuitem').map((item) => [...item.querySelectorAll('.MuiTypography-root')].map((line) => line.textContent)) // prettier-ignore
const seed = (value: number): void => act(() => void store.dispatch(set({ path: ['seed'], value })))

test('edits, saves and takes stand beside one another, also after a reload, and are gone back to', async () => {
  const page = show(shotOf({}), <History />)
  markSaved()
  const stop = watchShot()
  try {
    seed(11)
    await act(() => makeTake('here', () => undefined))
    seed(12)
    await act(() => makeSweep([]))
    seed(13)
    const now = clockTime(Date.now())
    const expected = [
      ['seed', now],
      ['seed', `${now} · saved · takes 5, 6`],
      ['seed', `${now} · saved · take 4`],
      ['As it was opened', now],
    ]
    await page.keys.click(button('What happened'))
    expect(list()).toEqual(expected)
    await page.keys.click(screen.getByText(/take 4/))
    expect(page.document().seed).toBe(11)
    await act(() => saveNow())

    keepHistory()
    const { document } = page
    const stored = structuredClone(document())
    const again = show(stored, <History />)
    act(() => restoreHistory('here', store.getState().shot.present))
    await again.keys.click(button('What happened'))
    expect(list()).toEqual(expected)
  } finally {
    stop()
  }
})

test.each([5, 'abc', [null], {}])('moments that are broken (%j) leave the steps', (moments) => {
  show(shotOf({}), <History />)
  seed(21)
  keepHistory()
  const kept = JSON.parse(sessionStorage.getItem('tangle.undo.here')!) as object
  sessionStorage.setItem('tangle.undo.here', JSON.stringify({ ...kept, moments }))
  const { present } = store.getState().shot
  act(() => restoreHistory('here', present))
  expect(store.getState().shot.past).toHaveLength(1)
})
