/** @jest-environment jsdom */
/** The panels of the steps: what is clicked and typed there is in the document, and undone in one step. */
import './browser.ts'
import { fireEvent, screen, waitFor, within } from '@testing-library/react'
import { act } from 'react'
import { CUES, DIES, MASKS, MATERIALS, RAMPS, readShot, type Shot } from '@tangle/core'
import { BirthsStep } from '../src/steps/BirthsStep.tsx'
import { LookStep } from '../src/steps/LookStep.tsx'
import { MasksStep } from '../src/steps/MasksStep.tsx'
import { MotionStep } from '../src/steps/MotionStep.tsx'
import { DeformSection, DetailField, EatenSection } from '../src/steps/MeshSurface.tsx'
import { store, useShot } from '../src/store/index.ts'
import { selected } from '../src/store/session.ts'
import { show, shotOf, undo } from './page.tsx'

type Page = ReturnType<typeof show>
const button = (name: string | RegExp) => screen.getByRole('button', { name })
const field = (name: string) => screen.getByRole('textbox', { name })
const expectSound = (document: Shot): void =>
  expect(readShot(JSON.parse(JSON.stringify(document))).problems ?? []).toEqual([])
async function fill({ keys }: Page, name: string, text: string): Promise<void> {
  await keys.clear(field(name))
  await keys.type(field(name), `${text}{Enter}`)
}
/** Chooses from one of the two forms that choices have: a few as buttons, many as a list. */
async function choose({ keys }: Page, name: string, option: string): Promise<void> {
  const group = screen.queryByRole('radiogroup', { name }) ?? screen.queryByRole('group', { name })
  if (group) return keys.click(within(group).getByText(option))
  await keys.click(screen.getByRole('combobox', { name }))
  await keys.click(await screen.findByRole('option', { name: option }))
}
beforeEach(() => {
  for (const name of ['mesh', 'population', 'birth', 'influence', 'mask', 'cue', 'goal'] as const)
    store.dispatch(selected({ [name]: null }))
})

describe('births', () => {
  const birth = { id: 'b', kind: 'surface', mesh: 'rock', into: 'Held', amount: { rate: 1000 } }
  const opened = (more: object = {}) =>
    show(shotOf({ births: [birth], ...more }), <BirthsStep sample={null} />)
  const amount = (page: Page) => page.document().populations[0]!.births[0]!.amount

  test('an amount is a rate, a burst, all points or swept, with the fields of each', async () => {
    const page = opened()
    expect(screen.getByTestId('per-frame').textContent).toBe('41.67 a frame at 24 frames/s')
    await fill(page, 'Rate', '2400')
    expect(screen.getByTestId('per-frame').textContent).toBe('100 a frame at 24 frames/s')
    await fill(page, 'From frame', '10')
    await fill(page, 'To frame', '20')
    await choose(page, 'Cap', 'cap')
    await fill(page, 'Cap', '500')
    expect(amount(page)).toEqual({ rate: 2400, from: 10, to: 20, cap: 500 })
    await choose(page, 'Cap', 'no cap')
    expect(amount(page)).toEqual({ rate: 2400, from: 10, to: 20 })
    await choose(page, 'Amount', 'burst')
    await fill(page, 'Count', '321')
    await fill(page, 'At frame', '7')
    expect(amount(page)).toEqual({ burst: 321, at: 7 })
    await choose(page, 'Amount', 'all points')
    expect(amount(page)).toEqual({ burst: 'all', at: 7 })
    await choose(page, 'Amount', 'swept')
    await fill(page, 'In all', '5000')
    await fill(page, 'Swept level', '0.25')
    expect(amount(page)).toEqual({ swept: 5000, mask: 'left', level: 0.25 })
    expectSound(page.document())
  })

  test('a rate is keyed at the playhead', async () => {
    const page = opened()
    await page.keys.click(button('Set key for Rate'))
    expect(amount(page)).toEqual({ rate: { keys: [[1, 1000, 'smooth']] } })
    await page.keys.click(button('Remove key for Rate'))
    expect(amount(page)).toEqual({ rate: 1000 })
  })

  test('a lifespan is limited or endless, and varies', async () => {
    const page = opened({ particle: { lifespan: null } })
    const lifespan = () => page.document().populations[0]!.particle.lifespan
    await choose(page, 'Lifespan', 'limited')
    expect(lifespan()).toEqual({ mean: 90, spread: 30 })
    await fill(page, 'Lifespan', '48')
    await fill(page, 'Lifespan spread', '6')
    expect(lifespan()).toEqual({ mean: 48, spread: 6 })
    await fill(page, 'Radius spread', '25')
    expect(page.document().populations[0]!.particle.radius).toMatchObject({ spread: 0.25 })
  })

  test('a material sets the density and every contact, and is one step of undo', async () => {
    const page = opened({ influences: [{ id: 'f', kind: 'floor', weights: { Loose: 1 } }] })
    const before = page.document()
    const [material] = MATERIALS
    await page.keys.click(button('Material'))
    await page.keys.click(await screen.findByRole('option', { name: new RegExp(`^${material!.label}`) }))
    expect(page.document().populations[0]!.particle.density).toBe(material!.density)
    expect(page.document().populations[0]!.influences[0]).toMatchObject({ friction: material!.friction })
    undo()
    expect(page.document()).toEqual(before)
  })

  test('a population is added, named and taken out; without a mesh it says what comes first', async () => {
    const page = opened()
    await page.keys.click(button('+ Population'))
    expect(page.document().populations.map(({ name }) => name)).toEqual(['Dust', 'Dust 2'])
    await fill(page, 'Name of the population', 'Sparks')
    expect(page.document().populations[1]!.name).toBe('Sparks')
    await page.keys.click(button('Remove Sparks'))
    expect(page.document().populations).toHaveLength(1)
    show(shotOf({}, { meshes: [], masks: [], populations: [] }), <BirthsStep sample={null} />)
    expect(screen.getByText(/bring one in the Meshes step first/)).toBeTruthy()
    expect(screen.queryByRole('button', { name: 'Add a population' })).toBeNull()
  })
})

describe('masks', () => {
  test('are added of every kind, shown with their fields, and taken out with what follows them', async () => {
    const page = show(shotOf({}), <MasksStep />)
    for (const { label } of MASKS) {
      await page.keys.click(button('+ Mask'))
      await page.keys.click(await screen.findByRole('option', { name: new RegExp(`^${label}`) }))
      expect(page.document().masks.at(-1)!.name.startsWith(label)).toBe(true)
      expect(field('Name of the mask')).toHaveProperty('value', page.document().masks.at(-1)!.name)
    }
    expectSound(page.document())
    for (const { name } of page.document().masks.toReversed()) await page.keys.click(button(`Remove ${name}`))
    expect(page.document().masks).toEqual([])
    expectSound(page.document())
    expect(screen.getByText(/A mask says where and when/)).toBeTruthy()
    await page.keys.click(button('Let a front spread'))
    expect(page.document().masks).toHaveLength(1)
  })

  test('where a front starts: a ball, a plane, points or another mask', async () => {
    const page = show(shotOf({}), <MasksStep />)
    await page.keys.click(button('+ Mask'))
    const spread = MASKS.find(({ parameters }) => parameters.from?.type === 'origin')!
    await page.keys.click(await screen.findByRole('option', { name: new RegExp(`^${spread.label}`) }))
    const from = () => page.document().masks[1]!.from
    await fill(page, 'Start x', '0.5')
    await fill(page, 'Start radius', '0.4')
    expect(from()).toEqual({ ball: [0.5, 2, 0], radius: 0.4 })
    await choose(page, spread.parameters.from!.label, 'plane')
    await fill(page, 'Facing x', '1')
    expect(from()).toEqual({ plane: [0.5, 2, 0], normal: [1, -1, 0] })
    // a direction of no length is none
    await fill(page, 'Facing x', '0')
    await fill(page, 'Facing y', '0')
    expect(from()).toEqual({ plane: [0.5, 2, 0], normal: [0, -1, 0] })
    await choose(page, spread.parameters.from!.label, 'points')
    await page.keys.click(button('+ Point'))
    await fill(page, 'Point 2 z', '3')
    expect(from()).toEqual({ points: [[0.5, 2, 0], [0.5, 2, 3]] }) // prettier-ignore
    await page.keys.click(button('Remove Point 1'))
    expect(from()).toEqual({ points: [[0.5, 2, 3]] })
    expect(screen.queryByRole('button', { name: 'Remove Point 1' })).toBeNull()
    await choose(page, spread.parameters.from!.label, 'mask')
    expect(from()).toEqual({ mask: 'left' })
    expectSound(page.document())
  })

  test('the brush is chosen, its strokes are counted and cleared', async () => {
    const strokes = [{ brush: 'add', radius: 0.1, strength: 1, points: [[0, 0, 0]] }]
    const page = show(shotOf({}, { masks: [{ id: 'p', name: 'P', kind: 'painted', mesh: 'rock', strokes }] }), <MasksStep />) // prettier-ignore
    expect(screen.getByTestId('strokes').textContent).toMatch(/^1 stroke;/)
    await choose(page, 'Brush', 'erase')
    expect(store.getState().session.masks).toMatchObject({ painting: true, brush: 'erase' })
    await choose(page, 'Brush', 'off')
    expect(store.getState().session.masks.painting).toBe(false)
    await page.keys.click(button('Clear'))
    expect(page.document().masks[0]!.strokes).toEqual([])
    expect(button('Clear')).toHaveProperty('disabled', true)
  })
})

describe('motion', () => {
  const cue = { id: 'go', from: 'Held', to: 'Loose', when: { kind: 'mask', mask: 'left' } }
  const goal = { id: 'there', name: 'There', kind: 'surface', mesh: 'boat' }

  test('a cue: what it waits for, where it leads, for whom, and which comes first', async () => {
    const page = show(
      shotOf({ phases: ['Held', 'Loose', 'Gone'], cues: [cue, { id: 'later', from: 'Held', to: 'Gone', when: { kind: 'after' } }] }),
      <MotionStep />,
    ) // prettier-ignore
    act(() => void store.dispatch(selected({ cue: 'go' })))
    const now = () => page.document().populations[0]!.cues.find(({ id }) => id === 'go')!
    const kindOf = (kind: string) => CUES.find((one) => one.kind === kind)!.label
    await choose(page, 'When', kindOf('contact'))
    expect(now().when.kind).toBe('contact')
    await choose(page, 'When', kindOf('life'))
    await choose(page, 'To', 'Gone')
    await fill(page, 'Chance', '0.25')
    expect(now()).toMatchObject({ to: 'Gone', chance: 0.25, when: { kind: 'life' } })
    await choose(page, 'To', DIES)
    expect(now().to).toBe(DIES)
    expect(screen.getByText(/1 of 2 cues that leave Held/)).toBeTruthy()
    expect(button('Earlier')).toHaveProperty('disabled', true)
    await page.keys.click(button('Later'))
    expect(page.document().populations[0]!.cues.map(({ id }) => id)).toEqual(['later', 'go'])
    expect(screen.getByText(/2 of 2/)).toBeTruthy()
    expectSound(page.document())
    await page.keys.click(button('Remove the cue'))
    expect(page.document().populations[0]!.cues.map(({ id }) => id)).toEqual(['later'])
    expect(store.getState().session.selected.cue).toBeNull()
  })

  test('a kind of cue keeps the mesh or mask that it names; one that needs what is not there can’t be chosen', async () => {
    const page = show(shotOf({ cues: [cue] }), <MotionStep />)
    act(() => void store.dispatch(selected({ cue: 'go' })))
    await page.keys.click(screen.getByRole('combobox', { name: 'When' }))
    const options = await screen.findAllByRole('option')
    const disabled = options
      .filter((one) => one.getAttribute('aria-disabled') === 'true')
      .map((one) => one.textContent)
    expect(disabled).toContain(CUES.find(({ kind }) => kind === 'attribute')!.label)
    expect(disabled).not.toContain(CUES.find(({ kind }) => kind === 'mask')!.label)
  })

  test('goals are listed, named, added up to the most there may be, and removed with who goes there', async () => {
    const page = show(shotOf({ goals: [goal], influences: [{ id: 's', kind: 'seek', goal: 'there', weights: { Loose: 1 } }] }), <MotionStep />) // prettier-ignore
    act(() => void store.dispatch(selected({ goal: '' })))
    const goals = () => page.document().populations[0]!.goals
    await fill(page, 'Name of the goal', 'Harbour')
    expect(goals()[0]!.name).toBe('Harbour')
    for (let n = 2; n <= 4; n++) {
      await page.keys.click(button('+ Goal'))
      await page.keys.click((await screen.findAllByRole('option'))[0]!)
      expect(goals()).toHaveLength(n)
    }
    expect(button('+ Goal')).toHaveProperty('disabled', true)
    expectSound(page.document())
    await page.keys.click(button('Remove the goal Harbour'))
    expect(goals()).toHaveLength(3)
    expect(page.document().populations[0]!.influences).toEqual([])
    undo()
    expect(page.document().populations[0]!.influences).toHaveLength(1)
    await page.keys.click(button('Back to the influences'))
    expect(store.getState().session.selected.goal).toBeNull()
  })

  test('says what comes first where there is nothing', () => {
    show(shotOf({}), <MotionStep />)
    expect(screen.getByText(/Nothing acts on these particles yet/)).toBeTruthy()
    show(shotOf({}, { populations: [] }), <MotionStep />)
    expect(screen.getByText(/First give birth/)).toBeTruthy()
  })

  test('responses are added, read by a curve whose points go by the keys, and removed', async () => {
    const page = show(
      shotOf({ influences: [{ id: 'w', kind: 'wind', weights: { Loose: 1 } }] }),
      <MotionStep />,
    )
    const responses = () => page.document().populations[0]!.influences[0]!.responses
    await page.keys.click(screen.getAllByRole('button', { name: /responds to…$/ })[0]!)
    await page.keys.click((await screen.findAllByRole('menuitem'))[0]!)
    expect(responses()).toHaveLength(1)
    const before = responses()![0]!.curve
    const point = screen.getAllByRole('button', { name: /, point 1:/ })[0]!
    fireEvent.focus(point)
    fireEvent.keyDown(point, { key: 'ArrowDown' })
    expect(responses()![0]!.curve[0]![1]).toBeLessThanOrEqual(before[0]![1])
    fireEvent.keyDown(point, { key: 'Delete' })
    expect(responses()![0]!.curve).toHaveLength(before.length - 1)
    expectSound(page.document())
    await page.keys.click(screen.getByRole('button', { name: /^Remove the response|^Remove/ }))
    expect(responses()).toBeUndefined()
  })
})

describe('look', () => {
  const look = (page: Page) => page.document().populations[0]!.look

  test('instances begin with a mesh that is there; colours by what is chosen, over a range that shows something', async () => {
    const page = show(shotOf({}), <LookStep />)
    await choose(page, 'Draw as', 'instances')
    expect(look(page)).toMatchObject({ draw: 'instances', instances: { set: [{ mesh: 'boat', weight: 1 }] } })
    await choose(page, 'Colour by', 'speed')
    expect(look(page).colour).toMatchObject({ from: 'speed', range: [0, 5] })
    await fill(page, 'Colour from', '1')
    await fill(page, 'Colour to', '-3')
    expect(look(page).colour.range).toEqual([1, -3])
    await choose(page, 'Colour by', 'own')
    expect(screen.getByText(/without one they are white/)).toBeTruthy()
    expect(screen.queryByRole('textbox', { name: 'Colour from' })).toBeNull()
    expectSound(page.document())
    show(shotOf({}, { meshes: [], masks: [] }), <LookStep />)
    await choose(page, 'Draw as', 'instances')
    expect(page.document().populations[0]!.look.draw).not.toBe('instances')
  })

  test('a ramp is chosen by name or made one’s own: stops are moved, added, coloured and removed', async () => {
    const page = show(shotOf({}), <LookStep />)
    const [id, ramp] = Object.entries(RAMPS)[1]!
    await page.keys.click(button(new RegExp(ramp.label)))
    expect(look(page).colour.ramp).toBe(id)
    await page.keys.click(button('Make it my own'))
    const stops = () => (look(page).colour.ramp as { stops: [number, string][] }).stops
    expect(stops()).toEqual(ramp.stops)
    const second = screen.getByRole('slider', { name: 'Colour ramp, stop 2' })
    const was = stops()[1]!
    fireEvent.focus(second)
    fireEvent.keyDown(second, { key: 'ArrowLeft' })
    expect(stops()[1]![0]).toBeCloseTo(was[0] - 0.02, 6)
    fireEvent.input(screen.getByLabelText('Colour ramp: colour of the stop'), {
      target: { value: '#12ab34' },
    })
    expect(stops()[1]![1]).toBe('#12ab34')
    const strip = screen.getByLabelText('Colour ramp: double-click to add a stop')
    strip.getBoundingClientRect = () => ({ left: 0, width: 200, x: 0, y: 0, top: 0, bottom: 0, right: 200, height: 18, toJSON: () => '' }) // prettier-ignore
    fireEvent.doubleClick(strip, { clientX: 150 })
    expect(stops()).toHaveLength(ramp.stops.length + 1)
    expect(stops().some(([at]) => at === 0.75)).toBe(true)
    expect(stops().map(([at]) => at)).toEqual(stops().map(([at]) => at).toSorted((a, b) => a - b)) // prettier-ignore
    for (let left = stops().length; left > 2; left--) await page.keys.click(button('Remove'))
    expect(button('Remove')).toHaveProperty('disabled', true)
    expectSound(page.document())
  })

  test('what takes keep, the trail, the backdrop and the light', async () => {
    const page = show(shotOf({}), <LookStep />)
    await page.keys.click(button('velocity'))
    expect(page.document().populations[0]!.keep).not.toContain('velocity')
    await page.keys.click(button('velocity'))
    expect(page.document().populations[0]!.keep).toBeNull()
    await choose(page, 'Trail', 'a line')
    expect(look(page).trail).not.toBeNull()
    await choose(page, 'Trail', 'none')
    expect(look(page).trail).toBeNull()
    await choose(page, 'Backdrop', 'Paper')
    await fill(page, 'Light height', '15')
    expect(page.document().stage).toMatchObject({ backdrop: 'paper', light: { height: 15 } })
    expectSound(page.document())
  })
})

describe('a mesh’s surface', () => {
  function Surface() {
    const mesh = useShot().meshes[0]!
    return (
      <>
        <DeformSection mesh={mesh} index={0} />
        <EatenSection mesh={mesh} index={0} />
        <DetailField mesh={mesh} index={0} />
      </>
    )
  }

  test('moves by motions, is eaten by a mask, and is split as finely as one wants', async () => {
    const page = show(shotOf({}), <Surface />)
    const mesh = () => page.document().meshes[0]!
    await page.keys.click(button('+ Motion'))
    await page.keys.click((await screen.findAllByRole('option'))[0]!)
    expect(mesh().deform).toHaveLength(1)
    await page.keys.click(screen.getByRole('button', { name: /^Mute/ }))
    expect(mesh().deform[0]!.muted).toBe(true)
    await page.keys.click(screen.getByRole('button', { name: /^Unmute/ }))
    await page.keys.click(button('+ Eat'))
    expect(mesh().eaten).toMatchObject({ mask: 'left' })
    await choose(page, 'Detail', 'longest edge')
    expect(mesh().detail).toBeGreaterThan(0)
    expectSound(page.document())
    await choose(page, 'Detail', 'auto')
    await page.keys.click(button('Whole again'))
    await page.keys.click(screen.getByRole('button', { name: /^Remove/ }))
    await waitFor(() => expect(mesh()).toMatchObject({ deform: [], eaten: null, detail: 'auto' }))
  })
})
