/** Rays: what they meet first, against three-mesh-bvh on the Stanford bunny (open data, npm package "bunny"), and what is born there against closed forms. */
import bunny from 'bunny'
import { BufferAttribute, BufferGeometry, DoubleSide, Ray, Vector3 } from 'three'
import { MeshBVH } from 'three-mesh-bvh'
import { meshFacts, weld, type Mesh, type Vector } from '../src/index.ts'
import { randoms } from '../src/math/random.ts'
import { castRays } from '../src/scene/rays.ts'
import { ASSET, asset, box, points, runTo, shotOf, sphere, start } from './help.ts'
import { acts, distance, family, ones, run } from './offspringHelp.ts'

const whole: Mesh = weld({
  positions: new Float32Array((bunny.positions as number[][]).flat()),
  triangles: new Uint32Array((bunny.cells as number[][]).flat()),
})

/** The shot's mesh as a body, somewhere, and the same by the library. */
function both(place: { position: Vector; rotation: Vector; scale: Vector }, deform: object[] = []) {
  const shot = shotOf({}, { meshes: [{ id: 'box', source: { asset: ASSET }, place, deform }], populations: [{ id: 'p', births: [{ id: 'b', kind: 'surface', mesh: 'box', into: 'Loose', amount: { burst: 1, at: 1 } }] }] }) // prettier-ignore
  const { world } = start(shot, whole)
  const body = world.bodies.get('box')!
  const geometry = new BufferGeometry()
  geometry.setAttribute('position', new BufferAttribute(body.worldView(1).slice(), 3))
  geometry.setIndex(new BufferAttribute(body.mesh.triangles.slice(), 1))
  return { machine: world.machine, body, bvh: new MeshBVH(geometry), geometry }
}

test.each([
  ['as it is', [0, 0, 0], [0, 0, 0], [1, 1, 1], []],
  ['small, turned, stretched and mirrored', [3, -2, 1], [30, 110, -70], [0.01, 0.02, -0.01], []],
  ['large and rippling', [-200, 40, 9], [0, 20, 0], [60, 60, 60], [{ id: 'r', kind: 'ripple', amount: 0.2, wavelength: 2 }]],
] as [string, Vector, Vector, Vector, object[]][])('the first hit is that of three-mesh-bvh: a bunny %s', (_, position, rotation, scale, deform) => {
  const { machine, body, bvh, geometry } = both({ position, rotation, scale }, deform)
  geometry.computeBoundingBox()
  const { min, max } = geometry.boundingBox!
  const size = max.clone().sub(min)
  const count = 2000
  const somewhere = (k: number, stream: number): Vector3 => {
    const [a, b, c] = randoms(5, k, stream)
    return new Vector3(a, b, c).multiplyScalar(2).addScalar(-0.5).multiply(size).add(min)
  }
  const [from, to] = [1, 2].map((stream) => Array.from({ length: count }, (_, k) => somewhere(k, stream))) as [Vector3[], Vector3[]]
  const origins = Float32Array.from(from.flatMap((v) => v.toArray()))
  const ways = Float32Array.from(to.flatMap((v, k) => v.clone().sub(from[k]!).toArray()))
  const { shares } = castRays(machine, body, 1, { origins, ways, frames: new Float64Array(count).fill(1) })
  let hits = 0
  let odd = 0
  for (let k = 0; k < count; k++) {
    const way = to[k]!.clone().sub(from[k]!)
    const found = bvh.raycastFirst(new Ray(from[k]!, way.clone().normalize()), DoubleSide)
    const share = found && found.distance <= way.length() ? found.distance / way.length() : 2
    if (share <= 1) hits++
    // along an edge rounding decides
    if (Math.abs(shares[k]! - share) > 1e-3) odd++
  }
  expect(hits).toBeGreaterThan(200)
  expect(odd).toBeLessThanOrEqual(2)
}) // prettier-ignore

/** A ball of radius `r` at a distance, seen from the origin by rays in a cone about −y. */
const scanned = (r: number, far: number, cone: number, more: object = {}, bears: object = {}, others: object[] = []) =>
  family({
    parents: { births: [{ id: 'b', kind: 'vertices', mesh: 'box', into: 'Loose', amount: { burst: 'all', at: 1 }, inherit: 0 }] },
    wake: { influences: [acts('ride')] },
    bears: { mesh: 'ball', laid: 'ray', reach: 10 * far, aim: 'direction', direction: [0, -1, 0], cone, amount: { rate: 24_000 }, stagger: 0, ...bears },
    rest: { meshes: [{ id: 'ball', source: { asset: asset(1) }, place: { position: [0, -far, 0], scale: [r, r, r] }, ...more }, ...others] },
  }) // prettier-ignore

test.each([[1, 3, 40], [0.02, 0.021, 89], [50, 400, 20]])('a ball of radius %d m at %d m: only its visible cap is hit, by as many rays as its solid angle says', (r, far, cone) => {
  const wake = ones(runTo(run(scanned(r, far, cone), points([0, 0, 0]), [sphere(160)]), 13))
  const cast = 12_000
  const angle = (x: number) => 1 - Math.sqrt(1 - x * x)
  const share = angle(r / far) / (1 - Math.cos((cone * Math.PI) / 180))
  // within 1 % and what chance allows
  expect(Math.abs(wake.length / cast - share)).toBeLessThan(0.01 * share + 3 * Math.sqrt((share * (1 - share)) / cast))
  for (const { position } of wake) {
    const middle: Vector = [0, -far, 0]
    expect(Math.abs(distance(position, middle) / r - 1)).toBeLessThan(2e-3)
    // seen from a point: the cap that is higher than r²/d over the middle
    expect((position[1] + far) / r).toBeGreaterThan(r / far - 0.03)
  }
}) // prettier-ignore

test('what stands in the way keeps rays off, and what is born rides on the target', () => {
  const wall = { id: 'wall', source: { asset: asset(2) }, place: { position: [1.2, -1, 0] } }
  const shot = scanned(1, 3, 30, {}, { behind: 'wall' }, [wall])
  const wake = ones(runTo(run(shot, points([0, 0, 0]), [sphere(80), box(2, 0.1, 4)]), 13))
  expect(wake.length).toBeGreaterThan(500)
  // the wall begins at x = 0.2, at a third of the way
  for (const { position } of wake) expect(position[0]).toBeLessThan((0.2 / 1) * -position[1] + 0.02)
  const moving = scanned(1, 3, 30, { place: { position: [{ keys: [[13, 0], [37, 5]] }, -3, 0] } }, { amount: { rate: 2400, to: 12 } }) // prettier-ignore
  const simulation = runTo(run(moving, points([0, 0, 0]), [sphere(80)]), 13)
  const before = ones(simulation)
  runTo(simulation, 37)
  const after = ones(simulation)
  expect(after.length).toBeGreaterThan(50)
  after.forEach(({ id, position }) => {
    const was = before.find((one) => one.id === id)!
    expect(position[0] - was.position[0]).toBeCloseTo(5, 3)
  })
})

test('who meets nothing is not born, and that is no fault', () => {
  expect(
    ones(runTo(run(scanned(1, 3, 30, {}, { direction: [0, 1, 0] }), points([0, 0, 0]), [sphere(20)]), 5)),
  ).toEqual([])
  expect(meshFacts(whole).triangles).toBeGreaterThan(1000)
})

test.each([
  [1, 3],
  [0.02, 0.05],
  [50, 80],
])(
  'rays towards places of a ball of radius %d m at %d m all meet it, where it is seen, as its area asks',
  (r, far) => {
    const shot = scanned(r, far, 0, {}, { aim: 'target', direction: [0, 1, 0], amount: { rate: 8000 } })
    const wake = ones(runTo(run(shot, points([0, 0, 0]), [sphere(60)]), 13))
    // none is lost but for those that graze the outline
    expect(wake.length).toBeGreaterThan(0.985 * 4000)
    let [low, high] = [0, 0]
    for (const { position } of wake) {
      const height = (position[1] + far) / r
      expect(height).toBeGreaterThan(r / far - 0.03)
      if (height > (1 + r / far) / 2) high++
      else low++
    }
    // a ray towards a place at the height h of the ball and one at the outline: both halves of the cap get some, from all around
    expect(Math.min(low, high)).toBeGreaterThan(0.1 * wake.length)
    const mean = wake.reduce((sum, { position }) => sum + position[0] + position[2], 0) / wake.length / r
    expect(Math.abs(mean)).toBeLessThan(0.05)
  },
)
