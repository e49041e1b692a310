import { evaluate, shown } from '../src/fields/formula.ts'
import { hasKey, keyToggled, withValueAt } from '../src/fields/keyed.ts'

test.each([
  ['24*3', 72],
  ['2^3^2', 512],
  ['-3^2', -9],
  ['2*-3', -6],
  ['1 200', 1200],
  ['1,5', 1.5],
  ['min(3,2)', 2],
  ['mix(0, 10, 0.25) + sqrt(16)', 6.5],
  ['1e-3', 0.001],
  // as typed in Germany and in Japan, and with a true minus
  ['1,5', 1.5],
  ['１．５', 1.5],
  ['－２＋（３，５）', 1.5],
  ['\u22124', -4],
  ['1\u3000000', 1000],
])('%s is %d', (text, value) => expect(evaluate(text)).toBeCloseTo(value, 12))

test.each(['', 'two', '1/0', '3 +', 'alert(1)', 'constructor', 'a.b', '"x"', '[1]'])(
  '%p has no value and says so',
  (text) => expect(() => evaluate(text)).toThrow(/formula|value|There is no/),
)

test('numbers are shown short, with thin spaces between thousands', () => {
  expect([0, 1234567, 0.1 + 0.2, 12000, -4500.25, 0.00001].map(shown)).toEqual([
    '0',
    '1\u202f234\u202f600',
    '0.3',
    '12\u202f000',
    '-4\u202f500.3',
    '1.0e-5',
  ])
})

test('keys: set, changed and taken away at a frame, in order', () => {
  const one = keyToggled(2, 10)
  expect(one).toEqual({ keys: [[10, 2, 'smooth']] })
  const two = withValueAt(one, 4, 8)
  expect(two).toEqual({
    keys: [
      [4, 8, 'smooth'],
      [10, 2, 'smooth'],
    ],
  })
  expect(hasKey(two, 4)).toBe(true)
  expect(withValueAt(two, 10, 3)).toEqual({
    keys: [
      [4, 8, 'smooth'],
      [10, 3, 'smooth'],
    ],
  })
  expect(keyToggled(keyToggled(two, 4), 10)).toBe(2)
  expect(withValueAt(5, 10, 6)).toBe(6)
})

test.each([
  ['20 cm', 'm', 0.2],
  ['(1+2)*2mm', 'm', 0.006],
  ['36 km/h', 'm/s', 10],
  ['1 g', 'm/s²', 9.80665],
  ['2.5 g/cm³', 'kg/m³', 2500],
  ['max(1,2)', 'm', 2],
  ['3 m', 'm', 3],
  ['50 %', '×', 0.5],
])('%p typed into a field of %p is %p', (text, unit, value) => {
  expect(evaluate(text, unit)).toBeCloseTo(value, 9)
})

test('a unit that the field does not have is refused', () => {
  expect(() => evaluate('2 kg', 'm')).toThrow()
  expect(() => evaluate('5 s', '')).toThrow()
})
