/** @jest-environment jsdom */
/** The panels of the steps: what is clicked and typed there is in the document, and undone in one step. */
import './browser.ts'
import { fireEvent, screen } from '@testing-library/react'
import { act } from 'react'
import { CUES, DIES, MASKS, MATERIALS } from '@tangle/core'
import { BirthsStep } from '../src/steps/BirthsStep.tsx'
import { MasksStep } from '../src/steps/MasksStep.tsx'
import { MotionStep } from '../src/steps/MotionStep.tsx'
import { addInfluence } from '../src/steps/populations.ts'
import { store } from '../src/store/index.ts'
import { selected } from '../src/store/session.ts'
import { button, choose, expectSound, field, fill, show, shotOf, undo, type Page } from './page.tsx'

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

  test('contacts that are added later are of the material, and say so until a value is typed over', async () => {
    const page = opened()
    await page.keys.click(button('Material'))
    await page.keys.click(await screen.findByRole('option', { name: /^\W*Dry sand/ }))
    const sand = MATERIALS.find(({ id }) => id === 'dry-sand')!
    act(() => addInfluence(page.document().populations[0]!, 0, 'selfCollision'))
    expect(page.document().populations[0]!.influences.at(-1)).toMatchObject({ friction: sand.friction })
    const motion = show(page.document(), <MotionStep />)
    expect(screen.getByText(/stickiness and bounce as of dry sand/)).toBeTruthy()
    expect(screen.getByTestId('in-words').textContent).toMatch(/^All phases: /)
    await fill(motion, 'Friction at rest', '0.9')
    expect(screen.getByText(/As of dry sand, but friction at rest typed over/)).toBeTruthy()
    await motion.keys.click(button('All as of dry sand'))
    expect(motion.document().populations[0]!.influences[0]).toMatchObject({ friction: sand.friction })
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
