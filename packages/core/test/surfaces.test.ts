/** Particles that stay on a surface and run over it. */
import type { Mesh } from '../src/index.ts'
import { acting, box, burst, column, runTo, shotOf, sphere, start } from './help.ts'

type Loose = Record<string, unknown>

describe('on a surface', () => {
  test('stays at its offset while it runs over a ball, and goes along with a mesh that moves', () => {
    const over = (mesh: Mesh, place: Loose, influences: Loose[]) =>
      start(
        shotOf(
          { births: [burst({ amount: { burst: 300, at: 1 } })], influences },
          {
            meshes: [{ id: 'box', source: { asset: ASSET_BALL }, place }],
          },
        ),
        mesh,
      )
    const ASSET_BALL = `sha256:${'0'.repeat(64)}`
    const hold = acting('stay', { mesh: 'box', offset: 0.1 })
    const run = runTo(over(sphere(48), {}, [acting('wander', { strength: 8 }), hold]), 60)
    const x = column(run, 'position')
    for (let i = 0; i < 300; i++) expect(Math.abs(Math.hypot(...x.slice(i * 3, i * 3 + 3)) - 1.1)).toBeLessThan(0.005) // prettier-ignore
    expect(run.measures().populations[0]!.speed.median).toBeGreaterThan(0.5)

    const keys = (to: number) => ({ keys: [[1, 0], [241, to]] }) // prettier-ignore
    const still = over(box(), { position: [keys(24), 0, 0], rotation: [0, keys(90), 0] }, [acting('stay', { mesh: 'box' })]) // prettier-ignore
    const before = column(still, 'position')
    const after = column(runTo(still, 121), 'position')
    // half-way: 12 m along, turned by 45°
    const [c, s] = [Math.SQRT1_2, Math.SQRT1_2]
    for (let i = 0; i < 300; i++) {
      const [px, py, pz] = before.slice(i * 3, i * 3 + 3) as [number, number, number]
      const expected = [12 + c * px + s * pz, py, -s * px + c * pz]
      expected.forEach((one, axis) => expect(Math.abs(after[i * 3 + axis]! - one)).toBeLessThan(0.02))
    }
  })

  test('marches along U and V of the texture at its speed, and keeps out of a mask', () => {
    // a square of 2 m in x and z whose u runs along z, and v against x
    const sheet: Mesh = {
      positions: Float32Array.from([-1, 0, -1, 1, 0, -1, 1, 0, 1, -1, 0, 1]),
      triangles: Uint32Array.from([0, 2, 1, 0, 3, 2]),
      uvs: Float32Array.from([0, 1, 1, 0, 0, 0, 0, 1, 1, 1, 1, 0]),
    }
    const marching = (more: Loose, rest: Loose = {}) =>
      start(
        shotOf(
          {
            births: [burst({ amount: { burst: 400, at: 1 }, density: rest.masks ? 'edge' : undefined })],
            influences: [acting('march', { mesh: 'box', strength: 200, speed: 0.5, ...more }), acting('stay', { mesh: 'box' })], // prettier-ignore
          },
          rest,
        ),
        sheet,
      )
    const velocity = (more: Loose): number[] => column(runTo(marching(more), 6), 'velocity').slice(0, 3)
    const close = (...v: number[]) => v.map((x) => expect.closeTo(x, 2))
    expect(velocity({ along: 'u' })).toEqual(close(0, 0, 0.5))
    expect(velocity({ along: 'v' })).toEqual(close(-0.5, 0, 0))
    expect(velocity({ along: 'u', speed: -0.5 })).toEqual(close(0, 0, -0.5))
    expect(velocity({ along: 'direction', direction: [3, 9, 0] })).toEqual(close(0.5, 0, 0))

    const masks = [
      { id: 'edge', kind: 'uv', mesh: 'box', along: 'u', low: -1, high: 0.1, soft: 0 },
      { id: 'rock', kind: 'ball', centre: [0, 0, 0.2], radius: 0.4, soft: 0.15 },
    ]
    const round = marching({ along: 'u', avoid: 'rock' }, { masks })
    // born along the edge where u is at most 0.1
    const first = column(round, 'position').filter((_, k) => k % 3 === 2)
    expect([Math.min(...first) < -0.99, Math.max(...first)]).toEqual([true, expect.closeTo(-0.8, 1)])
    for (let frame = 2; frame <= 120; frame++) {
      const x = column(runTo(round, frame), 'position')
      for (let i = 0; i < x.length; i += 3) expect(Math.hypot(x[i]!, x[i + 2]! - 0.2)).toBeGreaterThan(0.28)
    }
    // they have come past it
    const z = column(round, 'position').filter((_, k) => k % 3 === 2)
    expect(Math.min(...z)).toBeGreaterThan(0.3)
  })
})
