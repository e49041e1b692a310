/** @jest-environment jsdom */
/** What helps to see on the stage: planes of floors, and meshes that are seen through. */
import { Group, Mesh, MeshStandardMaterial, BufferGeometry, type LineSegments } from 'three'
import { ghost } from '../src/stage/ghosting.ts'
import { makePlanes } from '../src/stage/planes.ts'
import { shotOf } from './page.tsx'

describe('planes', () => {
  const floor = (id: string, more: object = {}) => ({ id, kind: 'floor', weights: { Loose: 1 }, ...more })
  /** Ends of the lines that are drawn, each [x, y, z]. */
  function drawn(influences: object[], centre: [number, number, number] = [0, 1, 0], reach = 2): number[][] {
    const planes = makePlanes('#ffffff')
    planes.show(shotOf({ influences }), 1, 1, () => ({ centre, reach }))
    const { array } = (planes.object as LineSegments).geometry.getAttribute('position')
    return Array.from({ length: array.length / 3 }, (_, k) => [...array.slice(k * 3, k * 3 + 3)])
  }

  test('lie at their height under what stands there, and reach a little further', () => {
    const ends = drawn([floor('f', { height: -0.5 })], [10, 3, -4], 2)
    expect(ends.length).toBeGreaterThan(20)
    for (const [x, y, z] of ends) {
      expect(y).toBeCloseTo(-0.5, 5)
      expect(Math.abs(x! - 10)).toBeLessThanOrEqual(3.2 + 1e-4)
      expect(Math.abs(z! + 4)).toBeLessThanOrEqual(3.2 + 1e-4)
    }
  })

  test.each([[[1, 1, 0]], [[-0.3, 1, 0.8]], [[1, 0, 0]], [[0, 0, -1]], [[0, -1, 0]]])(
    'are tilted as they face: %j',
    (direction) => {
      const length = Math.hypot(...direction)
      for (const end of drawn([floor('f', { direction, height: 0.7 })], [1, 2, 3]))
        expect(end.reduce((sum, x, axis) => sum + (x * direction[axis]!) / length, 0)).toBeCloseTo(0.7, 4)
    },
  )

  test('are drawn once for all who meet the same, and not where none acts', () => {
    const one = drawn([floor('a')])
    expect(drawn([floor('a'), floor('b')])).toEqual(one)
    expect(drawn([floor('a'), floor('b', { height: 1 })])).toHaveLength(one.length * 2)
    expect(drawn([floor('a', { muted: true }), floor('b', { weights: {} })])).toEqual([])
  })
})

test('meshes become ghosts and are as they were again, new ones too', () => {
  const group = new Group()
  const add = (material: MeshStandardMaterial): MeshStandardMaterial => {
    group.add(new Mesh(new BufferGeometry(), material))
    return material
  }
  const solid = add(new MeshStandardMaterial())
  const glass = add(new MeshStandardMaterial({ transparent: true, opacity: 0.6 }))
  ghost(group, true)
  expect([solid.opacity, solid.transparent, solid.depthWrite]).toEqual([0.16, true, false])
  const late = add(new MeshStandardMaterial())
  ghost(group, true)
  expect(late.opacity).toBe(0.16)
  // a program for what is opaque would draw it solid
  expect(solid.version).toBeGreaterThan(0)
  ghost(group, false)
  expect([solid.opacity, solid.transparent, solid.depthWrite]).toEqual([1, false, true])
  expect([glass.opacity, glass.transparent]).toEqual([0.6, true])
})
