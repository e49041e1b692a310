/** Who follows combed directions. */
import type { Vector } from '../src/math/vector.ts'
import { checkFrame, firstChangedFrame, type Mesh } from '../src/index.ts'
import { close, combedShot, combing, directionsOf, stroke, torus, type Loose } from './combingHelp.ts'
import { acting, ASSET, burst, column, runTo, sheet, shotOf, start } from './help.ts'

describe('follow', () => {
  const following = (
    mesh: Mesh,
    comb: Loose,
    follow: Loose,
    rest: Loose = {},
    place: Loose = {},
    birth: Loose = {},
  ) =>
    start(
      shotOf(
        {
          births: [burst({ amount: { burst: 100, at: 1 }, ...birth })],
          influences: [acting('follow', { combing: 'hair', ...follow })],
        },
        {
          meshes: [{ id: 'box', source: { asset: ASSET }, detail: 1000, ...place }],
          combings: [combing(comb)],
          ...rest,
        },
      ),
      mesh,
    )
  /** Greatest and least distance from the surface of a ring. */
  const heights = (x: number[], R: number, r: number): [number, number] => {
    const all = Array.from({ length: x.length / 3 }, (_, i) => {
      const [a, b, c] = x.slice(i * 3, i * 3 + 3) as Vector
      return Math.hypot(Math.hypot(a, c) - R, b) - r
    })
    return [Math.min(...all), Math.max(...all)]
  }

  test.each([
    [0.02, 2, 24],
    [1, 1, 24],
    [1, 4, 60],
    [100, 2, 30],
  ])(
    'on a ring of %s m they stay within its distance for 2,000 frames (%s substeps, %s/s)',
    (size, substeps, rate) => {
      const mesh = torus(size, 0.4 * size, 48, 24)
      // slantwise round and round: around the ring and across it
      const run = following(
        mesh,
        { start: 'u', turn: 40 },
        { speed: 0.5 * size, offset: 0.05 * size, reach: 0.1 * size, strength: 10 },
        { frames: { first: 1, last: 2001, rate }, quality: { substeps, iterations: 1 } },
      )
      let [least, most] = [Infinity, -Infinity]
      while (run.frame < 2001) {
        run.advance()
        if (run.frame % 20 > 0) continue
        const [low, high] = heights(column(run, 'position'), size, 0.4 * size)
        ;[least, most] = [Math.min(least, low), Math.max(most, high)]
      }
      expect(least).toBeGreaterThan(-0.05 * size)
      expect(most).toBeLessThan(0.15 * size)
      const speeds = run.measures().populations[0]!.speed
      expect(speeds.median / (0.5 * size)).toBeCloseTo(1, 1)
    },
  )

  test('they run at their speed, and the other way at a negative one', () => {
    const velocity = (follow: Loose): number[] =>
      column(runTo(following(sheet(10, 20), {}, { strength: 50, offset: 0, ...follow }), 25), 'velocity')
        // one that is far from the edge, where they stop
        .slice(6, 9)
    expect(velocity({ speed: 0.5 })).toEqual(close([0.5, 0, 0], 3))
    expect(velocity({ speed: -0.5 })).toEqual(close([-0.5, 0, 0], 3))
    // a pull alone leads to the height and lets them stand
    const risen = runTo(following(sheet(10, 20), {}, { along: 0, offset: 0.2, speed: 1 }), 97)
    expect(column(risen, 'position')[7]).toBeCloseTo(0.2, 3)
    expect(Math.abs(column(risen, 'velocity')[6]!)).toBeLessThan(1e-4)
    // who has strayed is left alone
    const strayed = following(sheet(10, 20), {}, { within: 0.1, offset: 0 }, {}, {}, { offset: 0.5 })
    runTo(strayed, 25)
    expect(Math.hypot(...column(strayed, 'velocity'))).toBeLessThan(1e-3)
  })

  test('directions go along with a mesh that travels, turns and stretches', () => {
    // turned by 90° about y, what ran along x runs along −z; the mesh travels at 1.2 m/s
    const place = { position: [0, { keys: [[1, 0], [241, 12]] }, 0], rotation: [0, 90, 0], scale: [{ keys: [[1, 1], [241, 3]] }, 1, 1] } // prettier-ignore
    const run = runTo(following(sheet(20, 20), { direction: [0, 0, -1] }, { strength: 50, speed: 0.5, offset: 0 }, {}, { place }), 49) // prettier-ignore
    const x = column(run, 'velocity')
    expect(x[1]).toBeCloseTo(1.2, 2)
    expect(x[2]! + 0).toBeLessThan(0)
    // each goes up with the mesh
    for (const [i, y] of column(run, 'position').entries()) if (i % 3 === 1) expect(y).toBeCloseTo(2.4, 1)
  })

  test('march runs along a combing, of another mesh too', () => {
    const along = (comb: Loose) =>
      column(
        runTo(
          start(
            shotOf(
              {
                births: [burst({ amount: { burst: 50, at: 1 } })],
                influences: [acting('march', { mesh: 'box', along: 'combing', combing: 'hair', speed: 0.5, strength: 200 }), acting('stay', { mesh: 'box' })], // prettier-ignore
              },
              {
                meshes: [
                  { id: 'box', source: { asset: ASSET } },
                  {
                    id: 'other',
                    source: { asset: ASSET },
                    place: { position: [0, 0.3, 0], rotation: [0, 0, 10] },
                  },
                ],
                combings: [combing(comb)],
              },
            ),
            sheet(10, 20),
          ),
          25,
        ),
        'velocity',
      ).slice(6, 9)
    expect(along({ direction: [1, 0, 1] })).toEqual(close([0.5 * Math.SQRT1_2, 0, 0.5 * Math.SQRT1_2], 2))
    expect(along({ mesh: 'other', direction: [1, 0, 0] })).toEqual(close([0.5, 0, 0], 2))
  })

  test.each([0.05, 2, 20])(
    'who has left the surface is counted and told, with a mend that holds: a ring of %s m',
    (size) => {
      const mesh = torus(size, 0.4 * size, 48, 24)
      // thirty radii a second around a bend, hardly led
      const run = (strength: number) => {
        const simulation = following(
          mesh,
          { start: 'u' },
          { speed: 6 * size, offset: 0.02 * size, reach: 0.05 * size, strength },
        )
        runTo(simulation, 49)
        return {
          strays: simulation.measures().populations[0]!.strays!,
          checks: checkFrame(simulation.shot, simulation.measures(), 49),
        }
      }
      const loose = run(2)
      expect(loose.strays).toMatchObject([{ id: 'follow', following: 100 }])
      expect(loose.strays[0]!.strayed).toBeGreaterThan(50)
      const told = loose.checks.find(({ id }) => id === 'dust:follow:strays')!
      expect(told.title).toMatch(/% of dust have left the surface that they follow/)
      expect(told.mend!.edits).toEqual([{ path: ['populations', 0, 'influences', 0, 'strength'], value: 4 }])
      const firm = run(200)
      expect(firm.strays[0]!.strayed).toBe(0)
      expect(firm.checks.some(({ id }) => id.endsWith(':strays'))).toBe(false)
    },
  )

  test('a set of points has no directions: who follows stays where it is', () => {
    const dots: Mesh = {
      positions: new Float32Array([0, 0, 0, 1, 0, 0, 0, 1, 0]),
      triangles: new Uint32Array(),
    }
    const { all } = directionsOf(dots, {})
    expect(all.every((way) => way.every(Number.isFinite))).toBe(true)
    const born = { kind: 'vertices', amount: { burst: 'all', at: 1 } }
    const run = runTo(following(dots, {}, {}, {}, {}, born), 5)
    expect(column(run, 'position')).toEqual([0, 0, 0, 1, 0, 0, 0, 1, 0])
  })

  test('an edit of a combing counts from the first frame', () => {
    const before = combedShot({})
    const after = combedShot({ strokes: [stroke({ points: [[0, 0, 0]] })] })
    expect(firstChangedFrame(before, after)).toBe(1)
    expect(firstChangedFrame(before, combedShot({}))).toBeNull()
  })
})
