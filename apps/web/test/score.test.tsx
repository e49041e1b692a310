/** @jest-environment jsdom */
import { act, fireEvent, screen, waitFor, within } from '@testing-library/react'
import { show, shotOf, undo } from './page.tsx'
import { Finder } from '../src/frame/Finder.tsx'
import { engine } from '../src/engine/engine.ts'
import { Score } from '../src/score/Score.tsx'
import { missingForInfluence } from '../src/steps/populations.ts'
import { store } from '../src/store/index.ts'
import { finderToggled } from '../src/store/session.ts'

const keyed = { keys: [[1, 0], [40, 2], [90, 1]] } // prettier-ignore
const shot = (more: object = {}) =>
  shotOf({
    influences: [
      { id: 'g', kind: 'gravity', weights: { Held: 0.5, Loose: 1 } },
      { id: 'w', kind: 'wind', name: 'Sea breeze', weights: { Loose: 1 }, strength: keyed },
      { id: 'd', kind: 'drag', weights: { Loose: 0.25 } },
    ],
    cues: [{ id: 'c', from: 'Held', to: 'Loose', when: { kind: 'after', frames: 12 } }],
    ...more,
  })
const row = (name: string) => screen.getByRole('group', { name })
const order = (): (string | null)[] =>
  [...document.querySelectorAll('[data-row]')].map((one) => one.getAttribute('aria-label'))

describe('phases', () => {
  test('new influences act in all, or in the one that is chosen', async () => {
    const { keys, document: now } = show(shot(), <Score />)
    const add = async (name: RegExp): Promise<object> => {
      await keys.click(screen.getByRole('button', { name: '+ Influence' }))
      await keys.click(await screen.findByRole('option', { name }))
      return now().populations[0]!.influences.at(-1)!.weights
    }
    expect(await add(/^\W*Turbulence/)).toEqual({ Held: 1, Loose: 1 })
    await keys.click(screen.getByRole('button', { name: 'Loose' }))
    expect(await add(/^\W*Vortex/)).toEqual({ Loose: 1 })
    await keys.click(screen.getByRole('button', { name: '+ Influence' }))
    expect(screen.getByText('Acts in Loose')).toBeTruthy()
    await keys.keyboard('{Escape}')
    await keys.click(screen.getByRole('button', { name: 'Loose' }))
    expect(await add(/^\W*Wander/)).toEqual({ Held: 1, Loose: 1 })
  })

  test('an influence that is added shows its details, whatever was shown', async () => {
    const { keys } = show(shot(), <Score />)
    await keys.click(screen.getByRole('button', { name: /after 12 frames/ }))
    expect(store.getState().session.selected.cue).toBe('c')
    await keys.click(screen.getByRole('button', { name: '+ Influence' }))
    await keys.click(await screen.findByRole('option', { name: /^\W*Turbulence/ }))
    expect(store.getState().session.selected).toMatchObject({
      cue: null,
      goal: null,
      influence: 'turbulence',
    })
  })

  test('the names of many scroll the weights, and one more can be added still', () => {
    const phases = Array.from({ length: 12 }, (_, k) => `Phase ${k}`)
    const influences = [{ id: 'g', kind: 'gravity', weights: { 'Phase 3': 1 } }]
    show(shotOf({ phases, influences }), <Score />)
    const names = document.querySelector<HTMLElement>('[data-phase-names]')!
    names.scrollLeft = 144
    fireEvent.scroll(names)
    const score = document.querySelector<HTMLElement>('[data-score]')!
    expect(score.style.getPropertyValue('--phases-scrolled')).toBe('-144px')
    expect(screen.getByRole('button', { name: '+ Phase' })).toBeTruthy()
  })

  test('a weight that was typed, or given up, gives the focus back to its cell', async () => {
    const { keys } = show(shot(), <Score />)
    const cell = () => screen.getByRole('spinbutton', { name: 'Weight of Drag in Loose' })
    cell().focus()
    await keys.keyboard('{Enter}{Escape}')
    expect(document.activeElement).toBe(cell())
    await keys.keyboard('0.7{Enter}')
    expect(document.activeElement).toBe(cell())
    expect(cell().getAttribute('aria-valuenow')).toBe('0.7')
  })

  test('the name of a row says in words what it does', () => {
    show(shot(), <Score />)
    const name = within(row('Sea breeze')).getByRole('button', { name: 'Sea breeze' })
    fireEvent.pointerEnter(name)
    fireEvent.pointerOver(name)
    expect(name.title).toBe('Loose: wind, between 0 and 2 1/s from frame 1 to 90')
  })
})

describe('the score', () => {
  test('shows a row for each influence with its weight in every phase, and the cue line above', () => {
    show(shot(), <Score />)
    expect(order()).toEqual(['Gravity', 'Sea breeze', 'Drag'])
    const weights = screen.getAllByRole('spinbutton').map((one) => [one.getAttribute('aria-label'), one.getAttribute('aria-valuenow')]) // prettier-ignore
    expect(weights).toContainEqual(['Weight of Gravity in Held', '0.5'])
    expect(weights).toHaveLength(6)
    expect(within(screen.getByRole('group', { name: 'Cue line' })).getByText(/after 12 frames/)).toBeTruthy()
  })

  test('says so where nothing acts yet', () => {
    show(shotOf({}, { populations: [] }), <Score />)
    expect(screen.getByText(/Nothing acts yet/)).toBeTruthy()
  })

  test('rows move with Alt and the arrows, never beyond the ends, and undo moves them back', async () => {
    const { keys } = show(shot(), <Score />)
    const name = within(row('Sea breeze')).getByRole('button', { name: 'Sea breeze' })
    name.focus()
    await keys.keyboard('{Alt>}{ArrowUp}{/Alt}')
    expect(order()).toEqual(['Sea breeze', 'Gravity', 'Drag'])
    await keys.keyboard('{Alt>}{ArrowUp}{/Alt}')
    expect(order()).toEqual(['Sea breeze', 'Gravity', 'Drag'])
    undo()
    expect(order()).toEqual(['Gravity', 'Sea breeze', 'Drag'])
  })

  test('each row says how it is carried by the keys', () => {
    show(shot(), <Score />)
    const handle = screen.getByLabelText('Carry Gravity')
    expect(handle.getAttribute('tabindex')).toBe('0')
    expect(handle.getAttribute('aria-roledescription')).toBe('sortable')
  })

  test('muted, alone, and removed', async () => {
    const { keys, document: now } = show(shot(), <Score />)
    await keys.click(screen.getByRole('button', { name: 'Mute Drag' }))
    expect(now().populations[0]!.influences[2]!.muted).toBe(true)
    await keys.click(screen.getByRole('button', { name: /^(Solo|Only) Drag$/ }))
    expect(store.getState().session.solo).toBe('d')
    await keys.click(screen.getByRole('button', { name: 'Remove Drag' }))
    expect(order()).toEqual(['Gravity', 'Sea breeze'])
    undo()
    undo()
    expect(now().populations[0]!.influences[2]!.muted).toBeFalsy()
  })

  test('a weight is typed or goes by the arrows, between 0 and 1', async () => {
    const { keys, document: now } = show(shot(), <Score />)
    const cell = screen.getByRole('spinbutton', { name: 'Weight of Drag in Loose' })
    cell.focus()
    await keys.keyboard('{ArrowUp}')
    expect(now().populations[0]!.influences[2]!.weights.Loose).toBeGreaterThan(0.25)
    await keys.keyboard('{Enter}')
    const field = screen.getByRole('textbox', { name: 'Weight of Drag in Loose' })
    await keys.clear(field)
    await keys.type(field, '0.75{Enter}')
    expect(now().populations[0]!.influences[2]!.weights.Loose).toBe(0.75)
  })
})

describe('the curve of the selected influence', () => {
  const open = async () => {
    const shown = show(shot(), <Score />)
    await shown.keys.click(within(row('Sea breeze')).getByRole('button', { name: 'Sea breeze' }))
    const strength = (): unknown => shown.document().populations[0]!.influences[1]!.strength
    return {
      ...shown,
      strength,
      curve: screen.getByRole('application', { name: 'Strength of Sea breeze over frames' }),
    }
  }

  test('has its keys, chosen one after the other and all together', async () => {
    const { keys, curve } = await open()
    expect(
      screen.getAllByRole('button', { name: /^Key at frame/ }).map((one) => one.getAttribute('aria-label')),
    ).toEqual(['Key at frame 1: 0', 'Key at frame 40: 2', 'Key at frame 90: 1'])
    curve.focus()
    await keys.keyboard('.')
    const pressed = () => screen.getAllByRole('button', { name: /^Key at frame/, pressed: true }).length
    expect(pressed()).toBe(1)
    await keys.keyboard('{Control>}a{/Control}')
    expect(pressed()).toBe(3)
    await keys.keyboard('{Escape}')
    expect(screen.queryAllByRole('button', { name: /^Key at frame/, pressed: true })).toHaveLength(0)
  })

  test('keys are nudged in frames and in value, ten times with Shift, and deleted', async () => {
    const { keys, curve, strength } = await open()
    curve.focus()
    await keys.keyboard('..')
    await keys.keyboard('{ArrowRight}{Shift>}{ArrowRight}{/Shift}')
    expect((strength() as { keys: number[][] }).keys[1]!.slice(0, 2)).toEqual([51, 2])
    await keys.keyboard('{ArrowUp}')
    expect((strength() as { keys: number[][] }).keys[1]![1]).toBeGreaterThan(2)
    await keys.keyboard('{Delete}')
    expect((strength() as { keys: number[][] }).keys.map(([at]) => at)).toEqual([1, 90])
    undo()
    undo()
    undo()
    undo()
    expect(strength()).toEqual(keyed)
  })

  test('Enter adds a key at the playhead, where the curve is', async () => {
    const { keys, curve, strength } = await open()
    engine.setShot(shot())
    engine.seek(20)
    curve.focus()
    await keys.keyboard('{Enter}')
    const { keys: all } = strength() as { keys: [number, number][] }
    expect(all.map(([at]) => at)).toEqual([1, 20, 40, 90])
    expect(all[1]![1]).toBeCloseTo((2 * 19) / 39, 6)
  })

  test('a key is dragged as one step of undo', async () => {
    const { curve, strength } = await open()
    curve.getBoundingClientRect = () => ({
      left: 0,
      top: 0,
      width: 990,
      height: 72,
      right: 990,
      bottom: 72,
      x: 0,
      y: 0,
      toJSON: () => ({}),
    })
    const key = screen.getByRole('button', { name: 'Key at frame 40: 2' })
    fireEvent.pointerDown(key, { pointerId: 1, clientX: 390, clientY: 10 })
    for (const clientX of [400, 430, 490])
      fireEvent.pointerMove(curve, { pointerId: 1, buttons: 1, clientX, clientY: 10 })
    fireEvent.pointerUp(curve, { pointerId: 1 })
    expect((strength() as { keys: number[][] }).keys[1]!.slice(0, 2)).toEqual([50, 2])
    undo()
    expect(strength()).toEqual(keyed)
  })
})

test('what cannot be added says what is missing; what has all it needs does not', () => {
  const empty = shotOf({}, { meshes: [], masks: [] })
  expect(missingForInfluence('collide', empty.populations[0]!, empty)).toMatch(/needs a mesh/i)
  expect(missingForInfluence('arrive', empty.populations[0]!, empty)).toMatch(/mesh to go to/i)
  expect(missingForInfluence('set', empty.populations[0]!, empty)).toMatch(/attribute/i)
  expect(missingForInfluence('gravity', empty.populations[0]!, empty)).toBeNull()
  const full = shot({ attributes: [{ id: 'heat', name: 'Heat', birth: { mean: 1, spread: 0 } }] })
  for (const kind of ['collide', 'arrive', 'set'])
    expect(missingForInfluence(kind, full.populations[0]!, full)).toBeNull()
})

describe('the finder', () => {
  const open = () => {
    const ran: string[] = []
    const command = (id: string, label: string) => ({ id, label, run: () => ran.push(id) })
    const commands = [
      command('play', 'Play or pause'),
      command('step-motion', 'Go to Motion'),
      command('step-meshes', 'Go to Meshes'),
      command('light', 'Light theme'),
    ]
    const shown = show(shot(), <Finder commands={commands as never} />)
    act(() => void store.dispatch(finderToggled(true)))
    return { ...shown, ran }
  }
  test('finds by any words in any order, announces the active one, and runs it with Enter', async () => {
    const { keys, ran } = open()
    const field = await screen.findByRole('combobox', { name: 'Find' })
    await keys.type(field, 'pause pl')
    expect(screen.getAllByRole('option').map((one) => one.textContent)).toEqual(['Play or pause'])
    const active = field.getAttribute('aria-activedescendant')
    expect(document.getElementById(active!)!.textContent).toBe('Play or pause')
    await keys.keyboard('{Enter}')
    expect(ran).toEqual(['play'])
    await waitFor(() => expect(screen.queryByRole('combobox')).toBeNull())
  })
  test('finds meshes and influences by name, goes to a frame by number, and says when there is nothing', async () => {
    const { keys, ran } = open()
    const field = await screen.findByRole('combobox', { name: 'Find' })
    await keys.type(field, 'breeze')
    await keys.keyboard('{Enter}')
    expect([ran, store.getState().session.selected.influence]).toEqual([['step-motion'], 'w'])
    act(() => void store.dispatch(finderToggled(true)))
    engine.setShot(shot())
    const again = await screen.findByRole('combobox', { name: 'Find' })
    await keys.type(again, '33')
    expect(screen.getAllByRole('option')[0]!.textContent).toBe('Go to frame 33')
    await keys.keyboard('{Enter}')
    expect(engine.frame).toBe(33)
    act(() => void store.dispatch(finderToggled(true)))
    await keys.type(await screen.findByRole('combobox', { name: 'Find' }), 'zzz')
    expect(screen.getByText(/Nothing is called that/)).toBeTruthy()
  })
})
