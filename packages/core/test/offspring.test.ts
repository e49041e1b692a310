/** Births from particles: by the way they go, by time, at events. Ways and falls against closed forms. */
import { createMachine } from '@tangle/kernels'
import { createSimulation, firstChangedFrame, interactionIn, type Vector } from '../src/index.ts'
import { ASSET, asset, box, points, runTo, sphere } from './help.ts'
import { acts, family, G, ones, run } from './offspringHelp.ts'

const still = { into: 'Loose', kind: 'vertices', mesh: 'box', amount: { burst: 'all', at: 1 }, inherit: 0 }
const thrown = (direction: Vector, speed: number, more = {}) => ({ births: [{ id: 'b', ...still, aim: 'direction', direction, speed, ...more }] }) // prettier-ignore

/** Length of x(t) = v·t, y(t) = u·t − g·t²/2 up to t, in closed form: ∫√(v² + (u − g·t)²) dt. */
function arc(v: number, u: number, g: number, t: number): number {
  const upTo = (w: number): number => (w * Math.hypot(v, w) + v * v * Math.asinh(w / v)) / (2 * g)
  return upTo(u) - upTo(u - g * t)
}

describe('by the way they go', () => {
  test.each([
    // speed of the throw, g, rate, substeps, spacing: speeds from 1 up to 100 m/s
    [1, 50, 24, 2, 0.25],
    [1, 50, 60, 1, 0.01],
    [0.02, 1, 25, 4, 0.001],
    [30, 9.80665, 24, 3, 1.7],
  ])('a parabola at %d m/s under %d m/s² at %d frames of %d substeps: one each %d m', (speed, g, rate, substeps, spacing) => {
    const shot = family({
      parents: { ...thrown([1, 1, 0], speed), influences: [acts('gravity', { strength: g / G })] },
      bears: { amount: { spacing }, stagger: 0 },
      rest: { frames: { first: 1, last: 480, rate }, quality: { substeps, iterations: 1 } },
    }) // prettier-ignore
    const simulation = runTo(run(shot, points([0, 0, 0])), 1 + 2 * rate)
    const [v, u] = [speed / Math.SQRT2, speed / Math.SQRT2]
    const wake = ones(simulation)
    expect(Math.abs(wake.length - arc(v, u, g, 2) / spacing)).toBeLessThan(1)
    wake.forEach(({ position: [x, y], age }, n) => {
      const t = x / v
      // where the parent was, as far along as it should be, and as old as it is since then
      const size = Math.hypot(x, y)
      expect(Math.abs(y - (u * t - (g * t * t) / 2))).toBeLessThan(1e-5 * size + 1e-6)
      expect(Math.abs(arc(v, u, g, t) / spacing - (n + 1))).toBeLessThan(0.02)
      expect(Math.abs(2 - t - age)).toBeLessThan(1e-4)
    })
  }) // prettier-ignore

  test.each([[24, 2], [24, 1], [60, 5]])('a circle at %d frames of %d substeps, at a speed from nothing to fast', (rate, substeps) => {
    // a point of a mesh that turns, 3 m from the axis: 180° in the first second, eased in and out
    const place = { rotation: [0, { keys: [[1, 0, 'smooth'], [1 + rate, 180]] }, 0] }
    const shot = family({
      parents: { influences: [acts('ride')] },
      bears: { amount: { spacing: 0.02 }, stagger: 0 },
      rest: {
        meshes: [],
        frames: { first: 1, last: 200, rate },
        quality: { substeps, iterations: 1 },
      },
    }) // prettier-ignore
    ;(shot.meshes[0]!.place as unknown) = { ...shot.meshes[0]!.place, ...place }
    const wake = ones(runTo(run(shot, points([3, 0, 0])), 1 + rate))
    expect(Math.abs(wake.length - (3 * Math.PI) / 0.02)).toBeLessThanOrEqual(2)
    const angles = wake.map(({ position: [x, , z] }) => Math.atan2(-z, x))
    angles.slice(1).forEach((angle, n) => expect(Math.abs((angle - angles[n]!) * 3 - 0.02)).toBeLessThan(0.001))
    for (const { position } of wake) expect(Math.abs(Math.hypot(...position) - 3)).toBeLessThan(0.006)
  }) // prettier-ignore

  test.each([[4, 0.02], [1, 0.5]])('over a bounce with %d substeps: as many as the way is long', (substeps, spacing) => {
    const shot = family({
      parents: { ...thrown([0, -1, 0], 9), influences: [acts('floor', { height: -2, bounce: 1, friction: 0 })] },
      bears: { amount: { spacing }, stagger: 0 },
      rest: { quality: { substeps, iterations: 1 } },
    }) // prettier-ignore
    // down 1.99 m to where it touches, and as fast up again
    const wake = ones(runTo(run(shot, points([0, 0, 0])), 9))
    expect(Math.abs(wake.length - 3 / spacing)).toBeLessThanOrEqual(1)
    for (const [n, { position }] of wake.entries()) {
      const s = (n + 1) * spacing
      expect(position[1]).toBeCloseTo(s < 1.99 ? -s : s - 2 * 1.99, 3)
    }
  }) // prettier-ignore

  test('parents are out of step with one another, or not; a cap and frames bound each', () => {
    const wakeOf = (stagger: number, amount: object = {}) =>
      ones(runTo(run(family({ parents: thrown([1, 0, 0], 2), bears: { stagger, amount: { spacing: 0.5, ...amount } } })), 25)) // prettier-ignore
    const behind = (wake: ReturnType<typeof ones>) => wake.map(({ position }) => ((position[0] + 0.75) % 0.5).toFixed(3)) // prettier-ignore
    expect(new Set(behind(wakeOf(0))).size).toBe(1)
    expect(new Set(behind(wakeOf(1))).size).toBe(8)
    for (const parent of Array(8).keys()) {
      expect(wakeOf(0, { cap: 2 }).filter((one) => one.parent === parent)).toHaveLength(2)
      // from frame 7 to 13 it goes half a metre
      const own = wakeOf(0, { from: 7, to: 13 }).filter((one) => one.parent === parent)
      expect(own).toHaveLength(1)
      expect(own[0]!.age).toBeCloseTo(0.5, 3)
    }
  })

  test('from the tail, within a radius, on the surface: as the parent goes', () => {
    const wakeOf = (bears: object) => ones(runTo(run(family({ parents: thrown([1, 0, 0], 2), bears: { stagger: 0, ...bears } }), points([0, 0, 0])), 49)) // prettier-ignore
    wakeOf({ offset: [0, 0.1, -0.3] }).forEach(({ position: [x, y, z] }, n) => {
      expect(x).toBeCloseTo((n + 1) * 0.25 - 0.3, 4)
      expect(Math.hypot(y, z)).toBeCloseTo(0.1, 5)
    })
    const ball = wakeOf({ scatter: 0.1, amount: { spacing: 0.001 } })
    const away = ball.map(({ position: [x, y, z] }, n) => Math.hypot(x - (n + 1) * 0.001, y, z))
    expect(Math.max(...away)).toBeLessThan(0.1)
    // even in the ball: the mean distance is ¾ of the radius
    expect(away.reduce((a, b) => a + b) / away.length).toBeCloseTo(0.075, 2)
    for (const [
      n,
      {
        position: [x, y, z],
      },
    ] of wakeOf({ place: 'surface' }).entries())
      // prettier-ignore
      expect(Math.hypot(x - (n + 1) * 0.25, y, z)).toBeCloseTo(0.01, 5)
  })
})

test.each([[24, 2], [24, 1], [48, 7]])('what is born falls from its own moment on, at %d frames of %d substeps', (rate, substeps) => {
  const shot = family({
    parents: thrown([1, 0, 0], 3),
    wake: { influences: [acts('gravity')] },
    bears: { inherit: 0.5, stagger: 0, amount: { spacing: 0.02 } },
    rest: { frames: { first: 1, last: 200, rate }, quality: { substeps, iterations: 1 } },
  }) // prettier-ignore
  const wake = ones(runTo(run(shot, points([0, 0, 0])), 1 + rate))
  expect(Math.abs(wake.length - 150)).toBeLessThanOrEqual(1)
  wake.forEach(({ position: [x, y], velocity, age }, n) => {
    const t = ((n + 1) * 0.02) / 3
    expect(age).toBeCloseTo(1 - t, 4)
    expect(x).toBeCloseTo(3 * t + 1.5 * (1 - t), 4)
    expect(y).toBeCloseTo((-G * (1 - t) ** 2) / 2, 4)
    expect(velocity[1]).toBeCloseTo(-G * (1 - t), 4)
  })
}) // prettier-ignore

describe('by time', () => {
  test('so many a second of each, keyed, wherever they are', () => {
    // from nothing to 24 a second within a second: 12
    const rate = { keys: [[1, 0], [25, 24]] } // prettier-ignore
    const shot = family({ bears: { stagger: 0, amount: { rate } } })
    const wake = ones(runTo(run(shot), 25))
    for (const parent of Array(8).keys())
      expect(Math.abs(wake.filter((one) => one.parent === parent).length - 12)).toBeLessThanOrEqual(1)
  })
})

describe('at events', () => {
  const mortal = { particle: { radius: 0.01, density: 1000, lifespan: { mean: 12, spread: 8 } } }

  test('some at each death, where and when it happens', () => {
    const shot = family({ parents: { ...thrown([0, 1, 0], 2), ...mortal }, bears: { amount: { count: 5, event: 'death' } } }) // prettier-ignore
    const simulation = runTo(run(shot), 30)
    expect(ones(simulation, 'parents')).toHaveLength(0)
    const wake = ones(simulation)
    expect(wake).toHaveLength(40)
    for (const { parent, position, age } of wake) {
      // corners of the box are at ±½: it rose 2 m a second until it died
      const corner = wake.filter((one) => one.parent === parent)
      expect(corner).toHaveLength(5)
      const rose = Math.min(Math.abs(position[1] - 0.5), Math.abs(position[1] + 0.5 - 2 * (29 / 24 - age)))
      expect(Math.min(rose, Math.abs(position[1] - 0.5 - 2 * (29 / 24 - age)))).toBeLessThan(0.05)
    }
  })

  test('deaths by a cue, by shrinking and of 70,000 at once are heard, too', () => {
    const dies = { id: 'c', from: 'Loose', to: 'dies', when: { kind: 'after', frames: 5 } }
    const many = {
      births: [{ id: 'b', ...still, kind: 'surface', amount: { burst: 70_000, at: 1 } }],
      cues: [dies],
    }
    const simulation = runTo(
      run(family({ parents: many, bears: { amount: { count: 1, event: 'death' } } })),
      12,
    )
    expect(ones(simulation, 'parents')).toHaveLength(0)
    expect(ones(simulation)).toHaveLength(70_000)
    expect(new Set(ones(simulation).map(({ parent }) => parent)).size).toBe(70_000)
  })

  test('a share of them, by chance; others for other seeds', () => {
    const amount = { count: 1, event: 'birth', chance: 0.3 }
    const of = (seed: number) => ones(runTo(run(family({ parents: { births: [{ id: 'b', ...still, kind: 'surface', amount: { rate: 4000 } }] }, bears: { amount }, rest: { seed } })), 13)).map(({ parent }) => parent) // prettier-ignore
    // 2,000 births: 600 ± 3·√(2000·0.3·0.7)
    expect(Math.abs(of(1).length - 600)).toBeLessThan(62)
    expect(of(1)).toEqual(of(1))
    expect(of(1)).not.toEqual(of(2))
  })

  test('where a parent touches, off what it touched', () => {
    const shot = family({
      parents: { ...thrown([0, -1, 0], 5), influences: [acts('floor', { height: -2, bounce: 0, friction: 0 })] },
      bears: { amount: { count: 3, event: 'touch' }, speed: 1, cone: 0 },
    }) // prettier-ignore
    const wake = ones(runTo(run(shot), 25))
    expect(wake).toHaveLength(24)
    for (const { velocity, position, age } of wake) {
      expect(velocity).toEqual([0, 1, 0])
      expect(position[1]).toBeCloseTo(-2 + age, 2)
    }
  })

  test('as it comes into a phase, and only in a phase', () => {
    const phases = { phases: ['Loose', 'Hot'], cues: [{ id: 'c', from: 'Loose', to: 'Hot', when: { kind: 'after', frames: 12 } }] } // prettier-ignore
    const into = family({ parents: { ...phases }, bears: { parentPhase: 'Hot', amount: { count: 2, event: 'phase' } } }) // prettier-ignore
    expect(ones(runTo(run(into), 12))).toHaveLength(0)
    expect(ones(runTo(run(into), 40))).toHaveLength(16)
    const only = family({ parents: { ...thrown([1, 0, 0], 2), ...phases }, bears: { parentPhase: 'Hot', stagger: 0 } }) // prettier-ignore
    const wake = ones(runTo(run(only, points([0, 0, 0])), 37))
    // it is hot from half a second on
    expect(wake.length).toBeGreaterThan(6)
    for (const { position } of wake) expect(position[0]).toBeGreaterThan(1)
  })

  test('where a link breaks', () => {
    const shot = family({
      parents: {
        particle: { radius: 0.05, density: 1000 },
        births: [{ id: 'b', ...still, kind: 'volume', fill: 'grid', spacing: 0.12 }],
        influences: [acts('link', { to: 'grid', stiffness: 0.9, breaks: 0.02 }), acts('turbulence', { strength: 300, scale: 0.5 })],
      },
      bears: { amount: { count: 1, event: 'break' } },
    }) // prettier-ignore
    const simulation = run(shot)
    let broken = 0
    for (let n = 0; n < 20; n++) {
      simulation.advance()
      broken += simulation.events()[0]!.counts.break
    }
    expect(broken).toBeGreaterThan(20)
    expect(ones(simulation)).toHaveLength(broken)
  })
})

test.each([[1, 2, 24], [0.01, 4, 24], [50, 1, 60]])('sparks do not go through the rippling ball that their parents hit: %d m, %d substeps at %d frames', (size, substeps, rate) => {
  const ball = { id: 'ball', source: { asset: asset(1) }, place: { scale: [size, size, size], position: [0, { keys: [[1, 0], [30, 0.4 * size]] }, 0] }, deform: [{ id: 'r', kind: 'ripple', amount: 0.06 * size, wavelength: 0.4 * size, speed: 1 }] }
  const hits = [acts('gravity', { strength: size }), acts('collide', { mesh: 'ball', bounce: 0.4 })]
  const shot = family({
    parents: { particle: { radius: 0.01 * size, density: 1000 }, births: [{ id: 'b', ...still, kind: 'volume', amount: { rate: 200 } }], influences: hits },
    wake: { particle: { radius: 0.004 * size, density: 1000 }, births: [
      { id: 't', kind: 'particles', from: 'parents', into: 'Loose', amount: { event: 'touch', count: 6 }, speed: 2 * size, cone: 80, inherit: 1 },
      { id: 's', kind: 'particles', from: 'parents', into: 'Loose', amount: { spacing: 0.2 * size }, inherit: 1 },
    ], influences: hits },
    rest: { frames: { first: 1, last: 100, rate }, quality: { substeps, iterations: 4 }, meshes: [ball] },
  })
  ;(shot.meshes[0]!.place as unknown) = { ...shot.meshes[0]!.place, position: [0, 2.2 * size, 0], scale: [size, 0.2 * size, size] }
  const simulation = runTo(run(shot, box(), [sphere(24)]), 36)
  expect(ones(simulation).length).toBeGreaterThan(300)
  expect(simulation.measures().populations.map(({ contact }) => contact!.inside)).toEqual([0, 0])
}) // prettier-ignore

test('parents that have shrunk to nothing leave no number behind that is none', () => {
  const shot = family({ parents: { influences: [acts('size', { size: { keys: [[1, 1], [10, 0]] } })] }, bears: { sizes: 1, amount: { event: 'death', count: 2 } } }) // prettier-ignore
  const wake = ones(runTo(run(shot), 15))
  expect(wake).toHaveLength(16)
  for (const { radius } of wake) expect(radius).toBeGreaterThan(0)
})

test('a birth that begins late makes all of it anew, for its parents carry what it owes', () => {
  const late = (spacing: number) => family({ bears: { amount: { spacing, from: 50 } } })
  expect(firstChangedFrame(late(0.1), late(0.2))).toBe(50)
  const without = { ...late(0.1), populations: late(0.1).populations.map((one, n) => (n === 1 ? { ...one, births: [] } : one)) } // prettier-ignore
  expect(firstChangedFrame(without, late(0.1))).toBe(1)
})

describe('promises', () => {
  const rich = (seed = 3) =>
    family({
      parents: { births: [{ id: 'b', ...still, kind: 'surface', speed: 2, cone: 60, amount: { rate: 200 } }], particle: { radius: { mean: 0.02, spread: 0.5 }, density: 500, lifespan: { mean: 20, spread: 10 } }, influences: [acts('gravity'), acts('floor', { height: -1, bounce: 0.5 })] },
      wake: {
        particle: { radius: { mean: 0.01, spread: 0.5 }, density: 500, lifespan: { mean: 30, spread: 10 } },
        births: [
          { id: 'w', kind: 'particles', from: 'parents', into: 'Loose', amount: { spacing: 0.1 }, speed: 0.3, cone: 180, scatter: 0.05 },
          { id: 'd', kind: 'particles', from: 'parents', into: 'Loose', amount: { count: 4, event: 'death' }, speed: 1, inherit: 0.5 },
          { id: 't', kind: 'particles', from: 'parents', into: 'Loose', amount: { count: 2, event: 'touch', chance: 0.5 }, speed: 1 },
        ],
        influences: [acts('drag', { strength: 3 }), acts('wander'), acts('turbulence')],
      },
      rest: { seed },
    }) // prettier-ignore

  test('the same parents bear the same children, whoever else is computed', () => {
    const [all, some] = [1, 0.4].map((share) => runTo(run(rich(), box(), [], share), 30)) as [ReturnType<typeof run>, ReturnType<typeof run>] // prettier-ignore
    const there = new Set(ones(some, 'parents').map(({ id }) => id))
    const living = (simulation: ReturnType<typeof run>) =>
      ones(simulation).flatMap(({ parent, position, radius }) => (there.has(parent) ? [`${parent} ${radius} ${position.join()}`] : [])) // prettier-ignore
    expect(living(some).length).toBeGreaterThan(100)
    expect(living(some).sort()).toEqual(living(all).sort())
    expect(ones(some).length).toBeLessThan(0.6 * ones(all).length)
  })

  test.each([1, 2, 7, 23])('they go on to the bit from a snapshot at frame %d', (frame) => {
    const simulation = runTo(run(rich()), frame)
    const again = createSimulation(createMachine(), rich(), new Map([[ASSET, box()]]), { from: structuredClone(simulation.snapshot()) }) // prettier-ignore
    for (const one of [simulation, again]) runTo(one, 40)
    expect(again.fingerprint()).toBe(simulation.fingerprint())
    expect(ones(again)).toEqual(ones(simulation))
  })

  test('one worker computes all of them, and it is said why', () => {
    expect(interactionIn(rich())).toBe('Births from particles of wake')
  })

  test('no number is lost where parents stand still, or are as fast as they may be', () => {
    for (const speed of [0, 1e-9, 200]) {
      const simulation = runTo(run(family({ parents: thrown([1, 0, 0], speed), bears: { aim: 'way', speed: 1, offset: [0, 0, -1], turned: 'way', amount: { spacing: 1 } }, wake: { look: { draw: 'discs' } } })), 13) // prettier-ignore
      for (const { position, velocity } of ones(simulation)) expect([...position, ...velocity].every(Number.isFinite)).toBe(true) // prettier-ignore
      expect(ones(simulation).length).toBe(speed < 1 ? 0 : 8 * 100)
    }
  })
})
