/** Meshes cut by others, and what is born on the cut. */
import { createMachine } from '@tangle/kernels'
import {
  checkFrame,
  checkShot,
  createScene,
  createSimulation,
  readShot,
  readyFor,
  sourceKey,
  weld,
  type Mesh,
  type Shot,
  type Simulation,
} from '../src/index.ts'
import { loadManifold } from '../src/geometry/manifold.ts'
import { solidCut, volumeOf, type SolidCut } from '../src/scene/solidCut.ts'
import { asset, box, runTo, sheet, shotOf, sphere } from './help.ts'

type Loose = Record<string, unknown>
const [WHOLE, TOOL] = [asset(1), asset(2)]

beforeAll(() => loadManifold())

function cutShot(
  cut: Loose,
  whole: Loose = {},
  tool: Loose = {},
  population: Loose = {},
  rest: Loose = {},
): Shot {
  return shotOf(
    {
      births: [{ id: 'b', kind: 'cut', mesh: 'whole', into: 'Loose', amount: { rate: 2000 } }],
      ...population,
    },
    {
      meshes: [
        { id: 'whole', source: { asset: WHOLE }, cut: { by: 'tool', ...cut }, ...whole },
        { id: 'tool', source: { asset: TOOL }, visible: false, ...tool },
      ],
      ...rest,
    },
  )
}
const meshesOf = (whole: Mesh, tool: Mesh): Map<string, Mesh> => new Map([[WHOLE, whole], [TOOL, tool]]) // prettier-ignore
function cutOf(whole: Mesh, tool: Mesh, cut: Loose, places: [Loose, Loose], frame = 1): SolidCut {
  const shot = cutShot(cut, { place: places[0] }, { place: places[1] })
  const { bodies } = createScene(createMachine(), shot, meshesOf(whole, tool), new Set(['whole', 'tool']))
  return solidCut(bodies.get('whole')!, bodies.get('tool')!, shot.meshes[0]!.cut!, frame)!
}
async function begin(shot: Shot, whole: Mesh, tool: Mesh): Promise<Simulation> {
  await readyFor(shot)
  return createSimulation(createMachine(), shot, meshesOf(whole, tool))
}
/** Half-edges without their twin. */
function openEdges({ triangles }: Pick<Mesh, 'triangles'>): number {
  const ways = new Map<string, number>()
  for (let c = 0; c < triangles.length; c++) {
    const [a, b] = [triangles[c]!, triangles[c % 3 === 2 ? c - 2 : c + 1]!]
    ways.set(`${a} ${b}`, (ways.get(`${a} ${b}`) ?? 0) + 1)
  }
  return [...ways].filter(([key, n]) => ways.get(key.split(' ').reverse().join(' ')) !== n).length
}
const placesOf = (run: Simulation): number[][] => {
  const { position } = run.populations()[0]!.columns
  return Array.from({ length: position!.length / 3 }, (_, i) => [...position!.subarray(i * 3, i * 3 + 3)])
}

describe('the volumes of two balls', () => {
  const ball = sphere(40)
  const whole = volumeOf(ball)
  test.each([0.05, 0.4, 0.9, 1.3, 1.7, 1.95, 2.2])('at %s radii from one another', (far) => {
    // 1 cm to 300 m, near and far from the origin, in a direction without a pattern
    for (const [size, away] of [
      [0.01, 0],
      [1, 3],
      [300, 1000],
    ] as const) {
      const at = [away, away / 2, 0]
      const way = [0.48, 0.6, -0.64].map((x, k) => x * far * size + at[k]!)
      const scale = [size, size, size]
      const places: [Loose, Loose] = [
        { position: at, scale },
        { position: way, scale, rotation: [20, 50, 10] },
      ]
      const [rest, common] = ['rest', 'common'].map((keep) => cutOf(ball, ball, { keep }, places)) as [SolidCut, SolidCut] // prettier-ignore
      // kept and cut make the whole
      expect((rest.left + common.left) / rest.volume).toBeCloseTo(1, 5)
      expect(rest.volume / (whole * size ** 3)).toBeCloseTo(1, 4)
      // the lens of two balls of radius 1 (e.g. Polyanin, Manzhirov 2007): π(4 + d)(2 − d)²/12, here of balls with flat faces
      const lens = far >= 2 ? 0 : (Math.PI * (4 + far) * (2 - far) ** 2) / 12
      expect(Math.abs(common.left / (size ** 3 * whole) - lens / ((4 * Math.PI) / 3))).toBeLessThan(0.006)
      for (const { positions, triangles } of [rest, common]) {
        expect(openEdges({ triangles })).toBe(0)
        expect(volumeOf({ positions, triangles }) / size ** 3).toBeCloseTo((positions === rest.positions ? rest : common).left / size ** 3, away > 100 ? 2 : 4) // prettier-ignore
      }
      // faces of the cut lie on the other ball
      for (let c = rest.inner * 3; c < rest.triangles.length; c++) {
        const v = rest.triangles[c]! * 3
        const d = Math.hypot(...way.map((x, k) => rest.positions[v + k]! - x)) / size
        expect(Math.abs(d - 1)).toBeLessThan(0.006)
      }
    }
  })
})

describe('births on the cut', () => {
  test.each([0.02, 1, 60])('are even over the disc that a slab lays open in a ball of %s m', async (size) => {
    const [scale, wide] = [[size, size, size], [3 * size, 3 * size, 3 * size]] // prettier-ignore
    // the slab's left side stands at x = 0.3 radii
    const shot = cutShot({}, { place: { scale } }, { place: { scale: wide, position: [1.8 * size, 0, 0] } }, { births: [{ id: 'b', kind: 'cut', mesh: 'whole', into: 'Loose', amount: { rate: 24000, to: 3 }, speed: size, aim: 'normal' }] }) // prettier-ignore
    const run = runTo(await begin(shot, sphere(48), box()), 3)
    const places = placesOf(run)
    expect(places.length).toBe(2000)
    const radius = Math.sqrt(1 - 0.3 ** 2) * size
    expect(run.measures().cuts![0]!.area / (Math.PI * radius ** 2)).toBeCloseTo(1, 2)
    const velocity = run.populations()[0]!.columns.velocity!
    // they set out from the rest into what cuts
    places.forEach((_, i) => expect(velocity[i * 3]! / size).toBeCloseTo(1, 4))
    // even over a disc, the square of the distance from its middle is: ten rings of the same area, χ² below 27.9 in 999 of 1000
    const rings = new Array<number>(10).fill(0)
    for (const [, y, z] of places) rings[Math.min(9, Math.floor((10 * (y! ** 2 + z! ** 2)) / radius ** 2))]!++
    expect(rings.reduce((sum, n) => sum + (n - 200) ** 2 / 200, 0)).toBeLessThan(27.9)
  })

  test('stay on it while both move, turn and wobble, and take the velocity of what cuts', async () => {
    const shot = cutShot(
      {},
      { place: { rotation: [0, { keys: [[1, 0], [49, 90]] }, 0] } },
      { place: { position: [{ keys: [[1, 1.6], [49, -1.2]] }, 0.1, 0] }, deform: [{ id: 'w', kind: 'noise', amount: 0.1, scale: 0.5, change: 1 }] },
      { births: [{ id: 'b', kind: 'cut', mesh: 'whole', into: 'Loose', amount: { rate: 4800 }, inherit: 1 }], particle: { radius: 0.01, density: 1000, lifespan: 1 } },
    ) // prettier-ignore
    const run = await begin(shot, sphere(24), sphere(20))
    const machine = createMachine()
    const { bodies } = createScene(
      machine,
      run.shot,
      meshesOf(sphere(24), sphere(20)),
      new Set(['whole', 'tool']),
    )
    let born = 0
    for (let frame = 2; frame < 49; frame += 1) {
      runTo(run, frame)
      const places = placesOf(run)
      born += places.length
      // the cut at that moment: nobody is farther from it than it goes in a frame
      const cut = solidCut(bodies.get('whole')!, bodies.get('tool')!, run.shot.meshes[0]!.cut!, frame)
      if (!cut || places.length === 0) continue
      for (const [k, place] of places.entries()) {
        if (k % 20 > 0) continue
        let nearest = Infinity
        for (let c = cut.inner * 3; c < cut.triangles.length; c++) {
          const v = cut.triangles[c]! * 3
          nearest = Math.min(nearest, Math.hypot(...place.map((x, axis) => x - cut.positions[v + axis]!)))
        }
        expect(nearest).toBeLessThan(0.25)
      }
    }
    expect(born).toBeGreaterThan(4000)
    const { velocity } = run.populations()[0]!.columns
    const mean = velocity!.reduce((sum, x, k) => (k % 3 === 0 ? sum + x : sum), 0) / (velocity!.length / 3)
    expect(mean).toBeCloseTo((-2.8 / 48) * 24, 0)
  })

  test('are none before it cuts, and go on after a resume to the bit', async () => {
    const shot = cutShot({ keep: 'common' }, {}, { place: { position: [{ keys: [[1, 3], [25, 0.5]] }, 0, 0] } }) // prettier-ignore
    const run = runTo(await begin(shot, sphere(16), box()), 8)
    expect(placesOf(run)).toHaveLength(0)
    runTo(run, 20)
    const snapshot = run.snapshot()
    const straight = runTo(run, 26).fingerprint()
    expect(placesOf(run).length).toBeGreaterThan(100)
    const again = createSimulation(createMachine(), shot, meshesOf(sphere(16), box()), { from: snapshot })
    expect(runTo(again, 26).fingerprint()).toBe(straight)
    // frames carry what is left, closed
    const [mesh] = run.meshes()
    expect(mesh!.id).toBe('whole')
    expect(openEdges(mesh!)).toBe(0)
  })
})

describe('what is no solid', () => {
  const saysOf = async (whole: Mesh, tool: Mesh): Promise<string[]> => {
    const shot = cutShot({}, {}, { place: { position: [0.4, 0.3, 0.2] } })
    const run = await begin(shot, whole, tool)
    return checkFrame(shot, run.measures(), 1).map(({ title, text }) => `${title}. ${text}`)
  }
  const inverted = (mesh: Mesh): Mesh => ({ ...mesh, triangles: mesh.triangles.slice().reverse() })

  test('is told with its edges, and stays whole', async () => {
    expect(await saysOf(sphere(12), box())).toEqual([])
    expect((await saysOf(sheet(4, 2), box()))[0]).toMatch(/whole is not cut/)
    expect((await saysOf(inverted(sphere(12)), box()))[0]).toMatch(/inside out/)
    expect((await saysOf(sphere(12), inverted(box())))[0]).toMatch(
      /whole is not cut.*tool is no solid: it is inside out/,
    )
    // two boxes that share an edge
    const [a, b] = [box(), { ...box(), positions: box().positions.map((x, k) => (k % 3 < 2 ? x + 1 : x)) }]
    const both = weld({
      positions: new Float32Array([...a.positions, ...b.positions]),
      triangles: new Uint32Array([
        ...a.triangles,
        ...Array.from(b.triangles, (v) => v + a.positions.length / 3),
      ]),
    })
    expect((await saysOf(both, sphere(8)))[0]).toMatch(/1 of its edges have more than two sides/)
    const whole = await begin(cutShot({}), sheet(4, 2), box())
    expect(whole.meshes()[0]!.triangles).toHaveLength(sheet(4, 2).triangles.length)
  })

  test('an open bowl is closed by lids; what goes through itself is told', async () => {
    const ball = sphere(24)
    const kept = Array.from({ length: ball.triangles.length / 3 }, (_, t) => [...ball.triangles.subarray(t * 3, t * 3 + 3)]).filter((t) => t.every((v) => ball.positions[v * 3 + 1]! < 0.3)) // prettier-ignore
    const bowl = weld({ positions: ball.positions, triangles: new Uint32Array(kept.flat()) })
    expect(await saysOf(bowl, box())).toEqual([])
    const cut = cutOf(bowl, box(), {}, [{}, { position: [0.9, 0, 0] }])
    expect(cut.left).toBeLessThan(cut.volume)
    expect(openEdges(cut)).toBe(0)
    const [a, b] = [box(), { ...box(), positions: box().positions.map((x) => x + 0.5) }]
    const both = { positions: new Float32Array([...a.positions, ...b.positions]), triangles: new Uint32Array([...a.triangles, ...Array.from(b.triangles, (v) => v + 8)]) } // prettier-ignore
    expect((await saysOf(both, sphere(8)))[0]).toMatch(/whole goes through itself/)
  })

  test('documents that cut what can’t be are refused, and births on no cut are told', () => {
    const refused = (mesh: Loose) => {
      const shot = cutShot({})
      return readShot({ ...shot, masks: [{ id: 'm', kind: 'noise' }], meshes: [{ ...shot.meshes[0], ...mesh }, shot.meshes[1]] }).problems?.map(({ path, message }) => `${path} ${message}`) // prettier-ignore
    }
    expect(refused({ cut: { by: 'whole' } })).toEqual(['meshes[0].cut is by itself: let another mesh cut it'])
    expect(refused({ cut: { by: 'knife' } })).toEqual([
      'meshes[0].cut.by there is no mesh "knife": add it or name another',
    ])
    expect(refused({ eaten: { mask: 'm' } })![0]).toMatch(/beside eaten/)
    expect(refused({ cut: { by: 'tool', keep: 'half' } })![0]).toMatch(/must be one of rest, common/)
    const shot = cutShot({})
    const bare = { ...shot, meshes: shot.meshes.map((mesh) => ({ ...mesh, cut: null })) }
    expect(checkShot(bare, new Map()).map(({ title }) => title)).toContain('dust have no cut to be born on')
    expect(sourceKey(shot.meshes[0]!.source, shot)).toBe(WHOLE)
  })
})
