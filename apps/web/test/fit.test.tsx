/** @jest-environment jsdom */
/** Meshes whose files are in another unit, or have z up. */
import { act, screen } from '@testing-library/react'
import { MeshesStep } from '../src/steps/MeshesStep.tsx'
import { store } from '../src/store/index.ts'
import { selected } from '../src/store/session.ts'
import { button, show, shotOf } from './page.tsx'

const page = (place: object) => {
  const shown = show(
    shotOf(
      {},
      { meshes: [{ id: 'rock', name: 'Rock', source: { asset: `sha256:${'1'.repeat(64)}` }, place }] },
    ),
    <MeshesStep />,
  )
  act(() => void store.dispatch(selected({ mesh: 'rock' })))
  const choose = async (name: string): Promise<void> => {
    await shown.keys.click(button('Its file is in…'))
    await shown.keys.click(await screen.findByRole('menuitem', { name }))
  }
  return { choose, place: () => shown.document().meshes[0]!.place }
}

test.each([
  ['centimetres: scale × 0.01', 0.01],
  ['millimetres: scale × 0.001', 0.001],
  ['inches: scale × 0.0254', 0.0254],
  ['feet: scale × 0.3048', 0.3048],
])('%s: its scale is that much smaller, keys and mirrored sides, too', async (name, factor) => {
  const { choose, place } = page({ position: [1, 2, 3], scale: [2, -1, { keys: [[1, 1], [9, 3, 'smooth']] }] }) // prettier-ignore
  await choose(name)
  const [x, y, z] = place().scale
  expect([x, y]).toEqual([expect.closeTo(2 * factor, 10), -factor])
  expect(z).toEqual({ keys: [[1, factor], [9, expect.closeTo(3 * factor, 10), 'smooth']] }) // prettier-ignore
  expect(place().position).toEqual([1, 2, 3])
})

test('with z up it is turned upright; one that has been turned already is not', async () => {
  const { choose, place } = page({})
  await choose('z up: turn by −90° about x')
  expect(place().rotation).toEqual([-90, 0, 0])
  const turned = page({ rotation: [0, 10, 0] })
  await turned.choose('z up: turn by −90° about x').catch(() => undefined)
  expect(turned.place().rotation).toEqual([0, 10, 0])
})
