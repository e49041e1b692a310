/** Masks that ask how far the vertices of a mesh are from another one, moment after moment: as if each moment were the first. */
import { createMachine, type Machine } from '@tangle/kernels'
import { IcosahedronGeometry } from 'three'
import { createScene, weld, type Mesh } from '../src/index.ts'
import { asset, box, shotOf } from './help.ts'

function ball(radius: number): Mesh {
  const positions = new IcosahedronGeometry(radius, 7).getAttribute('position').array as Float32Array
  return weld({ positions, triangles: Uint32Array.from({ length: positions.length / 3 }, (_, i) => i) })
}

/** A ball, and a block that creeps over it, turns, swells and ripples; sizes times `scale`, all `away` metres from the origin. */
function sceneOf(machine: Machine, scale: number, away: number, soft: number, place: object = {}) {
  const shot = shotOf(
    {},
    {
      meshes: [
        { id: 'ball', source: { asset: asset(0) }, detail: 1e5, place: { position: [away, 0, 0] } },
        {
          id: 'block',
          source: { asset: asset(1) },
          detail: 0.4 * scale,
          place: {
            position: [{ keys: [[1, away - 2 * scale], [30, away + scale]] }, 0, 0],
            rotation: [0, { keys: [[1, 0], [30, 80]] }, 20],
            scale: [{ keys: [[1, 1], [30, 1.3]] }, 1, 1],
            ...place,
          },
          deform: [{ id: 'w', kind: 'noise', amount: 0.2 * scale, scale: 0.6 * scale, change: 2 }],
        },
      ],
      masks: [{ id: 'm', kind: 'inside', mesh: 'block', soft: soft * scale }],
    },
  ) // prettier-ignore
  const meshes = new Map([
    [asset(0), ball(scale)],
    [asset(1), box(1.6 * scale, 2.4 * scale, 2.4 * scale)],
  ])
  return createScene(machine, shot, meshes, new Set(['ball', 'block']))
}

test.each([
  ['a metre', 1, 0, 0.05],
  ['millimetres', 0.004, 0, 0.05],
  ['a hundred metres', 100, 0, 0.01],
  ['a metre, five kilometres away', 1, 5000, 0.05],
  ['a wide edge', 1, 0, 0.8],
])('%s: in any order of moments, to the bit', (_, scale, away, soft) => {
  const machine = createMachine()
  const scene = sceneOf(machine, scale, away, soft)
  const frames = [1, 1.5, 2, 2.5, 9, 9.5, 10, 4, 22, 22.5, 23, 30, 16, 16.25]
  let [within, between] = [0, 0]
  for (const frame of frames) {
    const values = scene.masks.atVertices('m', scene.bodies.get('ball')!, frame)
    const fresh = sceneOf(createMachine(), scale, away, soft)
    expect(values).toEqual(fresh.masks.atVertices('m', fresh.bodies.get('ball')!, frame))
    within += values.filter((v) => v === 1).length
    between += values.filter((v) => v > 0 && v < 1).length
  }
  // the block has been over the ball, and its edge on it
  expect(within).toBeGreaterThan(100)
  expect(between).toBeGreaterThan(0)
})

test('what is far is not asked again while the two go less than that', () => {
  const machine = createMachine()
  let asked = 0
  const counting: Machine = {
    ...machine,
    run(kernel, count, values) {
      if (kernel === 'closestPoints') asked += count
      machine.run(kernel, count, values)
    },
  }
  const scene = sceneOf(counting, 1, 0, 0.05)
  const body = scene.bodies.get('ball')!
  const vertices = body.mesh.positions.length / 3
  scene.masks.atVertices('m', body, 8)
  expect(asked).toBe(vertices)
  asked = 0
  for (let k = 1; k <= 20; k++) scene.masks.atVertices('m', body, 8 + k / 20)
  expect(asked).toBeGreaterThan(0)
  expect(asked / 20).toBeLessThan(vertices / 3)
})
