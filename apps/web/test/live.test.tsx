/** @jest-environment jsdom */
/** What the page says of frames that are computed: readouts, checks, tables, the transport. */
import './simulating.ts'
import { fireEvent, screen, waitFor, within } from '@testing-library/react'
import { act } from 'react'
import { meshFacts, STAGES, type Mesh, type Shot } from '@tangle/core'
import { Drawer } from '../src/drawer/Drawer.tsx'
import { engine } from '../src/engine/engine.ts'
import { Transport } from '../src/frame/Transport.tsx'
import { Checks, Readouts } from '../src/stage/Readouts.tsx'
import { store } from '../src/store/index.ts'
import { selected, shownAs } from '../src/store/session.ts'
import { show, shotOf, undo } from './page.tsx'

/** A square of 2 × 2 m at the height 0. */
const square: Mesh = {
  positions: new Float32Array([-1, 0, -1, 1, 0, -1, 1, 0, 1, -1, 0, 1]),
  triangles: new Uint32Array([0, 2, 1, 0, 3, 2]),
}
const LAST = 12
const shot = (more: object = {}, of: object = {}): Shot =>
  shotOf(
    {
      births: [{ id: 'b', kind: 'surface', mesh: 'rock', into: 'Held', amount: { burst: 40, at: 1 } }],
      particle: { radius: 0.01, lifespan: { mean: 6, spread: 0 } },
      cues: [
        { id: 'go', from: 'Held', to: 'Loose', when: { kind: 'after', frames: { mean: 3, spread: 0 } } },
      ],
      influences: [{ id: 'g', kind: 'gravity', weights: { Loose: 1 } }],
      attributes: [{ id: 'pace', name: 'Pace', type: 'number', unit: 'm/s', birth: { low: 1, high: 2 } }],
      ...more,
    },
    { frames: { first: 1, last: LAST, rate: 24 }, masks: [], ...of },
  )

/** Opens a shot, shows a part of the page, and waits until all its frames are there. */
async function live(of: Shot, part: React.ReactNode) {
  engine.close()
  const loaded = { mesh: square, facts: meshFacts(square) }
  for (const { source } of of.meshes) engine.addMesh((source as { asset: string }).asset, loaded)
  const page = show(of, part)
  act(() => {
    engine.setShot(of)
    engine.seek(1)
  })
  await waitFor(() => expect([engine.fault, engine.computedTo()]).toEqual([null, of.frames.last]), { timeout: 20_000 }) // prettier-ignore
  return page
}
/** Goes to a frame, and lets what listens hear of it. */
async function seek(frame: number): Promise<void> {
  await act(async () => {
    engine.seek(frame)
    await new Promise((resolve) => setTimeout(resolve, 600))
  })
}
afterAll(() => engine.close())

describe('the readouts', () => {
  test('say who is in which phase, how fast, and what the frame cost', async () => {
    await live(shot(), <Readouts step="motion" />)
    await seek(2)
    expect(screen.getByTestId('alive').textContent).toMatch(/^Held 40 · 0\.0 m\/s$/)
    await seek(6)
    expect(screen.getByTestId('alive').textContent).toMatch(/^Loose 40/)
    expect(screen.getByText('Dust')).toBeTruthy()
    expect(screen.getByText(/of frames/)).toBeTruthy()
    // all died at the age of six frames
    await seek(LAST)
    expect(screen.getByTestId('alive').textContent).toMatch(/^0 alive/)
  })

  test('the milliseconds open a bar that names the slowest stage and what makes it cheaper', async () => {
    const { keys } = await live(shot(), <Readouts step="motion" />)
    await seek(5)
    await keys.click(screen.getByRole('button', { name: 'Where the time of a frame goes' }))
    const bar = await screen.findByRole('presentation', {}, { timeout: 3000 })
    const measured = engine.measures()!.milliseconds
    const slowest = Object.entries(measured).sort(([, a], [, b]) => b - a)[0]![0]
    const stage = STAGES.find(({ name }) => name === slowest)!
    expect(bar.textContent).toContain(`Most goes into ${slowest}. Cheaper: ${stage.cheaper}.`)
    const shares = within(bar)
      .getAllByText(/^\d+ %$/)
      .map((one) => Number.parseInt(one.textContent ?? ''))
    expect(shares).toEqual(shares.toSorted((a, b) => b - a))
    expect(shares.reduce((sum, share) => sum + share, 0)).toBeLessThanOrEqual(103)
    await keys.keyboard('{Escape}')
    await waitFor(() => expect(screen.queryByText(/Most goes into/)).toBeNull())
  })

  test('a share of the particles is said', async () => {
    await live(shot({}, { quality: { previewShare: 0.3 } }), <Readouts step="motion" />)
    await seek(2)
    expect(screen.getByTestId('readouts').textContent).toContain('share 30 %')
    expect(Number(/Held (\d+)/.exec(screen.getByTestId('alive').textContent ?? '')?.[1])).toBeLessThan(30)
  })
})

describe('checks', () => {
  const tinted = () => shot({ influences: [{ id: 'tint', kind: 'colour', weights: { Held: 1, Loose: 1 } }] })

  test('say what is wrong and mend it by one click; undo takes the mend back', async () => {
    const { keys, document } = await live(tinted(), <Checks onLead={() => undefined} />)
    await seek(2)
    const note = await screen.findByRole('status', {}, { timeout: 3000 })
    const colouredBy = () => document().populations[0]!.look.colour.from
    expect(note.textContent).toMatch(/colour/i)
    expect(colouredBy()).not.toBe('own')
    await keys.click(within(note).getByRole('button', { name: 'Draw their own colours' }))
    expect(colouredBy()).toBe('own')
    expect(screen.queryByRole('button', { name: 'Draw their own colours' })).toBeNull()
    undo()
    expect(colouredBy()).not.toBe('own')
  })

  test('one that is left is not said again', async () => {
    const { keys } = await live(tinted(), <Checks onLead={() => undefined} />)
    await seek(2)
    const note = await screen.findByRole('status', {}, { timeout: 3000 })
    const said = note.textContent!.replace(/Leave it.*/, '')
    await keys.click(within(note).getByText(/^Leave it/))
    expect(screen.queryByRole('status')?.textContent?.startsWith(said) ?? false).toBe(false)
  })
})

describe('the drawer', () => {
  const table = async (name: string): Promise<HTMLElement> =>
    screen.findByRole('table', { name }, { timeout: 10_000 })
  const counted = (): string => screen.getByTestId('table-count').textContent ?? ''
  async function open(drawer: 'table' | 'events', frame: number) {
    const page = await live(shot(), <Drawer />)
    act(() => void store.dispatch(shownAs({ drawer })))
    await seek(frame)
    return page
  }

  test('has every particle with its own attributes, sorted by a head and filtered by conditions', async () => {
    const { keys } = await open('table', 6)
    const rows = await table('Particles')
    expect(rows.getAttribute('aria-rowcount')).toBe('40')
    const heads = within(rows)
      .getAllByRole('columnheader')
      .map((head) => head.textContent)
    expect(heads[0]).toMatch(/ ↑$/)
    expect(heads.some((head) => head?.startsWith('Pace'))).toBe(true)
    const filter = screen.getByRole('textbox', { name: 'Filter' })
    await keys.type(filter, 'phase = Loose')
    expect(counted()).toBe('40 of 40')
    await keys.clear(filter)
    await keys.type(filter, 'phase = Loose, id < 10')
    expect(counted()).toBe('10 of 40')
    await keys.clear(filter)
    await keys.type(filter, 'pace much')
    expect(screen.getByRole('alert').textContent).toMatch(
      /Write a column, a sign and a value.*columns are .*phase/,
    )
    expect(filter.getAttribute('aria-invalid')).toBe('true')
    await keys.clear(filter)
    const pace = within(rows)
      .getAllByRole('columnheader')
      .find((head) => head.textContent?.startsWith('Pace'))!
    await keys.click(within(pace).getByRole('button'))
    expect(pace.getAttribute('aria-sort')).toBe('ascending')
    await keys.click(within(pace).getByRole('button'))
    expect(pace.getAttribute('aria-sort')).toBe('descending')
  })

  test('the arrows mark one after the other, in the order that is shown', async () => {
    await open('table', 6)
    const rows = within(await table('Particles')).getByRole('rowgroup')
    fireEvent.keyDown(rows, { key: 'ArrowDown' })
    expect(store.getState().session.selected.particle).toEqual({ population: 'dust', id: 0 })
    fireEvent.keyDown(rows, { key: 'PageDown' })
    expect(store.getState().session.selected.particle).toEqual({ population: 'dust', id: 7 })
    fireEvent.keyDown(rows, { key: 'ArrowUp' })
    expect(store.getState().session.selected.particle?.id).toBe(6)
    // one that has died is said
    await seek(LAST)
    expect(await screen.findByText('6 is not alive at this frame')).toBeTruthy()
    act(() => void store.dispatch(selected({ particle: null })))
  })

  test('has what happened in the frame', async () => {
    const { keys } = await open('events', 1)
    const changes = (frame: number) => engine.measuresAt(frame)?.populations[0]?.events?.phase
    const when = Array.from({ length: LAST }, (_, k) => k + 1).filter((frame) => changes(frame) === 40)
    expect(when).toHaveLength(1)
    await seek(when[0]!)
    const rows = await table('Events')
    expect(rows.getAttribute('aria-rowcount')).toBe('40')
    const filter = screen.getByRole('textbox', { name: 'Filter' })
    await keys.type(filter, 'particle = 5')
    expect(counted()).toBe('1 of 40')
    fireEvent.keyDown(within(rows).getByRole('rowgroup'), { key: 'ArrowDown' })
    expect(store.getState().session.selected.particle).toEqual({ population: 'dust', id: 5 })
    await seek(6)
    expect(await screen.findByText(/No events at this frame|0 of 0/, {}, { timeout: 3000 })).toBeTruthy()
    await keys.click(screen.getByRole('button', { name: 'Close the drawer' }))
    expect(screen.queryByRole('region', { name: 'Drawer' })).toBeNull()
  })
})

describe('the transport', () => {
  const playhead = () => screen.getByRole('slider', { name: 'Playhead' })

  test('goes by its buttons, by a press on the track and by the keys, within the range', async () => {
    const { keys } = await live(shot(), <Transport />)
    await keys.click(screen.getByRole('button', { name: 'Last frame' }))
    expect(engine.frame).toBe(LAST)
    for (const [key, shiftKey, frame] of [
      ['ArrowLeft', false, LAST - 1],
      ['ArrowRight', true, LAST],
      ['PageDown', false, 2],
      ['ArrowDown', false, 1],
      ['ArrowLeft', false, 1],
    ] as const) {
      // prettier-ignore
      fireEvent.keyDown(playhead(), { key, shiftKey })
      expect(engine.frame).toBe(frame)
    }
    playhead().getBoundingClientRect = () => ({ x: 100, width: 220, left: 100, right: 320, top: 0, bottom: 30, height: 30, y: 0, toJSON: () => '' }) // prettier-ignore
    fireEvent.pointerDown(playhead(), { pointerId: 1, clientX: 210, buttons: 1 })
    expect(engine.frame).toBe(7)
    fireEvent.pointerMove(playhead(), { pointerId: 1, clientX: 900, buttons: 1 })
    expect(engine.frame).toBe(LAST)
    fireEvent.pointerMove(playhead(), { pointerId: 1, clientX: 110, buttons: 0 })
    expect(engine.frame).toBe(LAST)
    await keys.click(screen.getByRole('button', { name: 'First frame' }))
    expect(engine.frame).toBe(1)
    await waitFor(() => expect(screen.getByTestId('frame').textContent).toBe('0001'))
    expect(screen.getByTestId('computed').getAttribute('data-frame')).toBe(String(LAST))
  })

  test('plays to the end, and stops there without a loop', async () => {
    const { keys } = await live(shot(), <Transport />)
    await keys.click(screen.getByRole('button', { name: 'Loop is on' }))
    act(() => void (engine.loop = false))
    await keys.click(screen.getByRole('button', { name: 'Play' }))
    await waitFor(() => expect([engine.frame, engine.playing]).toEqual([LAST, false]), { timeout: 5000 })
    // from the end it begins anew
    act(() => engine.play())
    await waitFor(() => expect(engine.frame).toBeLessThan(LAST))
    act(() => engine.pause())
    act(() => engine.play(-1))
    await waitFor(() => expect([engine.frame, engine.playing]).toEqual([1, false]), { timeout: 5000 })
    await keys.click(screen.getByRole('button', { name: 'Loop is off' }))
  })

  test('range, rate and quality are changed in its form, which keeps first before last', async () => {
    const { keys, document } = await live(shot(), <Transport />)
    await keys.click(screen.getByRole('button', { name: /frame range and rate$/ }))
    const fill = async (name: string, text: string): Promise<void> => {
      const field = screen.getByRole('textbox', { name })
      await keys.clear(field)
      await keys.type(field, `${text}{Enter}`)
    }
    await fill('First frame', '20')
    expect(document().frames.first).toBe(1)
    expect(screen.getByRole('textbox', { name: 'First frame' }).getAttribute('aria-invalid')).toBe('true')
    await keys.keyboard('{Escape}')
    await keys.click(screen.getByRole('button', { name: /frame range and rate$/, hidden: true }))
    // renumbered, the playhead stays at what it shows
    await seek(5)
    for (const [first, frame] of [
      [1001, 1005],
      [1, 5],
    ] as const) {
      await fill('Renumber from', String(first))
      expect(document().frames).toMatchObject({ first, last: first + LAST - 1 })
      act(() => engine.setShot(document()))
      expect(engine.frame).toBe(frame)
    }
    await fill('Last frame', '40.4')
    await fill('Frame rate', '23.976')
    await fill('Substeps', '3')
    await fill('Iterations', '12')
    await fill('Run before the first frame', '7')
    expect(document().frames).toEqual({ first: 1, last: 40, rate: 23.976 })
    expect(document().quality).toMatchObject({ substeps: 3, iterations: 12, settle: 7 })
  })
})
