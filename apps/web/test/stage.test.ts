/** What the stage draws of particles that are meshes: three.js objects, without a screen. */
import {
  chooseInstance,
  completeGlow,
  completeInstances,
  completeMesh,
  completePopulation,
  emptyShot,
  pieceNumber,
  type Instances,
  type Look,
  type Mesh,
  type Shot,
} from '@tangle/core'
import {
  Color,
  InstancedMesh,
  Matrix4,
  Quaternion,
  Vector3,
  Vector4,
  type BatchedMesh,
  type ShaderMaterial,
} from 'three'
import { packPopulation } from '../../../packages/runtime/src/browser/packed.ts'
import { drawInstances, type ShownParticles } from '../src/stage/instances.ts'
import { drawBonds } from '../src/stage/bonds.ts'
import { drawPieces } from '../src/stage/pieces.ts'
import { drawPopulation } from '../src/stage/particles.ts'
import { shadesOf } from '../src/stage/shades.ts'

const tetra = (size: number): Mesh => ({
  positions: new Float32Array([0, 0, 0, size, 0, 0, 0, size, 0, 0, 0, size]),
  triangles: new Uint32Array([0, 2, 1, 0, 1, 3, 0, 3, 2, 1, 2, 3]),
})
const asset = (n: number): string => `sha256:${String(n).repeat(64)}`
const set = [{ mesh: 'a', weight: 1 }, { mesh: 'b', weight: 1 }] // prettier-ignore
const instances = completeInstances({ set, size: 2 })
const shot: Shot = {
  ...emptyShot('Stage'),
  meshes: ['a', 'b'].map((id, n) => completeMesh({ id, source: { asset: asset(n) } })),
  populations: [completePopulation({ id: 'dust' })],
}
const look = (more: Partial<Look> = {}, of: Instances = instances): Look => ({
  ...shot.populations[0]!.look,
  draw: 'instances',
  instances: of,
  colour: { from: 'own', range: [0, 1], ramp: 'ember' },
  ...more,
})
const daylight = {
  towards: new Vector3(0, 1, 0),
  seen: new Vector3(0, 1, 0),
  strength: 1,
  around: 1,
  texels: 0,
  shade: 1,
}
const COUNT = 40
const plain = { colours: null, values: null, brights: null }
const [x, w] = [Math.sin(0.4), Math.cos(0.4)]
const frame = packPopulation({
  id: 'dust',
  count: COUNT,
  columns: {
    id: Uint32Array.from({ length: COUNT }, (_, i) => i * 3),
    phase: Uint32Array.from({ length: COUNT }, (_, i) => i % 2),
    position: Float32Array.from({ length: COUNT * 3 }, (_, i) => i),
    radius: new Float32Array(COUNT).fill(0.25),
    opacity: Float32Array.from({ length: COUNT }, (_, i) => (i === 5 ? 0.5 : 1)),
    colour: Float32Array.from({ length: COUNT * 3 }, (_, i) => (i % 3 === 0 ? 1 : 0.25)),
    orientation: Float32Array.from({ length: COUNT * 4 }, (_, i) => [x, 0, 0, w][i % 4]!),
  },
})
const coloured = { colours: frame.colours, values: null }

const showing = (more: Partial<ShownParticles> = {}): ShownParticles => ({
  ...{ shot, population: frame, look: look(), marked: null, phases: null, shades: plain, share: 1 },
  ...more,
})

/** Place, turn and size of each instance, by the id of its particle. */
function drawn(object: { children: unknown[] }) {
  const found = new Map<number, { part: number; size: number; turn: Quaternion; colour: number[]; solid: number }>() // prettier-ignore
  object.children.forEach((child, part) => {
    const mesh = child as InstancedMesh
    for (let k = 0; k < mesh.count; k++) {
      const [place, turn, size, matrix] = [new Vector3(), new Quaternion(), new Vector3(), new Matrix4()]
      mesh.getMatrixAt(k, matrix)
      matrix.decompose(place, turn, size)
      const solid = mesh.geometry.getAttribute('solid').array[k]!
      const colour = Array.from(mesh.instanceColor!.array.slice(k * 3, k * 3 + 3))
      // positions count up, so the place says who it is
      found.set(Math.round(place.x), { part, size: size.x, turn, colour, solid })
    }
  })
  return found
}

test('each particle stands where it is, as its mesh, in its size, turn, colour and opacity', () => {
  const stage = drawInstances((source) => 'asset' in source ? { mesh: tetra(source.asset === asset(0) ? 1 : 5) } : undefined) // prettier-ignore
  expect(stage.show(showing({ marked: 21, shades: coloured }))).toBe(true)
  const found = drawn(stage.object)
  expect(found.size).toBe(COUNT)
  const choose = chooseInstance(shot, 'dust', instances)
  for (let i = 0; i < COUNT; i++) {
    const one = found.get(i * 3)!
    expect([i, one.part]).toEqual([i, choose(i * 3)])
    expect(one.size).toBeCloseTo(0.5, 5)
    expect(Math.abs(one.turn.x * x + one.turn.w * w)).toBeCloseTo(1, 5)
    expect(one.solid).toBeCloseTo(i === 5 ? 0.5 : 1, 2)
    // the seventh is marked
    if (i === 7) expect(one.colour[1]).toBeCloseTo(0.55, 5)
    else expect(one.colour).toEqual([1, 0.25, 0.25])
  }
})

test('phases have colours of their own; a mesh that is not here, or too many triangles, draw nothing', () => {
  const stage = drawInstances(() => ({ mesh: tetra(1) }))
  stage.show(showing({ phases: ['#ff0000', '#0000ff'] }))
  const found = drawn(stage.object)
  expect([found.get(0)!.colour, found.get(3)!.colour]).toEqual([[1, 0, 0], [0, 0, 1]]) // prettier-ignore

  const waiting = drawInstances(() => undefined)
  expect([waiting.show(showing()), waiting.object.visible]).toEqual([false, false])

  const heavy: Mesh = { positions: new Float32Array(9), triangles: new Uint32Array(3 * 160_000) }
  const full = drawInstances(() => ({ mesh: heavy }))
  expect([full.show(showing()), full.object.visible]).toEqual([false, false])
})

test('instances are placed again when something about them changes, not with every picture', () => {
  const stage = drawInstances(() => ({ mesh: tetra(1) }))
  const first = look()
  stage.show(showing({ look: first }))
  const versions = () => stage.object.children.map((child) => (child as InstancedMesh).instanceMatrix.version)
  const before = versions()
  for (let k = 0; k < 5; k++) stage.show(showing({ look: first }))
  expect(versions()).toEqual(before)
  stage.show(showing({ look: first, marked: 21 }))
  expect(versions()).not.toEqual(before)
  const marked = versions()
  stage.show(showing({ population: { ...frame }, look: first, marked: 21 }))
  expect(versions()).not.toEqual(marked)
})

test('of a part of them about so many are placed, always the same ones, and the marked one is among them', () => {
  const stage = drawInstances(() => ({ mesh: tetra(1) }))
  const countOf = (): number =>
    stage.object.children.reduce((sum, child) => sum + (child as InstancedMesh).count, 0)
  const ids = Uint32Array.from({ length: COUNT }, (_, i) => i)
  const counts = [0.25, 0.5, 1].map((part) => {
    stage.show(showing({ population: { ...frame, ids }, share: part }))
    return countOf()
  })
  expect(counts[2]).toBe(COUNT)
  expect(Math.abs(counts[0]! - COUNT / 4)).toBeLessThan(3)
  expect(Math.abs(counts[1]! - COUNT / 2)).toBeLessThan(3)
  stage.show(showing({ population: { ...frame, ids }, marked: 21, share: 1e-9 }))
  // 0 is 0, whatever part is asked for
  expect(countOf()).toBe(2)
})

const none = new Float32Array(0)
const NO_FACES = {
  pairs: new Uint32Array(0),
  areas: none,
  centres: none,
  normals: none,
  axes: none,
  moments: none,
}

test('each piece stands where its particle is, turned and coloured; who is not there is not drawn', () => {
  const [one, other] = [tetra(1), tetra(2)]
  const broken: Mesh = {
    positions: Float32Array.from([...one.positions, ...other.positions.map((p) => p + 5), ...one.positions]),
    triangles: Uint32Array.from([0, 4, 8].flatMap((first) => [...one.triangles].map((v) => v + first))),
    pieces: { starts: Uint32Array.of(0, 4, 8, 12), inner: new Uint8Array(12), seeds: new Float32Array(0), hulls: { firsts: new Uint32Array(4), starts: new Uint32Array(1), points: new Float32Array(0) }, bonds: NO_FACES }, // prettier-ignore
  }
  const stage = drawPieces((source) =>
    'asset' in source && source.asset === asset(1) ? { mesh: broken } : undefined,
  )
  const two = packPopulation({
    id: 'dust',
    count: 2,
    columns: {
      id: Uint32Array.of(4, 9),
      position: Float32Array.of(1, 2, 3, 7, 8, 9),
      orientation: Float32Array.of(x, 0, 0, w, 0, 0, 0, 1),
      colour: Float32Array.of(1, 0.25, 0.25, 0.5, 0.5, 0.5),
      opacity: Float32Array.of(0.6, 1),
      piece: Uint32Array.of(pieceNumber(1, 2), pieceNumber(1, 0)),
    },
  })
  expect(
    stage.show(showing({ population: two, shades: { colours: two.colours, values: null }, marked: 9 })),
  ).toBe(true)
  const [batch] = stage.object.children as [BatchedMesh]
  expect([0, 1, 2].map((k) => batch.getVisibleAt(k))).toEqual([true, false, true])
  const [place, turn, matrix, colour] = [new Vector3(), new Quaternion(), new Matrix4(), new Color()]
  batch.getMatrixAt(2, matrix)
  matrix.decompose(place, turn, new Vector3())
  expect(place.toArray()).toEqual([1, 2, 3])
  expect(Math.abs(turn.x * x + turn.w * w)).toBeCloseTo(1, 4)
  batch.getColorAt(2, colour)
  expect(colour.toArray()).toEqual([1, 0.25, 0.25])
  const solid = new Vector4()
  batch.getColorAt(2, solid)
  expect(solid.w).toBeCloseTo(0.6, 2)
  // the other is marked
  batch.getColorAt(0, colour)
  expect(colour.g).toBeCloseTo(0.55, 5)
  // of a mesh that is not here, and without pieces, nothing is drawn
  const waiting = drawPieces(() => undefined)
  expect([waiting.show(showing({ population: two })), waiting.object.visible]).toEqual([false, false])
  expect(stage.show(showing())).toBe(false)
})

test('bonds run from centre to centre: those that hold by what they bear, broken ones while their ends are near', () => {
  const ends = [[0, 0, 0], [1, 0, 0], [2, 0, 0]] as const // prettier-ignore
  const one = tetra(0.5)
  const broken: Mesh = {
    positions: Float32Array.from(ends.flatMap((end) => [...one.positions].map((p, k) => p + end[k % 3]!))),
    triangles: Uint32Array.from([0, 4, 8].flatMap((first) => [...one.triangles].map((v) => v + first))),
    pieces: {
      starts: Uint32Array.of(0, 4, 8, 12),
      inner: new Uint8Array(12),
      seeds: new Float32Array(0),
      hulls: { firsts: new Uint32Array(4), starts: new Uint32Array(1), points: new Float32Array(0) },
      bonds: { ...NO_FACES, pairs: Uint32Array.of(0, 1, 0, 2, 1, 2), areas: Float32Array.of(1, 1, 1) },
    },
  }
  const colours = { calm: '#000000', strained: '#ffffff', broken: '#ff0000' }
  const stage = drawBonds((source) => ('asset' in source && source.asset === asset(1) ? { mesh: broken } : undefined), colours) // prettier-ignore
  const three = (holding: number[], apart = 0) =>
    packPopulation({
      id: 'dust',
      count: 3,
      columns: {
        id: Uint32Array.of(1, 2, 3),
        position: Float32Array.of(0, 0, 0, 1, 0, 0, 2 + apart, 0, 0),
        piece: Uint32Array.of(pieceNumber(1, 0), pieceNumber(1, 1), pieceNumber(1, 2)),
        bonds: Uint32Array.from(holding),
        stress: Float32Array.of(0.5, 1, 0),
      },
    })
  const shown = (population: ReturnType<typeof three>) => {
    stage.show(shot, population)
    const [positions, tones] = ['position', 'color'].map((name) => [...stage.object.geometry.getAttribute(name).array]) as [number[], number[]] // prettier-ignore
    return Array.from({ length: positions.length / 6 }, (_, k) => ({
      ends: [positions[k * 6], positions[k * 6 + 3]],
      tone: tones.slice(k * 6, k * 6 + 3),
    }))
  }
  // the first piece holds both its bonds, the second has lost its own
  const [near, far, lost] = shown(three([3, 0, 0]))
  expect([near!.ends, far!.ends, lost!.ends]).toEqual([[0, 1], [0, 2], [1, 2]]) // prettier-ignore
  expect(near!.tone).toEqual([0.5, 0.5, 0.5])
  expect(far!.tone).toEqual([0, 0, 0])
  expect(lost!.tone).toEqual([1, 0, 0])
  expect(shown(three([3, 0, 0], 4))).toHaveLength(2)
  stage.show(shot, undefined)
  expect(stage.object.visible).toBe(false)
})

describe('colours by attributes of their own', () => {
  const own = {
    ...frame,
    own: {
      heat: Float32Array.from({ length: COUNT }, (_, i) => i / (COUNT - 1)),
      way: Float32Array.from({ length: COUNT * 3 }, (_, i) => [3, 4, 0][i % 3]!),
      paint: Float32Array.from({ length: COUNT * 3 }, (_, i) => [0.1, 0.2, 0.3][i % 3]!),
    },
  }
  const { attributes } = completePopulation({
    id: 'dust',
    attributes: [
      { id: 'heat', name: 'Heat', type: 'number' },
      { id: 'way', name: 'Way', type: 'vector' },
      { id: 'paint', name: 'Paint', type: 'colour' },
    ],
  } as never)
  const by = (attribute: string) =>
    look({ colour: { from: 'attribute', attribute, range: [0, 1], ramp: { stops: [[0, '#000000'], [1, '#ffffff']] } } }) // prettier-ignore

  test('numbers and lengths of vectors go through the ramp; colours are taken as they are', () => {
    expect(shadesOf(own, by('heat'), attributes).values).toBe(own.own.heat)
    expect(Array.from(shadesOf(own, by('way'), attributes).values!)).toEqual(Array(COUNT).fill(5))
    expect(shadesOf(own, by('paint'), attributes).colours).toBe(own.own.paint)
    expect(shadesOf(own, look({ colour: { from: 'age', range: [0, 1], ramp: 'ember' } }), attributes)).toEqual(plain) // prettier-ignore
    // frames from before the attribute was added have none of it
    expect(shadesOf(frame, by('heat'), attributes)).toEqual(plain)
  })

  test('points are as bright as an attribute says; without it all are alike', () => {
    const glowing = (attribute: string) =>
      look({ glow: completeGlow({ by: 'attribute', attribute, full: 4 }) })
    const cloud = drawPopulation()
    const uniform = (name: string): unknown => (cloud.object.material as ShaderMaterial).uniforms[name]!.value
    const show = (attribute: string) => {
      cloud.show(own, shadesOf(own, glowing(attribute), attributes))
      cloud.setLook(glowing(attribute), daylight, null)
      return [uniform('glowBy'), uniform('full')]
    }
    expect(show('way')).toEqual([4, 4])
    expect(Array.from(cloud.object.geometry.getAttribute('lit').array.slice(0, COUNT))).toEqual(Array(COUNT).fill(5)) // prettier-ignore
    expect(show('heat')).toEqual([4, 4])
    expect(Array.from(cloud.object.geometry.getAttribute('lit').array.slice(0, COUNT))).toEqual(Array.from(own.own.heat)) // prettier-ignore
    expect(show('gone')[0]).toBe(0)
    expect(cloud.object.geometry.getAttribute('lit')).toBeUndefined()
  })

  test('points and instances are drawn in them', () => {
    const cloud = drawPopulation()
    const shades = shadesOf(own, by('heat'), attributes)
    cloud.show(own, shades)
    cloud.setLook(by('heat'), daylight, null)
    expect(Array.from(cloud.object.geometry.getAttribute('chosen').array.slice(0, COUNT))).toEqual(Array.from(own.own.heat)) // prettier-ignore
    const stage = drawInstances(() => ({ mesh: tetra(1) }))
    stage.show(showing({ population: own, look: by('heat'), shades }))
    const found = drawn(stage.object)
    expect(found.get(0)!.colour).toEqual([0, 0, 0])
    expect(found.get((COUNT - 1) * 3)!.colour[0]).toBeCloseTo(1, 5)
    // half grey is lighter in linear light than a quarter
    expect(found.get(20 * 3)!.colour[1]).toBeGreaterThan(found.get(10 * 3)!.colour[1]!)
  })
})
