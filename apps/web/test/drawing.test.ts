/** What the stage draws beside points and instances: trails, guides, births to come, meshes, and what is picked. */
import {
  completeInfluence,
  completeMesh,
  completePopulation,
  completeTrail,
  emptyShot,
  INFLUENCES,
  rampTable,
  type Look,
  type Shot,
} from '@tangle/core'
import {
  BufferGeometry,
  Group,
  Mesh,
  PerspectiveCamera,
  Vector3,
  type BufferAttribute,
  type Object3D,
} from 'three'
import { packPopulation } from '../../../packages/runtime/src/browser/packed.ts'
import { makeBirthPoints } from '../src/stage/birthPoints.ts'
import { fromHalf } from '@tangle/runtime/browser'
import { makeGuides } from '../src/stage/guides.ts'
import { drawLiveMeshes } from '../src/stage/liveMeshes.ts'
import { farFirst } from '../src/stage/order.ts'
import { drawPopulation } from '../src/stage/particles.ts'
import { pickParticle } from '../src/stage/picking.ts'
import { createRampTexture } from '../src/stage/rampTexture.ts'
import { rampValueOf, shadesOf } from '../src/stage/shades.ts'
import { drawTrails } from '../src/stage/trails.ts'
import type { Engine } from '../src/engine/engine.ts'
import { Color } from 'three'

const COUNT = 5
/** Particles on a line, each a metre further at every frame. */
const frameAt = (frame: number) =>
  packPopulation(
    {
      id: 'dust',
      count: COUNT,
      columns: {
        id: Uint32Array.from({ length: COUNT }, (_, i) => i),
        phase: new Uint32Array(COUNT),
        position: Float32Array.from({ length: COUNT * 3 }, (_, k) => [frame, Math.floor(k / 3), 0][k % 3]!),
        velocity: new Float32Array(COUNT * 3).fill(2),
        radius: new Float32Array(COUNT).fill(0.1),
        'own.heat': Float32Array.from({ length: COUNT }, (_, i) => i / 4),
        'own.tint': Float32Array.from({ length: COUNT * 3 }, (_, k) => (k % 3 === 1 ? 0.5 : 0)),
      },
    },
    [{ goal: 'there', ids: Uint32Array.of(1, 3), places: new Float32Array([9, 9, 9, 8, 8, 8]) }],
  )
const attributes = [
  { id: 'heat', name: 'Heat', type: 'number', unit: '', birth: { mean: 0, spread: 0 } },
  { id: 'tint', name: 'Tint', type: 'colour', unit: '', birth: { mean: '#000000', spread: 0 } },
] as const
const trail = completeTrail({ length: 4, unit: 'frames' } as never)
const look = (colour: object): Look => ({
  ...completePopulation({ id: 'dust' }).look,
  trail,
  colour: { from: 'speed', range: [0, 4], ramp: 'ember', ...colour },
})
const numbers = (geometry: BufferGeometry, name: string): number[] =>
  Array.from((geometry.getAttribute(name) as BufferAttribute).array)

describe('clouds', () => {
  const shades = { colours: null, values: null, brights: null }
  const own = (object: Object3D, name: string): number[] => numbers((object as Mesh).geometry, name)

  test('a streak is a band of four corners for each, with the way that it came', () => {
    const cloud = drawPopulation(true)
    const steps = new Float32Array(COUNT * 3).fill(1)
    cloud.show(frameAt(2), shades, steps)
    const { geometry } = cloud.object as Mesh
    expect(geometry.drawRange.count).toBe(COUNT * 6)
    expect(Math.max(...geometry.index!.array.slice(0, COUNT * 6))).toBe(COUNT * 4 - 1)
    expect(own(cloud.object, 'came').slice(0, COUNT * 12)).toEqual(new Array(COUNT * 12).fill(1))
    // each corner of the third has its place
    expect(own(cloud.object, 'place').slice(24, 36)).toEqual([2, 2, 0, 2, 2, 0, 2, 2, 0, 2, 2, 0])
    expect(own(cloud.object, 'corner').slice(0, 8)).toEqual([-1, 0, 1, 0, 1, 1, -1, 1])
    // a frame beside it has come: the way is told anew, and the rest is not sent again
    const version = () => (geometry.getAttribute('place') as BufferAttribute).version
    const before = version()
    const population = frameAt(2)
    cloud.show(population, shades, steps)
    const sent = version()
    cloud.show(population, shades, new Float32Array(COUNT * 3).fill(3))
    expect(own(cloud.object, 'came')[0]).toBe(3)
    expect([sent > before, version()]).toEqual([true, sent])
    cloud.show(undefined, shades)
    expect(cloud.object.visible).toBe(false)
  })

  test('soft points are drawn from the farthest to the nearest, layer by layer', () => {
    const places = Float32Array.from({ length: 300 }, (_, k) => Math.sin(k * 12.9898) * 50)
    const ahead = [0.6, 0, -0.8]
    const depth = (i: number): number => places[i * 3]! * 0.6 - places[i * 3 + 2]! * 0.8
    const order = Array.from(farFirst(places, 100, ahead))
    expect(order.toSorted((a, b) => a - b)).toEqual(Array.from({ length: 100 }, (_, i) => i))
    // no nearer one is drawn before one that is farther by more than a layer
    order.slice(1).forEach((i, k) => expect(depth(i)).toBeLessThan(depth(order[k]!) + 150 / 4096))
    // all in one layer: as they come
    expect([...farFirst(new Float32Array(9), 3, ahead)]).toEqual([0, 1, 2])
    expect([...farFirst([], 0, ahead)]).toEqual([])
  })

  test('the chance by which a particle is left out or seen through is its own, whoever dies before it', () => {
    const all = frameAt(1)
    const fewer = { ...all, count: COUNT - 2, ids: all.ids.slice(2) }
    const chances = (population: typeof all): number[] => {
      const cloud = drawPopulation()
      cloud.show(population, shades)
      return own(cloud.object, 'chances').slice(0, population.count * 2)
    }
    expect(chances(fewer)).toEqual(chances(all).slice(4))
    expect(new Set(chances(all)).size).toBeGreaterThan(COUNT)
  })
})

const LIGHT = {
  towards: new Vector3(0, 1, 0),
  seen: new Vector3(0, 1, 0),
  strength: 1,
  around: 1,
  texels: 0,
  shade: 1,
}

describe('trails', () => {
  const frames = new Map([1, 2, 3, 4, 5, 6].map((frame) => [frame, frameAt(frame)]))
  const drawn = (of: Look) => {
    const trails = drawTrails()
    const population = frames.get(6)!
    const shades = shadesOf(population, of, attributes as never)
    const shown = { look: of, population, shades, frame: 6, rate: 24, at: (f: number) => frames.get(f) }
    trails.show({ ...shown, width: 800, height: 600, pixels: 500, light: LIGHT })
    return trails
  }
  const corners = (object: Mesh): number => object.geometry.drawRange.count

  test('a band runs from each particle back through the frames before, facing the camera', () => {
    const { object } = drawn(look({}))
    expect(object.visible).toBe(true)
    // two triangles between neighbouring points of each trail
    expect(corners(object) % (COUNT * 6)).toBe(0)
    const points = corners(object) / (COUNT * 6) + 1
    const place = numbers(object.geometry, 'place')
    const xs = Array.from({ length: points }, (_, k) => place[k * 8]!)
    expect(xs[0]).toBe(6)
    expect(xs).toEqual(xs.toSorted((a, b) => b - a))
    // the two sides of a point are at the same place, on either side
    const way = numbers(object.geometry, 'way')
    for (let k = 0; k < points; k++) expect([way[k * 8 + 3], way[k * 8 + 7]]).toEqual([-1, 1])
    const along = Array.from({ length: points }, (_, k) => place[k * 8 + 3]!)
    expect([along[0], along.at(-1)]).toEqual([0, 1])
    const index = object.geometry.index!.array
    expect(Math.max(...index.slice(0, corners(object)))).toBe(COUNT * points * 2 - 1)
  })

  test.each([
    ['speed', {}, () => [Math.hypot(2, 2, 2), 0]],
    ['a number of their own', { from: 'attribute', attribute: 'heat' }, (i: number) => [i / 4, 0]],
    ['a colour of their own', { from: 'attribute', attribute: 'tint' }, () => [0, 1]],
  ])('are coloured by %s', (_, colour, expected: (i: number) => number[]) => {
    const { object } = drawn(look(colour))
    const shade = numbers(object.geometry, 'shade')
    const vertices = (corners(object) / (COUNT * 6) + 1) * 2
    for (let i = 0; i < COUNT; i++) {
      const [first, , , asColour] = shade.slice(i * vertices * 4, i * vertices * 4 + 4)
      const [value, own] = expected(i) as [number, number]
      expect(first).toBeCloseTo(value, 2)
      expect(asColour).toBe(own)
    }
  })

  test('are laid anew when the frame changes, not with every picture', () => {
    const trails = drawTrails()
    const of = look({})
    const show = (frame: number) =>
      trails.show({ look: of, population: frames.get(frame)!, shades: { colours: null, values: null }, frame, rate: 24, at: (f) => frames.get(f), width: 1, height: 1, pixels: 1, light: LIGHT }) // prettier-ignore
    show(5)
    const version = () => (trails.object.geometry.getAttribute('place') as BufferAttribute).version
    const before = version()
    // the same frame with the same shades object is not laid again
    const shades = { colours: null, values: null }
    trails.show({ look: of, population: frames.get(5)!, shades, frame: 5, rate: 24, at: (f) => frames.get(f), width: 1, height: 1, pixels: 1, light: LIGHT }) // prettier-ignore
    const once = version()
    trails.show({ look: of, population: frames.get(5)!, shades, frame: 5, rate: 24, at: (f) => frames.get(f), width: 2, height: 2, pixels: 2, light: LIGHT }) // prettier-ignore
    expect(version()).toBe(once)
    show(6)
    expect(version()).toBeGreaterThan(before)
    trails.dispose()
  })
})

test('a ramp is written once for all that show it, and anew for another', () => {
  const ramp = createRampTexture()
  ramp.show('ember')
  const { data } = ramp.texture.image as { data: Float32Array }
  const [first, version] = [data.slice(0, 4), ramp.texture.version]
  expect(Array.from(first.subarray(0, 3))).toEqual(Array.from(rampTable('ember').subarray(0, 3)))
  expect(first[3]).toBe(1)
  ramp.show('ember')
  expect(ramp.texture.version).toBe(version)
  ramp.show('snow')
  expect(ramp.texture.version).toBe(version + 1)
  expect(Array.from(data.slice(-4, -1))).toEqual(Array.from(rampTable('snow').subarray(-3)))
})

test('what a ramp reads: age, speed, way or the number that was chosen', () => {
  const packed = frameAt(1)
  const none = { colours: null, values: null }
  expect(rampValueOf(packed, look({}), none)(0)).toBeCloseTo(Math.hypot(2, 2, 2), 2)
  expect(rampValueOf(packed, look({ from: 'travelled' }), none)(0)).toBe(0)
  expect(rampValueOf(packed, look({}), { colours: null, values: Float32Array.of(7, 8, 9, 10, 11) })(3)).toBe(
    10,
  )
})

describe('guides', () => {
  const camera = new PerspectiveCamera()
  const population = frameAt(2)
  const influence = (kind: string, more: object = {}) =>
    completeInfluence({ id: kind, kind, weights: { Loose: 1 }, ...more }, ['Loose'])
  const guided = (more: object) => ({ population: 'dust', influence: undefined, goals: false, ...more })
  const parts = (guides: ReturnType<typeof makeGuides>) => guides.object.children as Mesh[]

  test('ways lead from particles to their goals; of a marked one its own only', () => {
    const guides = makeGuides('#ffffff', '#ff0000')
    guides.show(guided({ goals: true }), [population], null, camera, 2)
    expect(guides.object.visible).toBe(true)
    const [ways, , places] = parts(guides)
    expect(numbers(ways!.geometry, 'position')).toEqual([2, 1, 0, 9, 9, 9, 2, 3, 0, 8, 8, 8])
    expect(numbers(places!.geometry, 'position')).toEqual([9, 9, 9, 8, 8, 8])
    guides.show(guided({ goals: true }), [population], { population: 'dust', id: 3 }, camera, 2)
    expect(numbers(parts(guides)[0]!.geometry, 'position')).toEqual([2, 3, 0, 8, 8, 8])
    guides.show(null, [population], null, camera, 2)
    expect(guides.object.visible).toBe(false)
  })

  test('radii of an influence are rings of just that radius around what they are about', () => {
    const { kind, radii = [] } = INFLUENCES.find((one) =>
      one.radii?.every(({ about }) => about === 'particles'),
    )!
    const guides = makeGuides('#ffffff', '#ff0000')
    const sizes = Object.fromEntries(radii.map(({ of }, n) => [of, 0.5 + n / 4]))
    guides.show(guided({ influence: influence(kind, sizes) }), [population], null, camera, 2)
    const ends = numbers(parts(guides)[1]!.geometry, 'position')
    const each = ends.length / 3 / COUNT / radii.length
    for (let k = 0; k < ends.length / 3; k++) {
      const ring = Math.floor(k / each)
      const centre = new Vector3(2, ring % COUNT, 0)
      const end = new Vector3(...ends.slice(k * 3, k * 3 + 3))
      expect(end.distanceTo(centre)).toBeCloseTo(0.5 + Math.floor(ring / COUNT) / 4, 5)
    }
    // bodies that turn show their axes: longer the faster, none for who is still
    const spins = new Float32Array(COUNT * 3)
    spins.set([0, 0, 2 * Math.PI])
    guides.show(guided({ influence: influence('rigid') }), [{ ...population, spins }], null, camera, 2)
    const axis = numbers(parts(guides)[1]!.geometry, 'position')
    expect(axis.slice(0, 5)).toEqual([2, 0, 0, 2, 0])
    expect(axis[5]! / fromHalf(population.values[0]!)).toBeCloseTo(2, 3)
    expect(axis).toHaveLength(6)
    // an influence without radii shows none
    guides.show(guided({ influence: influence('gravity') }), [population], null, camera, 2)
    expect(numbers(parts(guides)[1]!.geometry, 'position')).toEqual([])
  })
})

test('births to come are points with the way they set out', () => {
  const births = makeBirthPoints('#ffcc00')
  births.show({
    positions: new Float32Array([1, 2, 3, 4, 5, 6]),
    normals: new Float32Array([0, 1, 0, 0, 0, 2]),
    total: 2,
  })
  expect(births.object.visible).toBe(true)
  births.show(null)
  expect(births.object.visible).toBe(false)
})

describe('meshes that change', () => {
  const colours = { low: new Color(), high: new Color(), line: new Color(), other: new Color() }
  const packed = (id: string, x: number) => ({
    id,
    positions: new Float32Array([x, 0, 0, x + 1, 0, 0, x, 1, 0]),
    triangles: new Uint32Array([0, 1, 2]),
    normals: new Float32Array([0, 0, 1, 0, 0, 1, 0, 0, 1]),
  })
  const shot: Shot = {
    ...emptyShot('Live'),
    meshes: ['roof', 'hidden'].map((id, n) => ({
      ...completeMesh({ id, source: { asset: `sha256:${String(n).repeat(64)}` } }),
      visible: id === 'roof',
    })),
    populations: [
      completePopulation({ id: 'snow', influences: [completeInfluence({ id: 'c', kind: 'cover', mesh: 'roof', weights: { Loose: 1 } }, ['Loose'])] }), // prettier-ignore
    ],
  }

  test('are drawn where they are visible, covers before the mesh that they lie on, and go when they are gone', () => {
    const group = new Group()
    const now = [packed('roof', 0), packed('hidden', 5), packed('roof.cover', 1)]
    const engine = { liveMeshes: () => now, meshOf: () => undefined } as unknown as Engine
    const live = drawLiveMeshes(group, engine, colours, 0x888888, () => undefined)
    live.place(shot)
    expect(group.children).toHaveLength(2)
    expect([live.has('roof'), live.has('hidden'), live.has('roof.cover')]).toEqual([true, false, true])
    const [roof, cover] = group.children as Mesh[]
    expect((roof!.material as { polygonOffset: boolean }).polygonOffset).toBe(true)
    expect((cover!.material as { polygonOffset: boolean }).polygonOffset).toBe(false)
    // the same mesh again is left as it is, another one fills the same object
    const version = (roof!.geometry.getAttribute('position') as BufferAttribute).version
    live.place(shot)
    expect((roof!.geometry.getAttribute('position') as BufferAttribute).version).toBe(version)
    now[0] = packed('roof', 3)
    live.place(shot)
    expect(group.children).toContain(roof)
    expect((roof!.geometry.getAttribute('position') as BufferAttribute).array[0]).toBe(3)
    now.length = 0
    live.place(shot)
    expect(group.children).toEqual([])
  })
})

test('the particle under the pointer is picked, of several the nearest to the camera', () => {
  const camera = new PerspectiveCamera(40, 1, 0.1, 100)
  camera.position.set(0, 0, 10)
  camera.lookAt(0, 0, 0)
  camera.updateMatrixWorld()
  const of = packPopulation({
    id: 'dust',
    count: 3,
    columns: {
      id: Uint32Array.of(4, 5, 6),
      phase: new Uint32Array(3),
      position: new Float32Array([0, 0, 0, 0, 0, 5, 3, 0, 0]),
      velocity: new Float32Array(9),
      radius: new Float32Array(3).fill(0.2),
    },
  })
  const box = { width: 400, height: 400 } as DOMRect
  expect(pickParticle([of], camera, { x: 200, y: 200 }, box)).toEqual({ population: 'dust', id: 5 })
  // anywhere on it: a piece is picked by its edge, too
  expect(pickParticle([of], camera, { x: 221, y: 200 }, box)).toEqual({ population: 'dust', id: 5 })
  expect(pickParticle([of], camera, { x: 245, y: 200 }, box)).toBeNull()
  expect(pickParticle([of], camera, { x: 20, y: 380 }, box)).toBeNull()
  expect(pickParticle([], camera, { x: 200, y: 200 }, box)).toBeNull()
})
