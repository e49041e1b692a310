/** Weather: births in a region, sizes as they are measured, and snow that sticks where the slope allows. */
import fc from 'fast-check'
import jStat from 'jstat'
import { arctangent, logarithm } from '../src/math/functions.ts'
import { firstChangedFrame, type Shot } from '../src/index.ts'
import { acting, ASSET, asset, box, burst, column, runTo, scene, shotOf, start } from './help.ts'

const axis = (values: number[], k: number): number[] => values.filter((_, i) => i % 3 === k)
const span = (values: number[]): [number, number] => [Math.min(...values), Math.max(...values)]

describe('births in a region', () => {
  const region = (more: object) => burst({ kind: 'region', size: [4, 2, 1], middle: [0, 5, 0], ...more })
  const standing = {
    meshes: [
      {
        id: 'box',
        source: { asset: ASSET },
        place: { position: [{ keys: [[1, 10], [25, 34]] }, 0, 0], rotation: [0, 0, 90], scale: [3, 3, 3] }, // prettier-ignore
      },
    ],
  }
  test('an upright box, even, that goes along with the mesh whatever its turn and size', () => {
    const first = column(start(shotOf({ births: [region({})] }, standing)), 'position')
    for (const [k, low, high] of [
      [0, 8, 12],
      [1, 4, 6],
      [2, -0.5, 0.5],
    ] as const) {
      // prettier-ignore
      const [from, to] = span(axis(first, k))
      expect([from >= low, to <= high, to - from > 0.98 * (high - low)]).toEqual([true, true, true])
      // even over the side: χ² of ten equal parts
      const parts = Array.from({ length: 10 }, () => 0)
      for (const x of axis(first, k)) parts[Math.floor(((x - low) / (high - low)) * 9.9999)]!++
      const chi = parts.reduce((sum, n) => sum + (n - 100) ** 2 / 100, 0)
      expect(1 - jStat.chisquare.cdf(chi, 9)).toBeGreaterThan(0.001)
    }
    const late = shotOf({ births: [region({ amount: { burst: 500, at: 13 } })] }, standing)
    const [from, to] = span(axis(column(runTo(start(late), 13), 'position'), 0))
    expect([from > 19.9, to < 24.1]).toEqual([true, true])
  })

  test('over what the camera sees; moving the camera is then a change of the simulation', () => {
    const at = (target: number[], follows = 'camera'): Shot =>
      shotOf(
        { births: [region({ follows })] },
        { stage: { camera: { position: [20, 2, 0], target, fieldOfView: 40 } } },
      )
    const [from, to] = span(axis(column(start(at([0, 2, 0])), 'position'), 0))
    expect([from > 7.9, to < 12.1]).toEqual([true, true])
    expect(firstChangedFrame(at([0, 2, 0]), at([0, 2, 9]))).toBe(1)
    expect(firstChangedFrame(at([0, 2, 0], 'mesh'), at([0, 2, 9], 'mesh'))).toBeNull()
  })
})

test('sizes of flakes fall off exponentially, as Gunn and Marshall (1958) measured; none is below the least', () => {
  const births = [burst({ amount: { burst: 4000, at: 1 } })]
  const particle = { radius: { mean: 0.01, spread: 0.75 }, sizes: 'exponential', density: 3 }
  const radii = column(start(shotOf({ births, particle })), 'radius')
  const [least, most] = span(radii)
  expect([least >= 0.0025 - 1e-9, most <= 0.04 + 1e-9]).toEqual([true, true])
  expect(radii.reduce((a, b) => a + b) / 4000).toBeCloseTo(0.01, 3)
  // the share above r is e^−(r − least)/(mean − least)
  for (const r of [0.005, 0.01, 0.02])
    expect(Math.abs(radii.filter((x) => x > r).length / 4000 - Math.exp(-(r - 0.0025) / 0.0075))).toBeLessThan(0.02) // prettier-ignore
})

test('what sticks by the slope of what it touches holds on a gentle roof and slides off a steep one', () => {
  const way = (degrees: number): number => {
    const simulation = scene(
      [box(4, 0.2, 4)],
      {
        particle: { radius: 0.02, density: 100 },
        births: [{ id: 'b', kind: 'region', mesh: 'a', into: 'Loose', amount: { burst: 20, at: 1 }, size: [0.2, 0.1, 0.2], middle: [0, 0.6, 0] }], // prettier-ignore
        influences: [
          acting('gravity'),
          acting('collide', {
            mesh: 'a',
            bounce: 0,
            friction: 0.3,
            sliding: 0.3,
            sticky: 60,
            responses: [{ to: 'sticky', from: 'slope', curve: [[35, 1], [45, 0]] }], // prettier-ignore
          }),
        ],
      },
      { substeps: 4 },
      {
        meshes: [
          {
            id: 'a',
            source: { asset: asset(0) },
            place: { position: [0, -0.1, 0], rotation: [0, 0, degrees] },
          },
        ],
      },
    )
    runTo(simulation, 14)
    const before = column(simulation, 'position')[0]!
    return Math.abs(column(runTo(simulation, 24), 'position')[0]! - before)
  }
  expect(way(30)).toBeLessThan(0.002)
  expect(way(50)).toBeGreaterThan(0.3)
})

test('our logarithm and arctangent are those of Math to 1e-14', () => {
  fc.assert(
    fc.property(
      fc.double({ min: 1e-300, max: 1, noNaN: true }),
      fc.double({ min: 0, max: 1e12, noNaN: true }),
      (x, y) => {
        // prettier-ignore
        expect(Math.abs(logarithm(x) - Math.log(x))).toBeLessThan(1e-13 * Math.max(1, -Math.log(x)))
        expect(Math.abs(arctangent(y) - Math.atan(y))).toBeLessThan(1e-14)
      },
    ),
    { seed: 5 },
  )
})
