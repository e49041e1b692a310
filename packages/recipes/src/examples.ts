/** Small shots that show what an influence, a mask or a cue does: drawn moving beside its help. */
import { CUES, emptyShot, INFLUENCES, MASKS, readShot, sourceKey, type Mesh, type Shot } from '@tangle/core'
import type { Loose } from './recipe.ts'

export interface Example {
  shot: Shot
  /** By the keys of their sources. */
  meshes: Map<string, Mesh>
}

const FRAMES = { first: 1, last: 72, rate: 24 }
const COUNT = 220
const phases = ['One', 'Two']
const all = { One: 1, Two: 1 }
const acts = (kind: string, more: Loose = {}): Loose => ({ id: kind, kind, weights: all, ...more })

/** A box of grains at rest, up in the air. */
const CLOUD: Loose = { kind: 'region', mesh: 'ball', size: [1.6, 0.9, 0.5], middle: [0, 0.5, 0], amount: { burst: COUNT, at: 1 }, speed: 0 } // prettier-ignore
/** A stream from the left. */
const STREAM: Loose = { kind: 'region', mesh: 'ball', size: [0.1, 0.9, 0.4], middle: [-1.5, 0.3, 0], amount: { rate: 90 }, aim: 'direction', direction: [1, 0, 0], speed: 1.2 } // prettier-ignore
/** Grains that fall onto what is below, from a narrow place. */
const FALL: Loose = { kind: 'region', mesh: 'ball', size: [0.7, 0.3, 0.4], middle: [0.1, 1, 0], amount: { rate: 110 }, aim: 'direction', direction: [0, -1, 0], speed: 0.5 } // prettier-ignore
const ON_BALL: Loose = {
  kind: 'surface',
  mesh: 'ball',
  amount: { burst: COUNT, at: 1 },
  scatter: 'even',
  speed: 0,
}
const GRID: Loose = {
  kind: 'volume',
  mesh: 'ball',
  amount: { burst: 'all', at: 1 },
  fill: 'grid',
  spacing: 0.11,
}

const GRAVITY = acts('gravity')
const AIR = acts('drag', { strength: 0.6 })
const FLOOR = acts('floor', { height: 0 })
const GOAL = { id: 'goal', name: 'Goal', kind: 'surface', mesh: 'target' }
const SLAB: Loose = { id: 'slab', name: 'Slab', kind: 'slab', position: [{ keys: [[1, -0.7], [60, 0.7]] }, 0.6, 0], soft: 0.15 } // prettier-ignore

interface Scene {
  birth?: Loose
  /** Influences that act beside it, above it in the score. */
  beside?: Loose[]
  values?: Loose
  particle?: Loose
  population?: Loose
  shot?: Loose
}
const keyed = (...keys: [number, number][]): Loose => ({ keys })
const BY_AGE = (to: string): Loose => ({ responses: [{ to, from: 'age', curve: [[0, 1], [1, 0]] }] }) // prettier-ignore
const MORTAL = { lifespan: { mean: 60, spread: 12 } }
const LIQUID: Loose = { particle: { radius: 0.055, density: 1000, lifespan: null } }
const WARM: Loose = { birth: GRID, beside: [acts('ride'), acts('warmth', { born: 20, loss: 0 })] }
const CROWD: Scene = { birth: { ...CLOUD, aim: 'direction', direction: [1, 0, 0], cone: 180, speed: 0.5 } }
const FLIGHT: Scene = {
  birth: { ...ON_BALL, speed: 0.3 },
  population: { goals: [GOAL] },
  values: { goal: 'goal' },
}

/** What froth swims on. */
const WATER: Loose = {
  id: 'other',
  name: 'Water',
  phases: ['One'],
  ...LIQUID,
  births: [{ id: 'birth', into: 'One', ...GRID }],
  influences: [GRAVITY, FLOOR, acts('liquid')].map((one) => ({ ...one, weights: { One: 1 } })),
}

/** What each influence is shown with, where it is not a cloud of grains at rest. */
const SCENES: Record<string, Scene> = {
  wind: { values: { speed: 1, gusts: 1 } },
  turbulence: { values: { strength: 2, scale: 0.6 } },
  drag: { birth: { ...STREAM, speed: 3 }, values: { strength: 3 } },
  airDrag: { beside: [GRAVITY], values: { strength: 6 }, particle: { radius: { mean: 0.02, spread: 0.9 }, density: 5 } },
  attract: { values: { point: [0.6, 0.6, 0], strength: 3 }, beside: [acts('drag')] },
  vortex: { values: { speed: 1.4, point: [0, 0, 0] } },
  mutual: { values: { far: 0.5, near: 0.16 }, beside: [acts('drag', { strength: 2 })] },
  calm: { ...CROWD, values: { radius: 0.5, strength: 6 } },
  seek: FLIGHT,
  arrive: { ...FLIGHT, values: { goal: 'goal', strength: 4 } },
  settle: { ...FLIGHT, beside: [acts('arrive', { goal: 'goal', strength: 4 })], values: { goal: 'goal', within: 0.4 } },
  blend: { ...FLIGHT, values: { goal: 'goal', strength: keyed([8, 0], [60, 1]) } },
  return: { birth: { ...ON_BALL, speed: 2, speedSpread: 0.6 }, beside: [AIR], values: { strength: keyed([18, 0], [24, 1]) } },
  flock: { ...CROWD, values: { separationRadius: 0.12, radius: 0.5 } },
  wander: { values: { strength: 2 } },
  avoid: { ...CROWD, values: { strength: 2 }, beside: [acts('wander', { strength: 0.6 })], particle: { radius: 0.05 } },
  march: { birth: ON_BALL, beside: [acts('stay', { mesh: 'ball' })], values: { mesh: 'ball', along: 'direction', direction: [1, 0.3, 0], strength: 4 } },
  follow: { birth: ON_BALL, values: { combing: 'hair', speed: 0.6, offset: 0.02 }, shot: { combings: [{ id: 'hair', name: 'Hair', mesh: 'ball', start: 'slope' }] } },
  limits: { birth: { ...CLOUD, aim: 'direction', direction: [1, 0, 0], cone: 180, speed: 2 }, values: { most: 0.3 } },
  ride: { birth: ON_BALL, beside: [GRAVITY], values: { weights: { One: 1 } }, population: { cues: [{ id: 'go', from: 'One', to: 'Two', when: { kind: 'after', frames: { mean: 30, spread: 20 } } }] } },
  stay: { birth: ON_BALL, beside: [acts('wander', { strength: 3 }), GRAVITY], values: { mesh: 'ball' } },
  link: { birth: GRID, beside: [GRAVITY, FLOOR, acts('selfCollision')], values: { to: 'grid', stiffness: 0.9 }, particle: { radius: 0.05 } },
  liquid: { birth: { ...GRID, spacing: 0.11 }, beside: [GRAVITY, FLOOR], ...LIQUID },
  froth: { beside: [], values: { with: 'other', rise: 0.5 }, birth: { ...CLOUD, size: [0.5, 0.4, 0.3] } },
  collide: { birth: FALL, beside: [GRAVITY], values: { mesh: 'ball' }, particle: { radius: 0.03 } },
  floor: { birth: FALL, beside: [GRAVITY], values: { height: 0, bounce: 0.5 }, particle: { radius: 0.03 } },
  selfCollision: { birth: FALL, beside: [GRAVITY, FLOOR], particle: { radius: 0.045 } },
  rigid: { birth: FALL, beside: [GRAVITY, FLOOR], values: { bounce: 0.2 }, particle: { radius: 0.06 }, population: { look: { draw: 'instances', instances: { set: [{ mesh: 'stone' }], fit: 'radius' } } } },
  sleep: { birth: FALL, beside: [GRAVITY, FLOOR, acts('selfCollision')], values: { speed: 0.6 }, particle: { radius: 0.045 } },
  cover: { birth: FALL, beside: [GRAVITY, acts('collide', { mesh: 'ball', bounce: 0, friction: 2, sliding: 2, sticky: 12 })], values: { mesh: 'ball', gathers: 40 } },
  size: { particle: MORTAL, values: BY_AGE('size') },
  thin: { values: { share: keyed([1, 1], [60, 0.1]) } },
  fade: { particle: MORTAL, values: BY_AGE('opacity') },
  colour: { values: { responses: [{ to: 'at', from: 'age', curve: [[0, 0], [1, 1]] }] }, particle: MORTAL },
  spin: {},
  face: { ...CROWD },
  tumble: { birth: FALL, beside: [GRAVITY, FLOOR] },
  warmth: { birth: GRID, beside: [acts('ride')], values: { born: 80, around: 0, loss: 400, pace: 400 } },
  heat: { ...WARM, values: { temperature: 80, from: 'point', point: [0, 1.2, 0], reach: 0.3, rate: 4 } },
  set: { birth: ON_BALL, beside: [acts('size', { responses: [{ to: 'size', from: 'own', attribute: 'own', curve: [[0, 0.3], [1, 2]] }] })], population: { attributes: [{ id: 'own', name: 'Own', birth: { mean: 0, spread: 0 } }] }, values: { attribute: 'own', how: 'rate', value: 1, responses: [{ to: 'strength', from: 'y', curve: [[0, 0], [1.2, 1]] }] } },
} // prettier-ignore

/** Influences that need a broken mesh, or the solver of bodies with shapes: too much for a small picture. */
const UNDRAWN = new Set(['dock', 'bonds', 'float'])

/** What each cue waits for. */
const WAITS: Record<string, { when?: Loose } & Scene> = {
  mask: { when: { mask: 'slab' }, birth: ON_BALL },
  after: { when: { frames: { mean: 30, spread: 20 } } },
  frame: { when: { frame: 30, spread: 6 } },
  inside: { when: { mesh: 'target', side: 'inside' }, birth: STREAM },
  contact: { when: { mesh: 'ball', margin: 0.02 }, birth: FALL, beside: [GRAVITY, acts('collide', { mesh: 'ball' })] },
  rest: { when: { speed: 0.1, frames: 3 }, birth: { ...STREAM, speed: 3 }, beside: [acts('drag', { strength: 3 })] },
  life: { when: { share: 0.5 }, particle: MORTAL },
  goal: { when: { goal: 'goal', distance: 0.06, frames: 1 }, birth: ON_BALL, beside: [acts('arrive', { goal: 'goal', strength: 4, weights: { One: 1 } })], population: { goals: [GOAL] } },
  temperature: { when: { side: 'above', temperature: 40 }, ...WARM, beside: [acts('ride', { weights: { One: 1 } }), acts('warmth', { born: 20, loss: 0 }), acts('heat', { temperature: 90, from: 'point', point: [0, 1.2, 0], reach: 0.7, rate: 2 })] },
  attribute: { when: { attribute: 'own', above: 0.5 }, birth: ON_BALL, beside: [acts('set', { attribute: 'own', how: 'rate', value: 1, rate: 1, responses: [{ to: 'strength', from: 'random', curve: [[0, 0.2], [1, 1]] }] })], population: { attributes: [{ id: 'own', name: 'Own', birth: { mean: 0, spread: 0 } }] } },
} // prettier-ignore

/** Where a brush has gone, up and down over the ball. */
const WAVE = Array.from({ length: 25 }, (_, k): number[] => {
  const [a, b] = [(k / 24 - 0.5) * 2.6, 0.5 * Math.sin(k / 3)]
  return [0.5 * Math.cos(b) * Math.sin(a), 0.6 + 0.5 * Math.sin(b), 0.5 * Math.cos(b) * Math.cos(a)]
})

/** Values of masks that show themselves on a ball of half a metre at [0, 0.6, 0]. */
const MASKED: Record<string, Loose> = {
  spread: { mesh: 'ball', from: { ball: [0, 1.1, 0], radius: 0.1 }, speed: 0.7 },
  slab: SLAB,
  ball: { centre: [{ keys: [[1, -0.7], [60, 0.7]] }, 0.7, 0.3], radius: 0.35 },
  box: { centre: [{ keys: [[1, -0.7], [60, 0.7]] }, 0.7, 0.3], size: [0.5, 0.7, 0.7] },
  noise: { scale: 0.35, change: 1.5, contrast: 3 },
  inside: { mesh: 'target', soft: 0.1 },
  uv: { mesh: 'ball', along: 'v', low: 0.5, high: 0.8 },
  front: { of: 'slab', width: 0.4 },
  mix: { how: 'multiply', of: 'slab', with: 'patches' },
  painted: { mesh: 'ball', strokes: [{ brush: 'add', radius: 0.16, strength: 1, points: WAVE }] },
} // prettier-ignore

/** A small shot of an influence, a mask or a cue; null where there is none. */
export function exampleOf(sort: 'influence' | 'mask' | 'cue', kind: string): Example | null {
  if (sort === 'influence') return INFLUENCES.some((one) => one.kind === kind) && !UNDRAWN.has(kind) ? ofInfluence(kind) : null // prettier-ignore
  if (sort === 'mask') return MASKED[kind] && MASKS.some((one) => one.kind === kind) ? ofMask(kind) : null
  return WAITS[kind] && CUES.some((one) => one.kind === kind) ? ofCue(kind) : null
}

function ofInfluence(kind: string): Example {
  const scene = SCENES[kind] ?? {}
  return exampleWith(scene, [...(scene.beside ?? []), { ...acts(kind), ...scene.values }])
}

/** Grains sit on a ball, large where the mask is full. */
function ofMask(kind: string): Example {
  const bySlab = { to: 'size', from: 'mask', mask: 'shown', curve: [[0, 0.3], [1, 2]] } // prettier-ignore
  const shown = { ...MASKED[kind], kind, id: 'shown', name: 'Shown' }
  const patches = { id: 'patches', name: 'Patches', kind: 'noise', scale: 0.35, contrast: 3 }
  return exampleWith(
    { birth: { ...ON_BALL, amount: { burst: 500, at: 1 } }, shot: { masks: [SLAB, patches, shown] } },
    [acts('ride'), acts('size', { responses: [bySlab] })],
  )
}

/** Grains are held, and blown away from when the cue sends them on. */
function ofCue(kind: string): Example {
  const { when, ...scene } = WAITS[kind]!
  const cue = { id: 'cue', from: 'One', to: 'Two', when: { kind, ...when } }
  const population = { ...scene.population, cues: [cue] }
  const blown = acts('wind', {
    id: 'blown',
    speed: 2,
    strength: 5,
    direction: [0.4, 1, 0],
    weights: { Two: 1 },
  })
  return exampleWith({ ...scene, population, shot: { masks: [SLAB] } }, [...(scene.beside ?? []), blown])
}

function exampleWith(scene: Scene, influences: Loose[]): Example {
  const population = {
    id: 'grains',
    name: 'Grains',
    phases,
    births: [{ id: 'birth', into: 'One', ...(scene.birth ?? CLOUD) }],
    ...scene.population,
    particle: { radius: 0.025, density: 1000, lifespan: null, ...scene.particle },
    influences,
  }
  const needsOther = influences.some((one) => one.with === 'other')
  const read = readShot({
    ...emptyShot('Example'),
    frames: FRAMES,
    meshes: ['ball', 'target', 'stone'].map((id, n) => ({ id, name: id, source: { asset: asset(n) } })),
    populations: [population, ...(needsOther ? [WATER] : [])],
    ...scene.shot,
  })
  if (read.problems) throw new Error(`An example is not sound: ${JSON.stringify(read.problems)}`)
  const { shot } = read
  return {
    shot,
    meshes: new Map([BALL, TARGET, STONE].map((mesh, n) => [sourceKey({ asset: asset(n) }, shot), mesh])),
  }
}

const asset = (n: number): string => `sha256:${String(n).repeat(64)}`
/** A ball with U and V, about a point. */
function ball(radius: number, middle: [number, number, number], rings = 16): Mesh {
  const at = (i: number, k: number): number[] => {
    const [a, b] = [(Math.PI * i) / rings, (2 * Math.PI * k) / (2 * rings)]
    const [x, y, z] = [Math.sin(a) * Math.sin(b), Math.cos(a), Math.sin(a) * Math.cos(b)]
    return [middle[0] + radius * x, middle[1] + radius * y, middle[2] + radius * z]
  }
  const around = 2 * rings
  const vertex = (i: number, k: number): number =>
    i === 0 ? 0 : i === rings ? 1 : 2 + (i - 1) * around + (k % around)
  const positions = [...at(0, 0), ...at(rings, 0)]
  for (let i = 1; i < rings; i++) for (let k = 0; k < around; k++) positions.push(...at(i, k))
  const [triangles, uvs]: [number[], number[]] = [[], []]
  const face = (...corners: [i: number, k: number][]): void => {
    for (const [i, k] of corners) {
      triangles.push(vertex(i, k))
      uvs.push(k / around, 1 - i / rings)
    }
  }
  for (let i = 0; i < rings; i++)
    for (let k = 0; k < around; k++) {
      if (i > 0) face([i, k], [i + 1, k], [i, k + 1])
      if (i < rings - 1) face([i, k + 1], [i + 1, k], [i + 1, k + 1])
    }
  return {
    positions: new Float32Array(positions),
    triangles: new Uint32Array(triangles),
    uvs: new Float32Array(uvs),
  }
}
const BALL = ball(0.5, [0, 0.6, 0])
const TARGET = ball(0.3, [1.5, 0.7, 0])
/** Long along its front. */
const STONE: Mesh = {
  positions: Float32Array.from(
    { length: 24 },
    (_, k) => [0.32, 0.32, 1][k % 3]! * ((Math.floor(k / 3) >> (k % 3)) & 1 ? 1 : -1),
  ),
  triangles: Uint32Array.from([
    0, 2, 3, 0, 3, 1, 4, 5, 7, 4, 7, 6, 0, 1, 5, 0, 5, 4, 2, 6, 7, 2, 7, 3, 0, 4, 6, 0, 6, 2, 1, 3, 7, 1, 7,
    5,
  ]),
}
