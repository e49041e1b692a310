/** @jest-environment jsdom */
/** Combings and cuts, by the panels in which they are made. */
import './browser.ts'
import { screen } from '@testing-library/react'
import type { Shot } from '@tangle/core'
import { CutSection } from '../src/steps/MeshSurface.tsx'
import { MasksStep } from '../src/steps/MasksStep.tsx'
import { addInfluence, missingForInfluence } from '../src/steps/populations.ts'
import { store, useShot } from '../src/store/index.ts'
import { button, choose, expectSound, field, fill, show, shotOf, undo } from './page.tsx'

describe('combings', () => {
  const combings = (page: { document(): Shot }) => page.document().combings

  test('are added beside masks, set, brushed with what is chosen, and taken out with who follows them', async () => {
    const follow = { id: 'f', kind: 'follow', combing: 'combing' }
    const page = show(shotOf({}), <MasksStep />)
    await page.keys.click(button('+ Combing'))
    expect(combings(page)).toMatchObject([
      { id: 'combing', name: 'Combing of Rock', mesh: 'rock', start: 'slope' },
    ])
    expectSound(page.document())
    await choose(page, 'Starts along', 'a direction')
    await fill(page, 'Direction x', '1')
    await fill(page, 'Turned', '90')
    await fill(page, 'Smooth over', '20 cm')
    expect(combings(page)[0]).toMatchObject({
      start: 'direction',
      direction: [1, 1, 0],
      turn: 90,
      smooth: 0.2,
    })
    // the height of a lift is asked of the brush that lifts
    expect(screen.queryByRole('textbox', { name: 'Brush lift' })).toBeNull()
    await choose(page, 'Brush', 'lift')
    await fill(page, 'Brush lift', '30')
    await choose(page, 'Mirrored', 'x')
    expect(store.getState().session.combing).toMatchObject({ on: true, brush: 'lift', lift: 30, mirror: 'x' })
    await choose(page, 'Brush', 'off')
    expect(store.getState().session.combing.on).toBe(false)
    expect(screen.getByTestId('strokes').textContent).toMatch(/^0 strokes/)
    await fill(page, 'Name of the combing', 'Moss')
    expectSound(page.document())
    // a mask takes its place, and gives it back
    await page.keys.click(screen.getByRole('button', { name: /^Left/ }))
    expect(screen.queryByRole('textbox', { name: 'Name of the combing' })).toBeNull()
    await page.keys.click(screen.getByRole('button', { name: /^Moss/ }))
    expect(field('Name of the combing')).toHaveProperty('value', 'Moss')
    await page.keys.click(button('Remove Moss'))
    expect(combings(page)).toEqual([])

    const followed = show(shotOf({ influences: [follow] }, { combings: [{ id: 'combing', name: 'Fur', mesh: 'rock' }] }), <MasksStep />) // prettier-ignore
    await followed.keys.click(screen.getByRole('button', { name: /^Fur/ }))
    expect(screen.getByText(/Dust go along it by Follow/)).toBeTruthy()
    await followed.keys.click(button('Remove Fur'))
    expect(followed.document().populations[0]!.influences).toEqual([])
    undo()
    expect(followed.document().populations[0]!.influences).toHaveLength(1)
    expectSound(followed.document())
  })

  test('are made along with who follows them, in one step of undo, at speeds and heights of the mesh', () => {
    const page = show(shotOf({ births: [{ id: 'b', kind: 'surface', mesh: 'boat', into: 'Loose', amount: { rate: 1 } }] }), <span />) // prettier-ignore
    const [dust] = page.document().populations
    addInfluence(dust!, 0, 'follow')
    const { combings: made, populations } = page.document()
    expect(made).toMatchObject([{ mesh: 'boat' }])
    expect(populations[0]!.influences).toMatchObject([
      { kind: 'follow', combing: made[0]!.id, weights: { Loose: 1 } },
    ])
    expectSound(page.document())
    undo()
    expect([page.document().combings, page.document().populations[0]!.influences]).toEqual([[], []])
    const bare = { ...page.document(), meshes: [] }
    expect(missingForInfluence('follow', dust!, bare)).toBe('Needs a mesh to comb: bring one first')
  })
})

test('a mesh is cut by another, not by itself, and is whole again; who cuts it takes the cut along', async () => {
  function Cut() {
    return <CutSection mesh={useShot().meshes[0]!} index={0} />
  }
  const page = show(shotOf({}), <Cut />)
  const cut = () => page.document().meshes[0]!.cut
  await page.keys.click(button('+ Cut'))
  expect(cut()).toEqual({ by: 'boat', keep: 'rest' })
  await choose(page, 'Keep', 'the common part')
  expect(cut()).toEqual({ by: 'boat', keep: 'common' })
  expectSound(page.document())
  await page.keys.click(screen.getByRole('combobox', { name: 'Cut by' }))
  expect(screen.getAllByRole('option').map((one) => one.textContent)).toEqual(['Boat'])
  await page.keys.keyboard('{Escape}')
  await page.keys.click(button('Whole again'))
  expect(cut()).toBeNull()
  // what a mask eats can't be cut as well
  const eaten = show(shotOf({}, { meshes: [{ id: 'rock', source: { asset: `sha256:${'1'.repeat(64)}` }, eaten: { mask: 'left' } }, { id: 'boat', source: { asset: `sha256:${'2'.repeat(64)}` } }] }), <Cut />) // prettier-ignore
  expect(button('+ Cut')).toHaveProperty('disabled', true)
  expect(eaten.container.textContent).toMatch(/eaten by a mask already/)
})
