/** @jest-environment jsdom */
/** Populations that descend from others, as the interface makes them. */
import './browser.ts'
import { readShot, type Shot } from '@tangle/core'
import { addOffspring } from '../src/steps/births.ts'
import { store } from '../src/store/index.ts'
import { loaded, meshRemoved, phaseRemoved, phaseRenamed, populationRemoved, set } from '../src/store/shot.ts'
import { shotOf } from './page.tsx'

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
