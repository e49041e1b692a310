/** @jest-environment jsdom */
/** The panels of looks and of meshes' surfaces. */
import './browser.ts'
import { fireEvent, screen, waitFor } from '@testing-library/react'
import { RAMPS } from '@tangle/core'
import { Kept } from '../src/steps/Kept.tsx'
import { LookStep } from '../src/steps/LookStep.tsx'
import { DeformSection, DetailField, EatenSection } from '../src/steps/MeshSurface.tsx'
import { store, useShot } from '../src/store/index.ts'
import { button, choose, expectSound, fill, show, shotOf, undo, type Page } from './page.tsx'

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
    expect(screen.getByText(/collide as balls/)).toBeTruthy()
    await choose(page, 'Colour by', 'by the Colour influence')
    expect(screen.getByText(/without one they are as their mesh/)).toBeTruthy()
    expect(screen.queryByRole('textbox', { name: 'Colour from' })).toBeNull()
    expectSound(page.document())
    const rigid = { influences: [{ id: 'r', kind: 'rigid', weights: { Held: 1 } }], look: { draw: 'instances', instances: { set: [{ mesh: 'boat' }] } } } // prettier-ignore
    show(shotOf(rigid), <LookStep />)
    expect(screen.getByText(/touch as the meshes/)).toBeTruthy()
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
    await fill(page, 'Height', '15')
    await fill(page, 'Exposure', '-1.5')
    await choose(page, 'Floor', 'rings')
    await choose(page, 'Tone', 'film')
    expect(page.document().stage).toMatchObject({
      backdrop: 'paper',
      light: { height: 15 },
      surroundings: { floor: 'rings' },
      picture: { exposure: -1.5, tone: 'film' },
    })
    // how well it is drawn is of the window
    await choose(page, 'Quality of pictures', 'shadows')
    expect(store.getState().session.quality).toBe('shadows')
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

test('what takes keep is chosen by what it is for or one by one, with what a particle then takes', async () => {
  function Choice() {
    return <Kept population={useShot().populations[0]!} path={['populations', 0]} />
  }
  const page = show(shotOf({}), <Choice />)
  const { keys, document } = page
  const keep = (): unknown => document().populations[0]!.keep
  const bytes = (): number =>
    Number(/About (\d+) bytes/.exec(screen.getByText(/bytes a particle/).textContent)![1])
  const chosen = (): string | null => screen.getByRole('combobox', { name: 'What takes keep' }).textContent
  expect([keep(), chosen()]).toEqual([null, 'everything'])
  const all = bytes()
  await choose(page, 'What takes keep', 'for motion blur')
  expect(keep()).toEqual(['velocity', 'radius'])
  const some = bytes()
  await choose(page, 'What takes keep', 'places only')
  expect([keep(), bytes() < some, some <= all]).toEqual([[], true, true])
  await keys.click(screen.getByRole('button', { name: 'age', pressed: false }))
  expect([keep(), chosen()]).toEqual([['age'], 'own choice'])
  undo()
  expect(chosen()).toBe('places only')
  const compact = bytes()
  await choose(page, 'Precision of takes', 'exact')
  expect(document().populations[0]!.precision).toBe('exact')
  expect(bytes()).toBeGreaterThan(compact)
  expectSound(document())
})
