/** Directions on meshes: what they start as and what strokes make of them. */
import { dot, length, unit, vectorOf, type Vector } from '../src/math/vector.ts'
import { readShot, type Mesh } from '../src/index.ts'
import { close, combedShot, combing, directionsOf, near, stroke, type Loose } from './combingHelp.ts'
import { acting, sheet, shotOf, sphere } from './help.ts'

/** Texture coordinates of a sheet: u runs along z, v against x. */
const alongZ = ({ positions, triangles }: Mesh, wide = 1): Float32Array =>
  new Float32Array(Array.from(triangles).flatMap((v) => [positions[v * 3 + 2]! / wide, -positions[v * 3]! / wide])) // prettier-ignore

describe('a combing starts', () => {
  test('along U and V, turned, and the other way', () => {
    const flat = sheet(8, 2)
    const mesh = { ...flat, uvs: alongZ(flat) }
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

  test.each([1e-6, 1e-3, 500])('as well on a mesh of %s m with fine triangles', (wide) => {
    const flat = sheet(60, wide)
    const mesh = { ...flat, uvs: alongZ(flat, wide) }
    expect(directionsOf(mesh, { start: 'u' }).at(1800)).toEqual(close([0, 0, 1]))
    const { all } = directionsOf(mesh, { start: 'noise', scale: Math.max(0.0001, wide / 3) })
    expect(all.filter((way) => Math.abs(length(way) - 1) < 1e-4).length).toBeGreaterThan(0.99 * all.length)
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

  test('go as far as the pen is pressed at each place, with their twins, and evenly between', () => {
    const flat = sheet(40, 2)
    const pressed = { points: line(0.5), pressures: [0, 1], radius: 0.2, mirror: 'z' }
    const { at } = directionsOf(flat, { direction: [0, 0, 1], strokes: [stroke(pressed)] })
    for (const z of [0.5, -0.5]) {
      const alongX = [-0.5, 0, 0.5].map((x) => at(near(flat, [x, 0, z]))[0])
      expect(alongX[0]).toBeLessThan(0.35)
      // half way the direction is the mean of both, of unit length
      expect(alongX[1]).toBeCloseTo(Math.SQRT1_2, 1)
      expect(alongX[2]).toBeCloseTo(1, 2)
    }
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

  test('of twenty thousand places on forty thousand vertices are brushed, and none is lost', () => {
    const long = Array.from({ length: 20_000 }, (_, k): Vector => [
      Math.sin(k * 0.01),
      0,
      Math.cos(k * 0.0173),
    ])
    const { all } = directionsOf(sheet(200, 2), {
      direction: [0, 0, 1],
      strokes: [stroke({ points: long, radius: 0.05 })],
    })
    expect(all.every((way) => Math.abs(length(way) - 1) < 1e-5)).toBe(true)
    // a hair's breadth of a brush over a thousand kilometres
    const absurd = [[-1e6, 0, 0], [1e6, 0, 0]] as Vector[] // prettier-ignore
    expect(
      directionsOf(sheet(10, 2), { strokes: [stroke({ points: absurd, radius: 1e-6 })] }).all,
    ).toHaveLength(121)
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
