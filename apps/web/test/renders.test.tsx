/** @jest-environment jsdom */
/** How much is drawn anew when one value changes and when frames are played: elements made, in all. */
import { jest } from '@jest/globals'
import './browser.ts'

const made = { count: 0 }
const runtime = await import('react/jsx-runtime')
jest.unstable_mockModule('react/jsx-runtime', () => ({
  Fragment: runtime.Fragment,
  jsx: (...values: Parameters<typeof runtime.jsx>) => (made.count++, runtime.jsx(...values)),
  jsxs: (...values: Parameters<typeof runtime.jsxs>) => (made.count++, runtime.jsxs(...values)),
}))
const { act } = await import('react')
const { INFLUENCES } = await import('@tangle/core')
const { show, shotOf } = await import('./page.tsx')
const { engine } = await import('../src/engine/engine.ts')
const { ParameterForm } = await import('../src/fields/ParameterForm.tsx')
const { Score } = await import('../src/score/Score.tsx')
const { store, useShot } = await import('../src/store/index.ts')
const { set } = await import('../src/store/shot.ts')

const keyed = { keys: [[1, 0], [40, 2], [90, 1]] } // prettier-ignore
const shot = shotOf({
  influences: ['gravity', 'wind', 'turbulence', 'drag', 'vortex', 'wander', 'flock', 'attract'].map(
    (kind, n) => ({
      id: kind,
      kind,
      weights: { Held: 0.5, Loose: 1 },
      strength: n % 2 ? keyed : 1,
    }),
  ),
})
function Form() {
  const influence = useShot().populations[0]!.influences[2]!
  const { parameters } = INFLUENCES.find(({ kind }) => kind === influence.kind)!
  return (
    <ParameterForm parameters={parameters} values={influence} path={['populations', 0, 'influences', 2]} />
  )
}
function Both() {
  return (
    <>
      <Score />
      <Form />
    </>
  )
}
/** Elements made by what happens. */
function elements(happens: () => void): number {
  const before = made.count
  happens()
  return made.count - before
}
const frame = (): Promise<void> => new Promise((resolve) => requestAnimationFrame(() => resolve()))

test('a drag of twenty steps, and a second that is played', async () => {
  const whole = elements(() => show(shot, <Both />))
  const path = ['populations', 0, 'influences', 2, 'scale']
  const dragged = elements(() => {
    for (let k = 1; k <= 20; k++)
      act(() => void store.dispatch(set({ path, value: 1 + k / 10, gesture: 'drag' })))
  })
  act(() => engine.setShot(shot))
  await act(frame)
  const before = made.count
  for (let k = 1; k <= 24; k++) {
    engine.seek(k + 1)
    await act(frame)
  }
  const played = made.count - before
  if (process.env.TANGLE_SHOW_RENDERS) console.log({ whole, dragged, played })
  expect(whole).toBeGreaterThan(300)
  // a step draws the field, its row and what frames them: less than a fifth of all
  expect(dragged / 20).toBeLessThan(whole / 5)
  // a frame draws the playhead and what has keys
  expect(played / 24).toBeLessThan(whole / 20)
})
