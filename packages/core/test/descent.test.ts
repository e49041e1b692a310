/** What children of particles have of their parents, how often they bear again, and what is refused. */
import { readShot, type Vector } from '../src/index.ts'
import { asset, box, runTo, sphere } from './help.ts'
import { acts, distance, family, familyOf, ones, run } from './offspringHelp.ts'

const still = { into: 'Loose', kind: 'vertices', mesh: 'box', amount: { burst: 'all', at: 1 }, inherit: 0 }
const thrown = (direction: Vector, speed: number) => ({ births: [{ id: 'b', ...still, aim: 'direction', direction, speed }] }) // prettier-ignore

describe('generations', () => {
  const splitting = (generations: number, count = 3) =>
    family({
      parents: { particle: { radius: 0.01, density: 1000, lifespan: 6 }, births: [
        { id: 'b', ...still },
        { id: 'w', kind: 'particles', from: 'parents', into: 'Loose', generations, speed: 1, amount: { count, event: 'death' } },
      ] },
      bears: { amount: { count: 1, event: 'birth' } },
    }) // prettier-ignore

  test('each death gives three, as often as is said', () => {
    const simulation = run(splitting(3))
    const alive = [4, 9, 15, 21, 28].map((frame) => ones(runTo(simulation, frame), 'parents').length)
    expect(alive).toEqual([8, 24, 72, 216, 0])
    const all = ones(simulation)
    // those born at the births of each count one generation more
    expect([1, 2, 3, 4].map((n) => all.filter((one) => one.generation === n).length)).toEqual([
      8, 24, 72, 216,
    ])
  })

  test('a flood is refused with what to do', () => {
    const flood = family({
      parents: { births: [{ id: 'b', ...still }, { id: 'w', kind: 'particles', from: 'parents', into: 'Loose', generations: 60, amount: { count: 50, event: 'birth' } }] },
    }) // prettier-ignore
    expect(() => run(flood)).toThrow(/"w" of parents bears more than a million .* fewer generations/)
  })
})

describe('what they have of their parents', () => {
  test('sizes, colour, attributes and how they are turned', () => {
    const attribute = (mean: number) => [{ id: 'heat', name: 'Heat', type: 'number', birth: { low: mean, high: mean + 1 } }] // prettier-ignore
    const shot = family({
      parents: { ...thrown([1, 0, 0], 2), particle: { radius: { mean: 0.1, spread: 0.9 }, density: 500 }, attributes: attribute(10), influences: [acts('spin')] },
      wake: { attributes: attribute(0), look: { draw: 'instances', instances: { set: [{ mesh: 'box' }] } } },
      bears: { sizes: 0.5, takes: 'attributes', turned: 'parent' },
    }) // prettier-ignore
    const simulation = runTo(run(shot), 25)
    const [parents, wake] = [ones(simulation, 'parents'), ones(simulation)]
    const heat = (n: number) => simulation.populations()[n]!.columns['own.heat']!
    expect(wake.length).toBeGreaterThan(50)
    wake.forEach(({ parent, radius }, k) => {
      expect(radius).toBeCloseTo(parents[parent]!.radius / 2, 5)
      expect(heat(1)[k]).toBe(heat(0)[parent])
    })
    const turned = simulation.populations()[1]!.columns.orientation!
    expect(new Set(Array.from({ length: wake.length }, (_, k) => turned[k * 4 + 3])).size).toBeGreaterThan(20)
  })

  test('laid onto a mesh that moves they stay on it', () => {
    const moving = { id: 'ball', source: { asset: asset(1) }, place: { position: [0, { keys: [[1, 0], [49, 2]] }, 0] } } // prettier-ignore
    const shot = family({
      parents: thrown([0, 1, 0], 1),
      wake: { influences: [acts('ride')] },
      bears: { mesh: 'ball', scatter: 0.3, amount: { spacing: 0.05 } },
      rest: { meshes: [moving] },
    }) // prettier-ignore
    const wake = ones(runTo(run(shot, box(), [sphere(48)]), 25))
    expect(wake.length).toBeGreaterThan(100)
    // flat faces of a ball of 48 × 48 lie at most 0.5 % within it
    for (const { position } of wake) expect(Math.abs(distance(position, [0, 1, 0]) - 1)).toBeLessThan(0.006)
  })
})

test.each([
  [{ bears: { amount: { burst: 5, at: 1 } } }, 'populations[1].births[0].amount', 'particles bear by'],
  [{ bears: { from: 'nobody' } }, 'populations[1].births[0].from', 'there is no population "nobody"'],
  [{ bears: { from: undefined } }, 'populations[1].births[0].from', 'missing'],
  [{ bears: { parentPhase: 'Hot' } }, 'populations[1].births[0].parentPhase', 'its phases are Loose'],
  [{ bears: { amount: { spacing: 0 } } }, 'populations[1].births[0].amount.spacing', 'from 0.000001'],
  [{ bears: { amount: { event: 'sneeze', count: 1 } } }, 'populations[1].births[0].amount.event', 'birth, death, touch'],
  [{ bears: { amount: { event: 'death' } } }, 'populations[1].births[0].amount.count', 'is missing'],
  [{ bears: { mesh: 'gone' } }, 'populations[1].births[0].mesh', 'there is no mesh "gone"'],
  [{ parents: { births: [{ id: 'b', ...still, amount: { spacing: 1 } }] } }, 'populations[0].births[0].amount', 'only births from particles'],
])('%j is refused, with where and what to do', (given, path, message) => {
  const read = readShot(JSON.parse(JSON.stringify(familyOf(given))))
  const found = read.problems?.find((one) => one.path === path)
  expect(found?.message).toContain(message)
}) // prettier-ignore
