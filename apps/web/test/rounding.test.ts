import { roundedTo } from '../src/rounding.ts'

test.each([
  [-3.7e-9, 1, 0],
  [-3.7e-9, 1e-6, -4e-9],
  [0.123456, 1, 0.123],
  [0.123456, 0.001, 0.123456],
  [1234.5678, 1, 1234.568],
  [1234.5678, 500, 1234.6],
  [2, 0, 2],
])('%d beside %d is %d', (x, size, rounded) => {
  expect(roundedTo(x, size)).toBeCloseTo(rounded, 12)
  expect(Object.is(roundedTo(x, size), -0)).toBe(false)
})
