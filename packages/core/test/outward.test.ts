/** Meshes that face inward, wholly or in part, are turned outward; mirrored ones have their inside inside. */
import { createMachine } from '@tangle/kernels'
import { createScene } from '../src/simulation/scene.ts'
import { shadedRest } from '../src/scene/shadedMesh.ts'
import { facingOutward } from '../src/geometry/outward.ts'
import { areaVector, meshFacts, turnedOver, type Mesh } from '../src/geometry/mesh.ts'
import { volumeOf } from '../src/scene/solidCut.ts'
import { weld } from '../src/geometry/weld.ts'
import { acting, ASSET, box, burst, column, runTo, sheet, shotOf, sphere, start } from './help.ts'

const over = (mesh: Mesh): Mesh => ({ ...mesh, triangles: turnedOver(mesh.triangles) })
const moved = (mesh: Mesh, by: number, size = 1): Mesh => ({
  ...mesh,
  positions: mesh.positions.map((x) => x * size + by),
})
function joined(...meshes: Mesh[]): Mesh {
  let first = 0
  return weld({
    positions: Float32Array.from(meshes.flatMap((mesh) => [...mesh.positions])),
    triangles: Uint32Array.from(
      meshes.flatMap(({ positions, triangles }) => {
        const own = Array.from(triangles, (v) => v + first)
        first += positions.length / 3
        return own
      }),
    ),
  })
}
const volume = (mesh: Mesh): number => volumeOf(mesh)

describe('turned outward', () => {
  test.each([1, 0.003, 400])('what is right stays the very same, of size %d', (size) => {
    for (const mesh of [box(), sphere(9), sheet(4, 2), over(sheet(4, 2)), joined(box(), moved(box(), 5))]) {
      const own = moved(mesh, 0, size)
      expect(facingOutward(own)).toBe(own)
    }
  })

  test.each([1, 0.003, 400])('a closed mesh that looks inward, of size %d', (size) => {
    const mesh = moved(sphere(9), 0, size)
    const found = facingOutward(over(mesh))
    expect([...found.triangles]).toEqual([...mesh.triangles])
    expect(meshFacts(found).turned).toBe(mesh.triangles.length / 3)
  })

  test('single triangles that look the other way than the rest, with their texture coordinates', () => {
    const mesh = sphere(9)
    const uvs = Float32Array.from({ length: mesh.triangles.length * 2 }, (_, k) => k)
    const mixed = { ...mesh, uvs: uvs.slice(), triangles: mesh.triangles.slice() }
    for (const t of [3, 17, 40]) {
      mixed.triangles.set(
        [1, 2].map((k) => mesh.triangles[t * 3 + 3 - k]!),
        t * 3 + 1,
      )
      mixed.uvs.set(uvs.subarray(t * 6 + 4, t * 6 + 6), t * 6 + 2)
      mixed.uvs.set(uvs.subarray(t * 6 + 2, t * 6 + 4), t * 6 + 4)
    }
    const found = facingOutward(mixed)
    expect([...found.triangles]).toEqual([...mesh.triangles])
    expect([...found.uvs!]).toEqual([...uvs])
    expect(found.turned).toBe(3)
  })

  test('a part beside another one is turned by itself', () => {
    const found = facingOutward(joined(sphere(9), over(moved(box(), 5))))
    expect(found.turned).toBe(12)
    expect(volume(found)).toBeCloseTo(volume(sphere(9)) + 1, 4)
  })

  test('a cavity stays one, whichever way the vessel came', () => {
    const vessel = joined(moved(box(), 0, 3), over(box()))
    expect(volume(vessel)).toBeCloseTo(26, 4)
    expect(facingOutward(vessel)).toBe(vessel)
    expect(volume(facingOutward(over(vessel)))).toBeCloseTo(26, 4)
  })

  test('of two skins, as what is seen from both sides may have, one is left out', () => {
    const uvs = (mesh: Mesh) => Float32Array.from({ length: mesh.triangles.length * 2 }, (_, k) => k)
    for (const doubled of [
      joined(sphere(9), over(sphere(9))),
      joined(over(sphere(9)), sphere(9)),
      joined(box(), box()),
    ]) {
      // prettier-ignore
      const found = facingOutward({ ...doubled, uvs: uvs(doubled) })
      expect(found.triangles.length).toBe(doubled.triangles.length / 2)
      expect(found.uvs!.length).toBe(found.triangles.length * 2)
      expect(meshFacts(found)).toMatchObject({
        doubled: doubled.triangles.length / 6,
        openEdges: 0,
        crowdedEdges: 0,
      })
      expect(volume(found)).toBeGreaterThan(0.9)
    }
    // a sheet that has both its sides keeps them
    const paper = joined(sheet(4, 2), over(sheet(4, 2)))
    expect(facingOutward(paper)).toBe(paper)
  })

  test('what is open, crowded or has one side alone stays as it is', () => {
    const open = { ...over(box()), triangles: over(box()).triangles.slice(3) }
    expect(facingOutward(open)).toBe(open)
    // a band with half a turn (Möbius) has open rims; the plane of Klein's bottle can't be closed without crossing
    const around = 12
    const corner = (i: number, side: number): number => (i < around ? i * 2 + side : side === 0 ? 1 : 0)
    const band: Mesh = {
      positions: Float32Array.from(
        Array.from({ length: around * 2 }, (_, v) => {
          const turn = (Math.floor(v / 2) / around) * 2 * Math.PI
          const out = 2 + (v % 2 === 0 ? -0.5 : 0.5) * Math.cos(turn / 2)
          return [out * Math.cos(turn), (v % 2 === 0 ? -0.5 : 0.5) * Math.sin(turn / 2), out * Math.sin(turn)]
        }).flat(),
      ),
      triangles: Uint32Array.from(
        Array.from({ length: around }, (_, i) => [
          ...[corner(i, 0), corner(i + 1, 0), corner(i, 1)],
          ...[corner(i, 1), corner(i + 1, 0), corner(i + 1, 1)],
        ]).flat(),
      ),
    }
    expect(facingOutward(band)).toBe(band)
  })

  test('of thousands of parts that all look inward each is turned, in seconds', () => {
    const parts = joined(...Array.from({ length: 3000 }, (_, k) => over(moved(box(), k * 2, 0.5))))
    const found = facingOutward(parts)
    expect(found.turned).toBe(3000 * 12)
  })
})

/** Births in a vessel, or all over it, that gravity draws on. */
function fall(side: 'inside' | 'outside', scale: number[], deform: object[]) {
  const influences = [acting('gravity'), acting('collide', { mesh: 'box', side })]
  const births = [burst({ kind: side === 'inside' ? 'volume' : 'surface', amount: { burst: 1500, at: 1 } })]
  const meshes = [{ id: 'box', source: { asset: ASSET }, place: { scale }, deform }]
  return runTo(start(shotOf({ births, influences }, { meshes }), sphere(14)), 30)
}

describe.each([[[-1, 1, 1]], [[-1, -1, -1]], [[2, -0.5, 1]]])('a ball mirrored by %j', (scale) => {
  test.each([
    ['that keeps its shape', []],
    ['that ripples', [{ id: 'r', kind: 'ripple' }]],
  ])('%s: who is inside stays inside, who is outside stays outside', (_, deform) => {
    const inside = fall('inside', scale, deform)
    const heights = column(inside, 'position').filter((_, k) => k % 3 === 1)
    expect(Math.min(...heights)).toBeGreaterThan(-1.2 * Math.abs(scale[1]!))
    expect(inside.measures().populations[0]!.contact!.inside).toBe(0)
    const outside = fall('outside', scale, deform)
    const fallen = column(outside, 'position').filter((y, k) => k % 3 === 1 && y < -1.5)
    expect(fallen.length).toBeGreaterThan(700)
    expect(outside.measures().populations[0]!.contact!.inside).toBe(0)
  })
})

describe('meshes that leave the simulation, mirrored', () => {
  const TOP = { id: 'top', kind: 'slab', position: [0, 0.3, 0], direction: [0, -1, 0], soft: 0.1 }
  const RIPPLES = [{ id: 'r', kind: 'ripple', amount: 0.02 }]
  test.each([
    ['eaten', { eaten: { mask: 'top', level: 0.5 } }, [1, 1, 1]],
    ['eaten, with a wall', { eaten: { mask: 'top', level: 0.5, thickness: 0.05 } }, [-1, 1, 1]],
    [
      'eaten, with a wall and ripples',
      { eaten: { mask: 'top', level: 0.5, thickness: 0.05 }, deform: RIPPLES },
      [2, -2, 2],
    ],
    ['not eaten yet, with ripples', { eaten: { mask: 'top', level: 1 }, deform: RIPPLES }, [-1, -1, -1]],
  ])('%s: triangles and normals look outward', (_, more, scale) => {
    const mesh = { id: 'box', source: { asset: ASSET }, place: { scale }, ...more }
    const shot = shotOf(
      { births: [burst({ amount: { burst: 10, at: 1 } })] },
      { meshes: [mesh], masks: [TOP] },
    )
    const [live] = start(shot, sphere(14)).meshes()
    // about a point within, what looks outward makes a positive volume, a wall a small one
    expect(volume(live!)).toBeGreaterThan(0)
    const machine = createMachine()
    const { bodies, masks } = createScene(machine, shot, new Map([[ASSET, sphere(14)]]), new Set(['box']))
    const shaded = shadedRest(bodies.get('box')!, masks, 1)
    let inward = 0
    for (let t = 0; t < shaded.triangles.length; t += 3) {
      const [x, y, z] = areaVector(shaded, t / 3)
      const v = shaded.triangles[t]! * 3
      if (x * shaded.normals[v]! + y * shaded.normals[v + 1]! + z * shaded.normals[v + 2]! < 0) inward++
    }
    expect(inward).toBe(0)
    expect(volume(shaded)).toBeCloseTo(volume(live!), 5)
  })
})
