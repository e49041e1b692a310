/** @jest-environment jsdom */
import { Popover } from '@mui/material'
import { fireEvent, screen, waitFor, within } from '@testing-library/react'
import { INFLUENCES } from '@tangle/core'
import { act, memo } from 'react'
import { underPointer } from '../src/fields/KeyButton.tsx'
import { KindMenu } from '../src/fields/KindMenu.tsx'
import { NumberField } from '../src/fields/NumberField.tsx'
import { ParameterForm } from '../src/fields/ParameterForm.tsx'
import { Attributes } from '../src/steps/Attributes.tsx'
import { useShot } from '../src/store/index.ts'
import { show, shotOf, undo } from './page.tsx'

const gravity = { id: 'g', kind: 'gravity', weights: { Loose: 1 } }
const turbulence = { id: 't', kind: 'turbulence', weights: { Loose: 1 } }
/** The form of an influence, as the panel shows it. */
function Form({ of = 0 }: { of?: number }) {
  const influence = useShot().populations[0]!.influences[of]!
  const { parameters } = INFLUENCES.find(({ kind }) => kind === influence.kind)!
  return (
    <ParameterForm parameters={parameters} values={influence} path={['populations', 0, 'influences', of]} />
  )
}
const number = (name: string) => screen.getByRole('textbox', { name })

describe('a number', () => {
  test('is typed with a formula and a unit; what is no number or out of range is said and given up', async () => {
    const { keys, document } = show(shotOf({ influences: [gravity] }), <Form />)
    const strength = (): unknown => document().populations[0]!.influences[0]!.strength
    await keys.clear(number('Strength'))
    await keys.type(number('Strength'), '1+1/2{Enter}')
    expect(strength()).toBe(1.5)
    for (const wrong of ['much', '1000', '2 kg']) {
      await keys.clear(number('Strength'))
      await keys.type(number('Strength'), `${wrong}{Enter}`)
      expect(number('Strength').getAttribute('aria-invalid')).toBe('true')
      expect(strength()).toBe(1.5)
      await keys.type(number('Strength'), '{Escape}')
    }
    expect(number('Strength')).toHaveProperty('value', '1.5')
    undo()
    expect(strength()).toBe(1)
  })

  test('arrows go by its own size, ten times with Shift', async () => {
    const { keys, document } = show(shotOf({ influences: [gravity] }), <Form />)
    await keys.click(number('Strength'))
    await keys.keyboard('{ArrowUp}')
    expect(document().populations[0]!.influences[0]!.strength).toBeCloseTo(1.1, 6)
    await keys.keyboard('{Shift>}{ArrowDown}{/Shift}')
    expect(document().populations[0]!.influences[0]!.strength).toBeCloseTo(0.1, 6)
  })

  test('what is opened around it hears Escape at once after Enter', async () => {
    let closed = 0
    const { keys } = show(
      shotOf({ influences: [gravity] }),
      <Popover open anchorReference="none" onClose={() => closed++}>
        <Form />
      </Popover>,
    )
    await keys.clear(number('Strength'))
    await keys.type(number('Strength'), '2{Enter}{Escape}')
    expect(closed).toBe(1)
  })

  test('its label scrubs it: one drag is one step of undo, and a double click brings the default back', () => {
    const { document } = show(shotOf({ influences: [gravity] }), <Form />)
    const strength = (): unknown => document().populations[0]!.influences[0]!.strength
    const label = screen.getByText('Strength')
    fireEvent.pointerDown(label, { pointerId: 1, clientX: 0 })
    for (const clientX of [6, 15, 30]) fireEvent.pointerMove(label, { pointerId: 1, clientX })
    fireEvent.pointerUp(label, { pointerId: 1 })
    expect(strength()).toBeGreaterThan(1)
    undo()
    expect(strength()).toBe(1)
    fireEvent.pointerDown(label, { pointerId: 1, clientX: 0 })
    fireEvent.pointerMove(label, { pointerId: 1, clientX: 60 })
    fireEvent.pointerUp(label, { pointerId: 1 })
    fireEvent.doubleClick(label)
    expect(strength()).toBe(1)
  })

  test('stays within its range however far it is dragged', () => {
    let value = 5
    const Field = () => (
      <NumberField
        label="Depth"
        name="Depth"
        value={value}
        range={[0, 10]}
        usual={[0, 10]}
        step={0.5}
        onChange={(next) => (value = next)}
      />
    )
    const { rerender } = show(shotOf({}), <Field />)
    const label = screen.getByText('Depth')
    for (const [by, end] of [
      [5000, 10],
      [-9000, 0],
    ] as const) {
      fireEvent.pointerDown(label, { pointerId: 1, clientX: 0 })
      fireEvent.pointerMove(label, { pointerId: 1, clientX: by })
      fireEvent.pointerUp(label, { pointerId: 1 })
      expect(value).toBe(end)
    }
    rerender(<span />)
  })
})

describe('a vector', () => {
  test('is one row of three numbers, each changed and keyed by itself', async () => {
    const { keys, document } = show(shotOf({ influences: [gravity] }), <Form />)
    const direction = (): unknown => document().populations[0]!.influences[0]!.direction
    expect(['x', 'y', 'z'].map((axis) => (number(`Direction ${axis}`) as HTMLInputElement).value)).toEqual([
      '0',
      '-1',
      '0',
    ])
    await keys.clear(number('Direction z'))
    await keys.type(number('Direction z'), '0.5{Enter}')
    expect(direction()).toEqual([0, -1, 0.5])
    await keys.click(screen.getByRole('button', { name: 'Set key for Direction y' }))
    expect(direction()).toEqual([0, { keys: [[1, -1, 'smooth']] }, 0.5])
  })
})

describe('forms draw what changed, not all', () => {
  test('the key of the one under the pointer is set by the keyboard', () => {
    const { document } = show(shotOf({ influences: [gravity] }), <Form />)
    const part = number('Direction z').closest('div')!.parentElement!
    expect(underPointer.toggleKey).toBeNull()
    fireEvent.pointerOver(part)
    act(() => underPointer.toggleKey!())
    expect(document().populations[0]!.influences[0]!.direction).toEqual([0, -1, { keys: [[1, 0, 'smooth']] }])
    fireEvent.pointerOut(part)
    expect(underPointer.toggleKey).toBeNull()
  })

  test('a drag of one field draws no other field anew', () => {
    const { counted } = show(shotOf({ influences: [turbulence, gravity] }), <Form />)
    const before = counted.renders
    const label = screen.getByText('Strength')
    fireEvent.pointerDown(label, { pointerId: 1, clientX: 0 })
    for (let k = 1; k <= 20; k++) fireEvent.pointerMove(label, { pointerId: 1, clientX: k * 9 })
    fireEvent.pointerUp(label, { pointerId: 1 })
    // one drawing for each step of the drag at most
    expect(counted.renders - before).toBeLessThanOrEqual(21)
  })

  test('an edit elsewhere draws a form not at all', async () => {
    const Still = memo(function Still() {
      return (
        <ParameterForm
          parameters={INFLUENCES[0]!.parameters}
          values={VALUES}
          path={['populations', 0, 'influences', 0]}
        />
      )
    })
    const VALUES = { strength: 1, direction: [0, -1, 0] }
    const { counted } = show(shotOf({ influences: [gravity, turbulence] }), <Still />)
    const before = counted.renders
    const { store } = await import('../src/store/index.ts')
    const { set } = await import('../src/store/shot.ts')
    act(() => void store.dispatch(set({ path: ['populations', 0, 'influences', 1, 'strength'], value: 3 })))
    act(() => void store.dispatch(set({ path: ['name'], value: 'Elsewhere' })))
    expect(counted.renders).toBe(before)
  })
})

describe('the menu of kinds', () => {
  const open = async (chosen: string[] = []) => {
    const shown = show(
      shotOf({}),
      <KindMenu
        label="+ Influence"
        kinds={INFLUENCES.map((kind) => ({ ...kind, family: kind.family }))}
        missing={(kind) => (kind === 'collide' ? 'Needs a mesh: bring one first' : null)}
        onChoose={(kind) => chosen.push(kind)}
      />,
    )
    await shown.keys.click(screen.getByRole('button', { name: '+ Influence' }))
    return { ...shown, chosen }
  }

  test('lists every kind under its family, and says why one cannot be chosen', async () => {
    await open()
    expect(screen.getAllByRole('option')).toHaveLength(INFLUENCES.length)
    // each family once, though kinds of one stand apart in the registry
    const families = screen.getAllByRole('group').map((one) => one.getAttribute('aria-label'))
    expect(families).toEqual([...new Set(INFLUENCES.map(({ family }) => family))])
    const heads = screen.getAllByRole('group').map((one) => one.getAttribute('aria-label'))
    expect(new Set(heads)).toEqual(new Set(INFLUENCES.map(({ family }) => family)))
    const collide = screen.getByRole('option', { name: /Collide/ })
    expect(collide.getAttribute('aria-disabled')).toBe('true')
    expect(collide.textContent).toContain('Needs a mesh')
  })

  test('finds by any word of what they do, and chooses with Enter', async () => {
    const { keys, chosen } = await open()
    await keys.keyboard('curl noise')
    const options = screen.getAllByRole('option')
    expect(options[0]!.textContent).toContain('Turbulence')
    await keys.keyboard('{Enter}')
    expect(chosen).toEqual(['turbulence'])
    await waitFor(() => expect(screen.queryByRole('listbox')).toBeNull())
  })

  test('Escape closes it, what is not there is said', async () => {
    const { keys, chosen } = await open()
    await keys.keyboard('xyzzy')
    expect(screen.getByText('Nothing is called that')).toBeTruthy()
    await keys.keyboard('{Escape}')
    await keys.keyboard('{Escape}')
    await waitFor(() => expect(screen.queryByRole('listbox')).toBeNull())
    expect(chosen).toEqual([])
  })
})

describe('attributes of their own', () => {
  function Step() {
    return <Attributes population={useShot().populations[0]!} index={0} />
  }
  const attributes = (shot: { populations: { attributes: unknown }[] }) => shot.populations[0]!.attributes as { id: string; name: string; birth: object; type: string }[] // prettier-ignore

  test('are added, named, given a birth and removed; undo brings them back', async () => {
    const { keys, document: shot } = show(shotOf({}), <Step />)
    expect(screen.getByText(/responses, cues, looks, charts and files read it/)).toBeTruthy()
    await keys.click(screen.getByRole('button', { name: '+ Attribute' }))
    await keys.click(screen.getByRole('option', { name: /Colour/ }))
    await keys.click(screen.getByRole('button', { name: '+ Attribute' }))
    await keys.click(screen.getByRole('option', { name: /Whole number/ }))
    expect(attributes(shot()).map(({ id, type }) => [id, type])).toEqual([['colour1', 'colour'], ['whole1', 'whole']]) // prettier-ignore

    await keys.click(screen.getByRole('combobox', { name: 'At birth' }))
    await keys.click(within(screen.getByRole('listbox')).getByRole('option', { name: 'between two' }))
    expect(attributes(shot())[1]!.birth).toEqual({ low: 0, high: 1 })
    await keys.click(screen.getByRole('combobox', { name: 'At birth' }))
    await keys.click(within(screen.getByRole('listbox')).getByRole('option', { name: 'by a mask' }))
    expect(attributes(shot())[1]!.birth).toEqual({ mask: 'left', low: 0, high: 1 })

    await keys.click(screen.getByRole('button', { name: /^Remove attribute Colour/ }))
    expect(attributes(shot()).map(({ id }) => id)).toEqual(['whole1'])
    undo()
    expect(attributes(shot())).toHaveLength(2)
  })

  test('one that is taken out takes along what named it', async () => {
    const heat = { id: 'heat', name: 'Heat', birth: { mean: 1, spread: 0 } }
    const shot = shotOf({
      attributes: [heat],
      influences: [{ id: 's', kind: 'set', weights: { Loose: 1 }, attribute: 'heat' }],
      cues: [
        { id: 'c', from: 'Held', to: 'Loose', when: { kind: 'attribute', attribute: 'heat', above: 1 } },
      ],
      look: { colour: { from: 'attribute', attribute: 'heat', range: [0, 1], ramp: 'ember' } },
    })
    const { keys, document: now } = show(shot, <Step />)
    await keys.click(screen.getByRole('button', { name: 'Remove attribute Heat' }))
    const [population] = now().populations
    expect([population!.influences, population!.cues, population!.look.colour.from]).toEqual([[], [], 'age'])
    undo()
    expect(now()).toEqual(shot)
  })
})
