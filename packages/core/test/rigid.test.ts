/**
 * Contact against a general-purpose physics library, Rapier (@dimforge/rapier3d-compat 0.21, Apache-2.0): the same balls,
 * meshes and coefficients in both. Its balls may not turn, as our particles do not.
 */
import RAPIER from '@dimforge/rapier3d-compat'
import { type Mesh } from '../src/index.ts'
import { acting, asset, box, points, runTo, shotOf, sphere, start } from './help.ts'

const G = 9.80665
const RADIUS = 0.05
beforeAll(() => RAPIER.init())

interface Ball {
  at: [number, number, number]
  velocity: [number, number, number]
}
interface Scene {
  balls: Ball[]
  /** What they hit: a slab of this size, turned about Z by so many degrees, or a globe of radius 1. */
  slab?: [number, number, number]
  tilt?: number
  bounce: number
  friction: number
  seconds: number
}

/** Places of the balls in the end, by the library, in steps of 1/480 s. */
function theirs({ balls, slab, tilt = 0, bounce, friction, seconds }: Scene): number[][] {
  const world = new RAPIER.World({ x: 0, y: -G, z: 0 })
  world.timestep = 1 / 480
  const half = (tilt * Math.PI) / 360
  // solids of its own: over the edges within its meshes balls stumble
  const ground = slab
    ? RAPIER.ColliderDesc.cuboid(slab[0] / 2, slab[1] / 2, slab[2] / 2)
    : RAPIER.ColliderDesc.ball(1)
  world.createCollider(
    ground
      .setRotation({ x: 0, y: 0, z: Math.sin(half), w: Math.cos(half) })
      .setRestitution(bounce)
      .setFriction(friction),
  )
  const bodies = balls.map(({ at: [x, y, z], velocity: [u, v, w] }) => {
    const body = world.createRigidBody(
      RAPIER.RigidBodyDesc.dynamic()
        .setTranslation(x, y, z)
        .setLinvel(u, v, w)
        .lockRotations()
        .setCcdEnabled(true),
    )
    world.createCollider(RAPIER.ColliderDesc.ball(RADIUS).setRestitution(bounce).setFriction(friction), body)
    return body
  })
  for (let n = 0; n < seconds * 480; n++) world.step()
  const places = bodies.map((body) => Object.values(body.translation()))
  world.free()
  return places
}

/** The same by us, at 24 frames of 10 substeps a second. */
function ours({ balls, slab, tilt = 0, bounce, friction, seconds }: Scene): number[][] {
  const shot = shotOf(
    {},
    {
      quality: { substeps: 10 },
      frames: { first: 1, last: 400, rate: 24 },
      meshes: [
        { id: 'ground', source: { asset: asset(9) }, place: { rotation: [0, 0, tilt] } },
        ...balls.map((_, n) => ({ id: `b${n}`, source: { asset: asset(n) } })),
      ],
      populations: [
        {
          id: 'balls',
          particle: { radius: RADIUS, density: 1000 },
          births: balls.map(({ velocity }, n) => ({
            id: `b${n}`,
            kind: 'vertices',
            mesh: `b${n}`,
            into: 'Loose',
            amount: { burst: 'all', at: 1 },
            inherit: 0,
            aim: 'direction',
            direction: velocity.some((v) => v !== 0) ? velocity : [0, 1, 0],
            speed: Math.hypot(...velocity),
          })),
          influences: [
            acting('gravity'),
            acting('collide', { mesh: 'ground', bounce, friction, sliding: friction, side: 'outside' }),
            acting('selfCollision', { bounce, friction, sliding: friction }),
          ],
        },
      ],
    },
  )
  const meshes = new Map([[asset(9), slab ? box(...slab) : sphere(120)], ...balls.map(({ at }, n): [string, Mesh] => [asset(n), points(at)])]) // prettier-ignore
  const { position } = runTo(start(shot, meshes), 1 + seconds * 24).populations()[0]!.columns
  return balls.map((_, n) => Array.from(position!.slice(n * 3, n * 3 + 3)))
}

const slab: [number, number, number] = [20, 0.4, 20]
const onSlope: Ball[] = [{ at: [-0.0868, 0.2462, 0], velocity: [0, 0, 0] }]
/** What it is, how it goes, and how far off it may be, metres. Friction in a hit is left out: theirs is not Coulomb's. */
const SCENES: [string, Scene, number][] = [
  [
    'a throw that bounces twice',
    { balls: [{ at: [0, 1.2, 0], velocity: [2, 0, 0.5] }], slab, bounce: 0.6, friction: 0, seconds: 1 },
    0.03,
  ],
  [
    'sliding down a slope',
    { balls: onSlope, slab, tilt: -20, bounce: 0, friction: 0.15, seconds: 1.5 },
    0.04,
  ],
  [
    'a slope that is rough enough',
    { balls: onSlope, slab, tilt: -20, bounce: 0, friction: 0.6, seconds: 1.5 },
    0.005,
  ],
  [
    'off the flank of a ball of triangles',
    {
      balls: [{ at: [0.4, 2.2, 0.1], velocity: [0, -1, 0] }],
      bounce: 0.8,
      friction: 0,
      seconds: 0.75,
    },
    0.06,
  ],
  [
    'one ball into another that lies',
    {
      balls: [
        { at: [-1, 0.25, 0], velocity: [3, 0, 0] },
        { at: [0, 0.25, 0], velocity: [0, 0, 0] },
      ],
      slab,
      bounce: 0.5,
      friction: 0,
      seconds: 1,
    },
    0.04,
  ],
]
test.each(SCENES)('%s', (_, scene, allowed) => {
  const [expected, found] = [theirs(scene), ours(scene)]
  const off = found.map((place, n) => Math.hypot(...place.map((x, axis) => x - expected[n]![axis]!)))
  expect(Math.max(...off)).toBeLessThan(allowed)
})
