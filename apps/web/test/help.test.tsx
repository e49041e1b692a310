/** @jest-environment jsdom */
/** Help is where the hand is, and is found by any of its words. */
import { act, screen, waitFor, within } from '@testing-library/react'
import { CUES, INFLUENCES, MASKS } from '@tangle/core'
import { commandsOf } from '../src/commands.ts'
import { Finder } from '../src/frame/Finder.tsx'
import { HelpCard } from '../src/help/HelpCard.tsx'
import { MasksStep } from '../src/steps/MasksStep.tsx'
import { MotionStep } from '../src/steps/MotionStep.tsx'
import { store } from '../src/store/index.ts'
import { finderToggled, helpAsked, selected } from '../src/store/session.ts'
import { button, fill, show, shotOf } from './page.tsx'

/** What a worker was asked, and how it was ended. */
const asked: { shot: { populations: { influences: { kind: string }[] }[] } }[] = []
let ended = 0
beforeAll(() => {
  globalThis.matchMedia = (() => ({ matches: false, addListener: () => 0, removeListener: () => 0 })) as never
  globalThis.Worker = class {
    postMessage = (request: never): number => asked.push(request)
    terminate = (): number => ended++
  } as never
  // a canvas that nothing is drawn on
  HTMLCanvasElement.prototype.getContext = (() => ({ setTransform: () => 0, clearRect: () => 0, fillRect: () => 0 })) as never // prettier-ignore
})
const shot = () =>
  shotOf({
    influences: [{ id: 'w', kind: 'wind', name: 'Sea breeze', weights: { Loose: 1 } }],
    cues: [{ id: 'c', from: 'Held', to: 'Loose', when: { kind: 'after', frames: 12 } }],
  })
const card = () => within(screen.getByRole('dialog'))

test('of an influence: what it does, moving, what goes wrong, and what each value is', async () => {
  const page = show(shot(), [<MotionStep key="step" />, <HelpCard key="help" />])
  await page.keys.click(button('Help on Wind'))
  const { help, pitfall, parameters } = INFLUENCES.find(({ kind }) => kind === 'wind')!
  expect(card().getByText(help)).toBeTruthy()
  expect(card().getByText(pitfall)).toBeTruthy()
  for (const { label } of Object.values(parameters)) expect(card().getByText(label)).toBeTruthy()
  expect(card().getByText(/Usually 3 m\/s/)).toBeTruthy()
  // the solver computes its picture, and ends with the card
  expect(card().getByRole('img')).toBeTruthy()
  expect(asked.at(-1)!.shot.populations[0]!.influences.at(-1)!.kind).toBe('wind')
  const before = ended
  // the panel can be used meanwhile
  await fill(page, 'Air speed', '7')
  expect(page.document().populations[0]!.influences[0]!.speed).toBe(7)
  await page.keys.keyboard('{Escape}')
  await waitFor(() => expect(screen.queryByRole('dialog')).toBeNull())
  expect(ended).toBe(before + 1)
})

test('of a cue and of a mask', async () => {
  const page = show(shot(), [<MotionStep key="step" />, <HelpCard key="help" />])
  act(() => void store.dispatch(selected({ cue: 'c' })))
  await page.keys.click(button('Help on After a time'))
  expect(card().getByText(CUES.find(({ kind }) => kind === 'after')!.pitfall)).toBeTruthy()
  await page.keys.click(button('Close the help'))
  expect(screen.queryByRole('dialog')).toBeNull()
  const masks = show(shot(), [<MasksStep key="step" />, <HelpCard key="help" />])
  await masks.keys.click(button('Help on Slab'))
  expect(card().getByText(MASKS.find(({ kind }) => kind === 'slab')!.pitfall)).toBeTruthy()
})

test('what needs a solver that is too much for a small picture has words only', () => {
  show(shot(), <HelpCard />)
  act(() => void store.dispatch(helpAsked({ sort: 'influence', kind: 'bonds' })))
  expect(card().queryByRole('img')).toBeNull()
  expect(card().getByText(/All parts at once/)).toBeTruthy()
})

test('is found by words of its text; what is called so comes first', async () => {
  const doings = { goTo: () => undefined, makeTake: () => undefined, toggleTheme: () => undefined }
  const page = show(shot(), [<Finder key="finder" commands={commandsOf(doings)} />, <HelpCard key="help" />])
  act(() => void store.dispatch(finderToggled(true)))
  const field = await screen.findByRole('combobox', { name: 'Find' })
  await page.keys.type(field, 'noise')
  const options = screen.getAllByRole('option').map((one) => one.textContent)
  expect(options[0]).toMatch(/Noise/)
  expect(options).toContain('Help: Turbulence')
  await page.keys.clear(field)
  await page.keys.type(field, 'gusts')
  await page.keys.keyboard('{Enter}')
  expect(store.getState().session.help).toEqual({ sort: 'influence', kind: 'wind' })
  expect(await screen.findByRole('dialog', { name: /Wind/ })).toBeTruthy()
})

test('of a value: less and more of it beside each other; F1 in its field leads there', async () => {
  const page = show(shot(), [<MotionStep key="step" />, <HelpCard key="help" />])
  act(() => void store.dispatch(selected({ influence: 'w' })))
  const field = await screen.findByRole('textbox', { name: 'Air speed' })
  await page.keys.click(field)
  await page.keys.keyboard('{F1}')
  const opened = card().getByRole('button', { name: 'Air speed' })
  expect(opened.getAttribute('aria-expanded')).toBe('true')
  const names = card()
    .getAllByRole('img')
    .map((one) => one.getAttribute('aria-label'))
  expect(names).toEqual(['What it does, moving', 'With 0.33 m/s, moving', 'With 3 m/s, moving'])
  const speeds = asked.slice(-2).map((one) => (one.shot.populations[0]!.influences.at(-1) as unknown as { speed: number }).speed) // prettier-ignore
  expect(speeds).toEqual([0.33, 3])
  // one is looked at at a time, and closed again
  await page.keys.click(card().getByRole('button', { name: 'Strength' }))
  expect(opened.getAttribute('aria-expanded')).toBe('false')
  await page.keys.click(card().getByRole('button', { name: 'Strength' }))
  expect(card().getAllByRole('img')).toHaveLength(1)
  // what has no picture of its own has words alone
  expect(card().queryByRole('button', { name: 'Direction' })).toBeNull()
})
