/** The light of the stage: where it comes from, how far shadows are thrown, where the ground lies, and what meshes are made of. */
import {
  completeInfluence,
  completeMesh,
  completePopulation,
  emptyShot,
  type MeshLook,
  type Shot,
} from '@tangle/core'
import { Box3, BoxGeometry, Mesh, MeshPhysicalMaterial, MeshStandardMaterial, Group, Vector3 } from 'three'
import { groundLevel } from '../src/stage/ground.ts'
import { shadowSphere, towardsLight } from '../src/stage/lighting.ts'
import { castShadows, dress } from '../src/stage/meshLook.ts'

const light = (bearing: number, height: number) =>
  towardsLight({ bearing, height, strength: 1, softness: 1, shade: 1 })

test.each([
  [0, 0, [0, 0, 1]],
  [90, 0, [1, 0, 0]],
  [-90, 0, [-1, 0, 0]],
  [0, 90, [0, 1, 0]],
  [180, 45, [0, Math.SQRT1_2, -Math.SQRT1_2]],
])('light of bearing %d° and height %d° comes from where it says', (bearing, height, from) => {
  light(bearing, height)
    .toArray()
    .forEach((x, axis) => expect(x).toBeCloseTo(from[axis]!, 12))
})

describe('shadows are thrown', () => {
  const cube = (size: number, at = new Vector3()): Box3 =>
    new Box3().setFromCenterAndSize(at, new Vector3(size, size, size))

  test.each([0.001, 0.05, 1, 40, 600])('around a thing of %d m, and little farther', (size) => {
    const box = cube(size)
    const { centre, radius } = shadowSphere({ box, target: new Vector3(), distance: 3 * size })
    for (const corner of [box.min, box.max]) expect(centre.distanceTo(corner)).toBeLessThan(radius * 1.0001)
    expect(radius).toBeLessThan(size * Math.sqrt(3) * 0.5 * 1.21)
  })

  test('no farther than one sees, where something has flown off', () => {
    const box = cube(1).expandByPoint(new Vector3(5000, 0, 0))
    const { radius, centre } = shadowSphere({ box, target: new Vector3(), distance: 4 })
    expect(radius).toBeLessThan(20)
    expect(centre.length()).toBeLessThan(10)
  })

  test('where one looks, when all is far away or nothing is there', () => {
    for (const box of [new Box3(), cube(1, new Vector3(900, 0, 0))]) {
      const { radius, centre } = shadowSphere({ box, target: new Vector3(1, 2, 3), distance: 2 })
      expect(centre.toArray()).toEqual([1, 2, 3])
      expect(Number.isFinite(radius)).toBe(true)
    }
  })

  test('by a sphere that keeps its size while a thing grows a little', () => {
    const radii = new Set([1.0001, 1.01, 1.02, 1.03].map((size) => shadowSphere({ box: cube(size), target: new Vector3(), distance: 5 }).radius)) // prettier-ignore
    expect(radii.size).toBe(1)
  })
})

test('the ground lies on the highest floor that acts and faces up; without one at 0', () => {
  const floor = (id: string, more: object) => completeInfluence({ id, kind: 'floor', ...more }, ['Loose'])
  const on = (...floors: ReturnType<typeof floor>[]): Shot => ({
    ...emptyShot('Ground'),
    populations: [completePopulation({ id: 'dust', influences: floors })],
  })
  expect(groundLevel(on(), 1)).toBe(0)
  expect(groundLevel(on(floor('a', { height: -3 })), 1)).toBe(-3)
  expect(groundLevel(on(floor('a', { height: -3 }), floor('b', { height: 2 })), 1)).toBe(2)
  // tilted, muted, without weight
  expect(groundLevel(on(floor('a', { height: 2, direction: [1, 1, 0] })), 1)).toBe(0)
  expect(groundLevel(on(floor('a', { height: 2, muted: true })), 1)).toBe(0)
  expect(groundLevel(on(floor('a', { height: 2, weights: { Loose: 0 } })), 1)).toBe(0)
  // it rises by keys
  const rising = on(floor('a', { height: { keys: [[1, 0], [11, 5]] } })) // prettier-ignore
  expect(groundLevel(rising, 6)).toBeCloseTo(2.5, 9)
})

describe('the look of a mesh', () => {
  const plain = completeMesh({ id: 'a', source: { asset: `sha256:${'1'.repeat(64)}` } }).look
  const dressed = (look: Partial<MeshLook>, inside = false) => {
    const mesh = new Mesh(new BoxGeometry(), new MeshStandardMaterial())
    dress(mesh, { ...plain, ...look }, inside)
    return mesh
  }

  test('is its colour, roughness, metal and opacity; faces of a cut have their own colour', () => {
    const { material } = dressed({ colour: '#ff0000', roughness: 0.2, metalness: 1 })
    expect([material.color.getHexString(), material.roughness, material.metalness]).toEqual([
      'ff0000',
      0.2,
      1,
    ])
    expect(material.transparent).toBe(false)
    expect(dressed({ inner: '#00ff00' }, true).material.color.getHexString()).toBe('00ff00')
    const half = dressed({ opacity: 0.5 }).material
    expect([half.opacity, half.transparent, half.depthWrite]).toEqual([0.5, true, false])
  })

  test('of glass is another material, and is not when it is none again', () => {
    const mesh = dressed({ glass: 0.9, colour: '#0000ff' })
    expect(mesh.material).toBeInstanceOf(MeshPhysicalMaterial)
    expect((mesh.material as MeshPhysicalMaterial).transmission).toBe(0.9)
    // without it three writes a program that knows no refraction, and nothing is drawn
    expect(mesh.material.defines).toHaveProperty('PHYSICAL')
    expect(mesh.material.color.getHexString()).toBe('0000ff')
    dress(mesh, { ...plain })
    expect(mesh.material).not.toBeInstanceOf(MeshPhysicalMaterial)
  })

  test('by the colours of vertices is white beneath them, and its own where there are none', () => {
    expect(dressed({ colours: 'vertices', colour: '#123456' }).material.color.getHexString()).toBe('123456')
    const mesh = new Mesh(new BoxGeometry(), new MeshStandardMaterial())
    mesh.geometry.setAttribute('color', mesh.geometry.getAttribute('position'))
    dress(mesh, { ...plain, colours: 'vertices' })
    expect([mesh.material.vertexColors, mesh.material.color.getHexString()]).toEqual([true, 'ffffff'])
  })

  test('cut out, it hides what is behind it and throws no shadow; as its shadow, it throws one and hides nothing', () => {
    const [holdout, shadow, seen] = (['holdout', 'shadow', 'seen'] as const).map((drawn) =>
      dressed({ drawn }),
    )
    const group = new Group().add(holdout!, shadow!, seen!)
    castShadows(group, true, false)
    const facts = ({ material, castShadow, renderOrder }: Mesh<BoxGeometry, MeshStandardMaterial>) => [material.colorWrite, material.depthWrite, castShadow, renderOrder < 0] // prettier-ignore
    expect(facts(holdout!)).toEqual([false, true, false, true])
    expect(facts(shadow!)).toEqual([false, false, true, false])
    expect(facts(seen!)).toEqual([true, true, true, false])
    castShadows(group, true, true)
    expect(shadow!.castShadow).toBe(false)
    castShadows(group, false, false)
    expect([seen!.castShadow, seen!.receiveShadow]).toEqual([false, false])
  })
})
