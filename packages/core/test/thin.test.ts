/** Thinning out: how many stay, and who. */
import { acting, burst, column, runTo, shotOf, start } from './help.ts'

const left = (thin: object, frame: number, more: object[] = [], seed = 3): number[] =>
  column(runTo(start(shotOf({ births: [burst({ amount: { burst: 4000, at: 1 } })], influences: [...more, acting('thin', thin)] }, { seed })), frame), 'id') // prettier-ignore

test.each([0, 0.1, 0.5, 0.93, 1])('a share of %d stays, within what chance allows', (share) => {
  const expected = 4000 * share
  expect(Math.abs(left({ share }, 3).length - expected)).toBeLessThanOrEqual(3 * Math.sqrt(expected * (1 - share)) + 1e-9)
}) // prettier-ignore

test('the smaller share is part of the larger; the same at once or little by little; others for other seeds', () => {
  const [some, more] = [left({ share: 0.2 }, 3), new Set(left({ share: 0.6 }, 3))]
  expect(some.every((id) => more.has(id))).toBe(true)
  expect(left({ share: { keys: [[1, 1], [20, 0.2]] } }, 24)).toEqual(some) // prettier-ignore
  expect(left({ share: 0.2 }, 3, [], 4)).not.toEqual(some)
})

test('a later Size brings nobody back, nor an earlier one; without weight or strength all stay', () => {
  const size = acting('size', { size: 2 })
  expect(left({ share: 0.2 }, 4, [size])).toEqual(left({ share: 0.2 }, 4))
  const after = shotOf({ births: [burst()], influences: [acting('thin', { share: 0.2 }), size] })
  expect(column(runTo(start(after), 4), 'id').length).toBeLessThan(280)
  expect(left({ share: 0.2, strength: 0 }, 4)).toHaveLength(4000)
  expect(left({ share: 0.2, weights: {} }, 4)).toHaveLength(4000)
})
