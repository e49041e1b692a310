/** Directions on meshes, and who follows them. */
import { createMachine } from '@tangle/kernels'
import { dot, length, subtract, unit, vectorOf, type Vector } from '../src/math/vector.ts'
import { createScene, firstChangedFrame, readShot, type Mesh, type Shot } from '../src/index.ts'
import { acting, ASSET, burst, column, runTo, sheet, shotOf, sphere, start } from './help.ts'

type Loose = Record<string, unknown>

/** A ring of radius R about the y axis, r thick. */
function torus(R: number, r: number, around: number, across: number): Mesh {
  const positions: number[] = []
  const triangles: number[] = []
  const uvs: number[] = []
  for (let i = 0; i < around; i++)
    for (let j = 0; j < across; j++) {
      uvs.push(...[[i, j], [i, j + 1], [i + 1, j], [i + 1, j], [i, j + 1], [i + 1, j + 1]].flatMap(([p, q]) => [p! / around, q! / across])) // prettier-ignore
      const [a, b] = [(2 * Math.PI * i) / around, (2 * Math.PI * j) / across]
      const w = R + r * Math.cos(b)
      positions.push(w * Math.cos(a), r * Math.sin(b), w * Math.sin(a))
      const at = (p: number, q: number) => (p % around) * across + (q % across)
      triangles.push(at(i, j), at(i, j + 1), at(i + 1, j), at(i + 1, j), at(i, j + 1), at(i + 1, j + 1))
    }
  return {
    positions: new Float32Array(positions),
    triangles: new Uint32Array(triangles),
    uvs: new Float32Array(uvs),
  }
}

const combing = (more: Loose): Loose => ({
  id: 'hair',
  mesh: 'box',
  start: 'direction',
  direction: [1, 0, 0],
  ...more,
})
const stroke = (more: Loose): Loose => ({ brush: 'comb', radius: 0.3, strength: 1, points: [], ...more })
const combedShot = (more: Loose, place: Loose = {}): Shot =>
  shotOf(
    {},
    { meshes: [{ id: 'box', source: { asset: ASSET }, place, detail: 1000 }], combings: [combing(more)] },
  )

/** Directions at the vertices of a mesh at rest, in its own frame. */
function directionsOf(
  mesh: Mesh,
  more: Loose,
  place: Loose = {},
): { at(v: number): Vector; all: Vector[]; mesh: Mesh } {
  const machine = createMachine()
  const scene = createScene(machine, combedShot(more, place), new Map([[ASSET, mesh]]), new Set(['box']))
  const { directions, body } = scene.combings.of('hair')
  const numbers = machine.heap.f32(directions, body.mesh.positions.length).slice()
  const all = Array.from({ length: numbers.length / 3 }, (_, v) => vectorOf(numbers, v))
  return { at: (v) => all[v]!, all, mesh: body.mesh }
}
/** The vertex nearest to a place. */
const near = (mesh: Mesh, place: Vector): number => {
  const far = Array.from({ length: mesh.positions.length / 3 }, (_, v) => length(subtract(vectorOf(mesh.positions, v), place))) // prettier-ignore
  return far.indexOf(Math.min(...far))
}
const close = (way: Vector, digits = 5) => way.map((x) => expect.closeTo(x, digits))

describe('a combing starts', () => {
  test('along U and V, turned, and the other way', () => {
    const flat = sheet(8, 2)
    // u runs along z, v against x
    const uvs = Float32Array.from(flat.triangles, (v) => v).reduce<number[]>((all, v) => [...all, flat.positions[v * 3 + 2]!, -flat.positions[v * 3]!], []) // prettier-ignore
    const mesh = { ...flat, uvs: new Float32Array(uvs) }
    expect(directionsOf(mesh, { start: 'u' }).at(40)).toEqual(close([0, 0, 1]))
    expect(directionsOf(mesh, { start: 'v' }).at(40)).toEqual(close([-1, 0, 0]))
    expect(directionsOf(mesh, { start: 'v', turn: 180 }).at(40)).toEqual(close([1, 0, 0]))
    const up = vectorOf(new Float32Array([0, 1, 0]), 0)
    const across = directionsOf(mesh, { start: 'u', turn: 90 }).at(40)
    expect(Math.abs(dot(across, [0, 0, 1]))).toBeLessThan(1e-6)
    expect(Math.abs(dot(across, up))).toBeLessThan(1e-6)
    // without texture coordinates there is no U
    expect(directionsOf(flat, { start: 'u' }).all.every((way) => length(way) === 0)).toBe(true)
  })

  test.each([0.01, 1, 200])('down the slope and away from a point as it stands, at %s m', (size) => {
    const place = { rotation: [0, 0, 90], position: [3 * size, 0, 0], scale: [size, size, size] }
    // stood on its edge, what was +x is up: down the slope is −x of its own
    expect(directionsOf(sheet(8, 2), { start: 'slope' }, place).at(40)).toEqual(close([-1, 0, 0]))
    const { all, mesh } = directionsOf(sphere(16), { start: 'away', point: [3 * size, -10 * size, 0] }, { position: [3 * size, 0, 0], scale: [size, size, size] }) // prettier-ignore
    for (const [v, way] of all.entries()) {
      const out = vectorOf(mesh.positions, v)
      if (Math.abs(out[1]) > 0.9) continue
      expect(Math.abs(dot(way, unit(out)))).toBeLessThan(0.02)
      expect(way[1]).toBeGreaterThan(0)
      expect(length(way)).toBeCloseTo(1, 5)
    }
  })

  test('as swirls that lie on the surface, have no sources and follow the seed', () => {
    const ball = sphere(32)
    const { all } = directionsOf(ball, { start: 'noise', scale: 0.5 })
    all.forEach((way, v) => {
      expect(Math.abs(dot(way, unit(vectorOf(ball.positions, v))))).toBeLessThan(0.03)
      expect(length(way)).toBeCloseTo(1, 5)
    })
    expect(all.some(([x]) => x > 0.5) && all.some(([x]) => x < -0.5)).toBe(true)
    expect(directionsOf(ball, { id: 'hair', start: 'noise', scale: 0.1 }).at(99)).not.toEqual(all[99])
  })

  test('lifted off the surface, outward on a mirrored mesh too', () => {
    for (const scale of [
      [1, 1, 1],
      [-1, 1, 1],
      [2, -0.5, -3],
    ]) {
      const { all, mesh } = directionsOf(sphere(24), { direction: [0, 1, 0], lift: 30 }, { scale })
      const sized = (v: number) => vectorOf(mesh.positions, v).map((x, k) => x * scale[k]!) as Vector
      const equator = all.map((_, v) => v).filter((v) => Math.abs(mesh.positions[v * 3 + 1]!) < 0.05)
      for (const v of equator) {
        const [x, , z] = sized(v)
        const out = unit([x / scale[0]! ** 2, 0, z / scale[2]! ** 2])
        expect(dot(all[v]!, out)).toBeCloseTo(0.5, 1)
      }
    }
  })
})

describe('strokes', () => {
  const line = (z: number): Vector[] => [[-0.5, 0, z], [0.5, 0, z]] // prettier-ignore
  const middle: Vector = [0, 0, 0]

  test.each([0.01, 1, 200])('comb where the brush goes, and only there, at %s m', (size) => {
    const place = { scale: [size, size, size] }
    const strokes = [stroke({ radius: 0.3 * size, points: line(0) })]
    const { at, mesh } = directionsOf(sheet(40, 2), { direction: [0, 0, 1], strokes }, place)
    expect(at(near(mesh, middle))).toEqual(close([1, 0, 0], 3))
    expect(at(near(mesh, [0, 0, 0.5]))).toEqual(close([0, 0, 1]))
    // half strength half way out: in between
    const [x, , z] = at(near(mesh, [0, 0, 0.15]))
    expect(x).toBeGreaterThan(0.2)
    expect(z).toBeGreaterThan(0.2)
    // the other way round
    const back = [stroke({ radius: 0.3 * size, points: line(0).reverse() })]
    expect(directionsOf(sheet(40, 2), { strokes: back }, place).at(near(mesh, middle))).toEqual(
      close([-1, 0, 0], 3),
    )
  })

  test('are erased, lifted, straightened and mirrored', () => {
    const flat = sheet(40, 2)
    const m = near(flat, middle)
    const combed = stroke({ points: line(0) })
    const erased = directionsOf(flat, { direction: [0, 0, 1], strokes: [combed, stroke({ brush: 'erase', points: line(0) })] }) // prettier-ignore
    expect(erased.at(m)).toEqual(close([0, 0, 1], 3))
    const lifted = directionsOf(flat, { strokes: [stroke({ brush: 'lift', lift: 60, points: line(0) })] })
    expect(Math.abs(lifted.at(m)[1])).toBeCloseTo(Math.sin(Math.PI / 3), 3)
    expect(lifted.at(near(flat, [0, 0, 0.6]))).toEqual(close([1, 0, 0]))
    // a step from one direction to another becomes smooth under the brush
    const half: Vector[] = [[-0.9, 0, -0.3], [0.9, 0, -0.3]] // prettier-ignore
    const step = [stroke({ points: half, radius: 0.29 }), stroke({ points: half, radius: 0.29 })]
    const bend = (strokes: Loose[]): number => {
      const { at } = directionsOf(flat, { direction: [0, 0, 1], strokes })
      return dot(at(near(flat, [0, 0, -0.1])), at(near(flat, [0, 0, 0])))
    }
    expect(bend([...step, stroke({ brush: 'straighten', points: line(0), radius: 0.4 })])).toBeGreaterThan(bend(step)) // prettier-ignore
    // mirrored along z its twin runs on the other side
    const twins = directionsOf(flat, {
      direction: [0, 0, 1],
      strokes: [stroke({ points: line(0.6), mirror: 'z' })],
    })
    for (const z of [-0.6, 0.6]) expect(twins.at(near(flat, [0, 0, z]))).toEqual(close([1, 0, 0], 3))
    expect(twins.at(m)).toEqual(close([0, 0, 1]))
  })

  test('one after another give what all at once give', () => {
    const flat = sheet(30, 2)
    const strokes = [0, 1, 2].map((k) => stroke({ points: line(0.2 * k - 0.2), radius: 0.4, strength: 0.6, ...(k === 1 && { brush: 'straighten' }) })) // prettier-ignore
    for (const n of [1, 2, 3]) directionsOf(flat, { direction: [0, 0, 1], strokes: strokes.slice(0, n) })
    const grown = directionsOf(flat, { direction: [0, 0, 1], strokes }).all
    const fresh = directionsOf({ ...flat }, { direction: [0, 0, 1], strokes }).all
    expect(grown).toEqual(fresh)
    // a stroke taken back is gone
    const less = directionsOf(flat, { direction: [0, 0, 1], strokes: strokes.slice(0, 1) }).all
    expect(less).toEqual(
      directionsOf({ ...flat }, { direction: [0, 0, 1], strokes: strokes.slice(0, 1) }).all,
    )
  })

  test('that cannot be are refused in words', () => {
    const refused = (more: Loose) =>
      readShot({ ...combedShot({}), combings: [combing(more)] }).problems?.map(({ path, message }) => `${path} ${message}`) // prettier-ignore
    expect(refused({ strokes: [stroke({ brush: 'smear' })] })).toEqual([
      'combings[0].strokes[0].brush must be one of comb, straighten, lift, erase',
    ])
    expect(refused({ strokes: [stroke({ mirror: 'w' })] })).toEqual([
      'combings[0].strokes[0].mirror must be one of x, y, z',
    ])
    expect(refused({ mesh: 'wig' })).toEqual([
      'combings[0].mesh there is no mesh "wig": add it or name another',
    ])
    expect(refused({ start: 'sideways' })![0]).toMatch(/must be one of u, v, direction/)
    const wig = shotOf({}, {})
    const named = readShot({ ...wig, populations: [{ ...wig.populations[0]!, influences: [acting('follow', { combing: 'wig' })] }] }) // prettier-ignore
    expect(named.problems).toEqual([
      {
        path: 'populations[0].influences[0].combing',
        message: 'there is no combing "wig": add it or name another',
      },
    ])
  })
})

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

  test('an edit of a combing counts from the first frame', () => {
    const before = combedShot({})
    const after = combedShot({ strokes: [stroke({ points: [[0, 0, 0]] })] })
    expect(firstChangedFrame(before, after)).toBe(1)
    expect(firstChangedFrame(before, combedShot({}))).toBeNull()
  })
})
