/** Particles drawn as meshes: which mesh each is, how large, and how it is turned. */
import jStat from 'jstat'
import {
  chooseInstance,
  completeInstances,
  instanceMesh,
  instanceScale,
  meshFacts,
  readShot,
  type Shot,
} from '../src/index.ts'
import { acting, ASSET, box, burst, column, points, runTo, scene, shotOf, start } from './help.ts'

const look = (more = {}) => ({
  draw: 'instances',
  instances: { set: [{ mesh: 'box' }], ...more },
})
const facing = (q: number[]): number[] => {
  const [x, y, z, w] = q as [number, number, number, number]
  return [2 * (x * z + w * y), 2 * (y * z - w * x), 1 - 2 * (x * x + y * y)]
}
const quaternions = (values: number[]): number[][] =>
  Array.from({ length: values.length / 4 }, (_, i) => values.slice(i * 4, i * 4 + 4))

test('each is one of the meshes by weight (χ²), the same one however many there are; weight 0 is never drawn', () => {
  const shot = shotOf({})
  const set = [3, 1, 0, 2].map((weight) => ({ mesh: 'box', weight }))
  const choose = chooseInstance(shot, 'dust', completeInstances({ set }))
  const counts = [0, 0, 0, 0]
  for (let id = 0; id < 6000; id++) counts[choose(id)]!++
  expect(counts[2]).toBe(0)
  const chi = [0, 1, 3].reduce((sum, n) => {
    const due = (set[n]!.weight / 6) * 6000
    return sum + (counts[n]! - due) ** 2 / due
  }, 0)
  expect(1 - jStat.chisquare.cdf(chi, 2)).toBeGreaterThan(0.01)
  const again = chooseInstance(shot, 'dust', completeInstances({ set }))
  expect([5999, 0, 77].map(again)).toEqual([5999, 0, 77].map(choose))
})

test('a mesh lies about the particle as wide as it is, or in its own size; turned, and moved by its offset', () => {
  const shot = shotOf(
    {},
    {
      meshes: [
        {
          id: 'box',
          source: { asset: ASSET },
          place: { position: [9, 9, 9], rotation: [0, 90, 0], scale: [2, 1, 1] },
        },
      ],
    },
  )
  const lies = (more: object) => {
    const instances = completeInstances({ set: [{ mesh: 'box', weight: 1 }], ...more })
    const { low, high } = meshFacts(instanceMesh(box(1, 2, 3), shot.meshes[0]!, instances, 1))
    return [...low, ...high].map((x) => Math.round(x * 1000) / 1000 + 0)
  }
  // 2 × 2 × 3 m; a quarter turn about Y makes it 3 × 2 × 2
  expect(lies({ fit: 'own' })).toEqual([-1.5, -1, -1, 1.5, 1, 1])
  expect(lies({ fit: 'radius' })).toEqual([-1, -0.667, -0.667, 1, 0.667, 0.667])
  expect(lies({ fit: 'own', turn: [0, 0, 90], offset: [0, 1, 0] })).toEqual([-1, 0, -1, 1, 3, 1])
  // mirrored it is as large, and its outside is still outside
  const mirrored = { ...shot.meshes[0]!, place: { ...shot.meshes[0]!.place, scale: [-1, 1, 1] as [number, number, number] } } // prettier-ignore
  const { positions: p, triangles } = instanceMesh(box(), mirrored, completeInstances({ set: [{ mesh: 'box', weight: 1 }] }), 1) // prettier-ignore
  let outward = 0
  for (let t = 0; t < triangles.length; t += 3) {
    const [a, b, c] = [0, 1, 2].map((k) => Array.from(p.slice(triangles[t + k]! * 3, triangles[t + k]! * 3 + 3))) as [number[], number[], number[]] // prettier-ignore
    outward += a[0]! * (b[1]! * c[2]! - b[2]! * c[1]!) - a[1]! * (b[0]! * c[2]! - b[2]! * c[0]!) + a[2]! * (b[0]! * c[1]! - b[1]! * c[0]!) // prettier-ignore
  }
  expect(outward / 6).toBeCloseTo(8, 4)
  expect([instanceScale({ fit: 'radius', size: 2 } as never, 0.1), instanceScale({ fit: 'own', size: 2 } as never, 0.1)]).toEqual([0.2, 2]) // prettier-ignore
})

test('newborn are turned off the surface, as they set out, or evenly at random', () => {
  const at = (turned: string) => {
    const births = [burst({ turned, aim: 'direction', direction: [1, 2, 2], speed: 3 })]
    const simulation = start(shotOf({ births, look: look() }))
    return { turns: quaternions(column(simulation, 'orientation')), places: column(simulation, 'position') }
  }
  const off = at('normal')
  off.turns.forEach((q, i) => {
    const n = facing(q)
    const p = off.places.slice(i * 3, i * 3 + 3)
    // on a cube of side 1 the outward normal is the axis along which the place is ½
    const axis = p.findIndex((x) => Math.abs(Math.abs(x) - 0.5) < 1e-6)
    expect(n[axis]! * Math.sign(p[axis]!)).toBeCloseTo(1, 5)
  })
  for (const q of at('way').turns)
    facing(q).forEach((x, k) => expect(x).toBeCloseTo([1 / 3, 2 / 3, 2 / 3][k]!, 5))
  // fronts even over the sphere: their mean is near 0, and the mean square of each part near ⅓
  const fronts = at('random').turns.map(facing)
  for (const axis of [0, 1, 2]) {
    const parts = fronts.map((n) => n[axis]!)
    expect(Math.abs(parts.reduce((a, b) => a + b) / 1000)).toBeLessThan(0.06)
    expect(parts.reduce((a, b) => a + b * b, 0) / 1000).toBeCloseTo(1 / 3, 1)
  }
})

test('what falls and turns to its way looks along it, with its top up where that is wanted', () => {
  const thrown = (level: string) => {
    const births = [burst({ aim: 'direction', direction: [1, 1, 0], speed: 4, amount: { burst: 3, at: 1 } })]
    const influences = [acting('gravity'), acting('face', { level, halfLife: 0 })]
    const simulation = runTo(start(shotOf({ births, influences, look: look() })), 20)
    const v = column(simulation, 'velocity').slice(0, 3)
    const speed = Math.hypot(...v)
    const q = quaternions(column(simulation, 'orientation'))[0]!
    facing(q).forEach((x, k) => expect(x).toBeCloseTo(v[k]! / speed, 3))
    return q
  }
  thrown('free')
  const [x, y, z, w] = thrown('up') as [number, number, number, number]
  // its X stays level: no part along Y
  expect(2 * (x * y + w * z)).toBeCloseTo(0, 5)
})

test('half of the turn to a direction is done in the half-life', () => {
  const births = [burst({ amount: { burst: 1, at: 1 } })]
  const influences = [acting('face', { to: 'direction', direction: [1, 0, 1], halfLife: 6 })]
  const simulation = runTo(start(shotOf({ births, influences, look: look() })), 7)
  const [x, , z] = facing(quaternions(column(simulation, 'orientation'))[0]!)
  // a chord of 45° is within 2 % of its arc
  expect(Math.atan2(x!, z!) / (Math.PI / 4)).toBeCloseTo(0.5, 1)
})

test('a ball rolls over the floor without slip: it turns by its way over its radius', () => {
  const radius = 0.1
  const simulation = scene([points([0, radius, 0])], {
    particle: { radius, density: 1000 },
    births: [{ id: 'a', kind: 'vertices', mesh: 'a', into: 'Loose', amount: { burst: 'all', at: 1 }, inherit: 0, aim: 'direction', direction: [1, 0, 0], speed: 1 }], // prettier-ignore
    influences: [
      acting('gravity'),
      acting('floor', { friction: 0, sliding: 0, bounce: 0 }),
      acting('tumble', { start: 0 }),
    ],
    look: { draw: 'discs' },
  })
  runTo(simulation, 5)
  const [x] = column(simulation, 'position')
  // about −Z by x/r; the first substep is flown before it is asked what it touches
  const [, , z, w] = column(simulation, 'orientation')
  expect(2 * Math.atan2(-z!, w!)).toBeCloseTo(x! / radius, 1)
})

test('instances without meshes, unknown meshes and wrong weights are refused with the place', () => {
  const read = (instances: unknown, draw = 'instances') =>
    readShot({
      ...(JSON.parse(JSON.stringify(shotOf({}))) as Shot),
      populations: [{ id: 'dust', look: { draw, instances } }],
    }).problems?.map(({ path, message }) => `${path} ${message}`)
  expect(read(null)).toEqual([
    'populations[0].look.instances is missing: name the meshes that they are drawn as',
  ])
  expect(read({ set: [{ mesh: 'bolt' }] })).toEqual([
    'populations[0].look.instances.set[0].mesh there is no mesh "bolt": add it or name another',
  ])
  expect(read({ set: [] })).toEqual([expect.stringContaining('must name at least one mesh')])
  expect(read({ set: [{ mesh: 'box', weight: -1 }] })).toEqual([expect.stringContaining('weight')])
  expect(read({ set: [{ mesh: 'box' }] }, 'balls')).toEqual([
    expect.stringContaining('must be one of points'),
  ])
})
