/** @jest-environment jsdom */
/** Populations that descend from others, as the interface makes them. */
import './browser.ts'
import { readShot, type Shot } from '@tangle/core'
import { act, screen } from '@testing-library/react'
import type { ReactNode } from 'react'
import { addOffspring } from '../src/steps/births.ts'
import { BirthsStep } from '../src/steps/BirthsStep.tsx'
import { LookStep } from '../src/steps/LookStep.tsx'
import { store } from '../src/store/index.ts'
import { loaded, meshRemoved, phaseRemoved, phaseRenamed, populationRemoved, set } from '../src/store/shot.ts'
import { choose, fill, show, shotOf, type Page } from './page.tsx'

const present = (): Shot => store.getState().shot.present
const population = () => present().populations[0]!
/** The document as a file would have it: nothing is wrong with it. */
const expectSound = (): void =>
  expect(readShot(JSON.parse(JSON.stringify(present()))).problems ?? []).toEqual([])

test('a wake follows its parents: their phases renamed and taken out, the mesh that it lies on, and themselves', () => {
  store.dispatch(loaded(shotOf({ phases: ['Held', 'Flying'] })))
  addOffspring(population())
  const wake = () => present().populations[1]?.births[0]
  expect(present().populations[1]!.name).toBe(`Wake of ${population().name}`)
  expect(wake()).toMatchObject({
    kind: 'particles',
    from: population().id,
    amount: { spacing: expect.any(Number) as number },
  })
  store.dispatch(set({ path: ['populations', 1, 'births', 0, 'parentPhase'], value: 'Flying' }))
  store.dispatch(set({ path: ['populations', 1, 'births', 0, 'mesh'], value: present().meshes[0]!.id }))
  expectSound()
  store.dispatch(phaseRenamed({ index: 0, from: 'Flying', to: 'Burning' }))
  expect(wake()!.parentPhase).toBe('Burning')
  expectSound()
  store.dispatch(phaseRemoved({ index: 0, phase: 'Burning' }))
  expect(wake()!.parentPhase).toBeUndefined()
  expectSound()
  store.dispatch(meshRemoved(present().meshes[0]!.id))
  expect(wake()!.mesh).toBeUndefined()
  expectSound()
  store.dispatch(populationRemoved(population().id))
  expect(present().populations[0]!.births).toEqual([])
  expectSound()
})

/** A population that bears another, opened in a step. */
function opened(step: ReactNode): Page {
  const shot = shotOf({ phases: ['Held', 'Flying'] })
  const page = show(shot, step)
  act(() => addOffspring(page.document().populations[0]!))
  return page
}
const wakeIn = (page: Page) => page.document().populations[1]!

test('each parent bears by its way, by time, or at an event, with the fields of each', async () => {
  const page = opened(<BirthsStep sample={null} />)
  const amount = () => wakeIn(page).births[0]!.amount
  await fill(page, 'One each', '0.4')
  expect(amount()).toEqual({ spacing: 0.4 })
  await fill(page, 'From frame', '10')
  await choose(page, 'Cap', 'cap')
  await fill(page, 'Cap', '7')
  expect(amount()).toEqual({ spacing: 0.4, from: 10, cap: 7 })
  await choose(page, 'Each bears', 'by time')
  await fill(page, 'Rate', '48')
  expect(amount()).toEqual({ rate: 48 })
  await choose(page, 'Each bears', 'at an event')
  await choose(page, 'When', 'it touches something')
  await fill(page, 'Count', '30')
  await fill(page, 'Chance', '0.5')
  expect(amount()).toEqual({ event: 'touch', count: 30, chance: 0.5 })
  // phases are those of the parents, which may be itself
  await choose(page, 'While in', 'Flying')
  expect(wakeIn(page).births[0]!.parentPhase).toBe('Flying')
  expect(screen.getByText(/play to see them/)).toBeTruthy()
  expectSound()
})

test('glow and threads are switched on with what they start from, and off', async () => {
  const page = opened(<LookStep />)
  const look = () => wakeIn(page).look
  await choose(page, 'Glow', 'gives light')
  expect(look().glow).toMatchObject({ strength: 2, by: 'even' })
  await fill(page, 'Brightness', '5')
  await choose(page, 'Brightest', 'when fast')
  await fill(page, 'Full at', '12')
  expect(look().glow).toMatchObject({ strength: 5, by: 'speed', speed: 12 })
  await choose(page, 'Threads', 'lines')
  await choose(page, 'Join', 'neighbours')
  await fill(page, 'At most', '5')
  expect(look().threads).toMatchObject({ join: 'near', most: 5 })
  await fill(page, 'Bloom', '1.5')
  expect(page.document().stage.bloom.strength).toBe(1.5)
  expectSound()
  await choose(page, 'Glow', 'none')
  await choose(page, 'Threads', 'none')
  expect([look().glow, look().threads]).toEqual([null, null])
})
