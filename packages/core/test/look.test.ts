import { BACKDROPS, contrastOf, linearColour, onRamp, RAMPS, rampTable, standsOff } from '../src/index.ts'

// sRGB transfer of IEC 61966-2-1: mid grey #808080 is 0.2159 linear
test('colours are linear, and a ramp meets its stops', () => {
  expect(linearColour('#808080')[0]).toBeCloseTo(0.21586, 4)
  expect(linearColour('#ffffff')).toEqual([1, 1, 1])
  for (const [name, { stops }] of Object.entries(RAMPS)) {
    const table = rampTable(name)
    for (const [position, hex] of [stops[0]!, stops.at(-1)!]) {
      const entry = Math.round(position * 255) * 3
      expect(Array.from(table.slice(entry, entry + 3))).toEqual(
        linearColour(hex).map((c) => expect.closeTo(c, 5)),
      )
    }
    expect(table.every((value) => value >= 0 && value <= 1)).toBe(true)
  }
})

test('new particles stand off the backdrop at both ends of their ramp', () => {
  // WCAG 2.2: black on white is 21; 3 is the least for what is to be seen
  expect(contrastOf('#000000', '#ffffff')).toBeCloseTo(21, 9)
  for (const [name, { sky, horizon, ground }] of Object.entries(BACKDROPS)) {
    const { stops } = RAMPS[standsOff(name)]!
    for (const [, colour] of stops)
      for (const behind of [sky, horizon, ground]) expect(contrastOf(colour, behind)).toBeGreaterThan(2)
    expect(contrastOf(stops[0]![1], horizon)).toBeGreaterThan(3)
    expect(contrastOf(stops.at(-1)![1], horizon)).toBeGreaterThan(3)
  }
})

test('a value finds its place on a range, also a reversed or an empty one', () => {
  expect([-1, 0, 1, 2, 9].map((value) => onRamp(value, [0, 2]))).toEqual([0, 0, 0.5, 1, 1])
  expect([0, 1, 2].map((value) => onRamp(value, [2, 0]) + 0)).toEqual([1, 0.5, 0])
  expect([0.9, 1, 1.1].map((value) => onRamp(value, [1, 1]))).toEqual([0, 1, 1])
})
