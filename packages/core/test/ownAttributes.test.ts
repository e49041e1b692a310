/** Attributes of the artist's own: how they are born, changed and read. */
import { weld, type Mesh, type Shot } from '../src/index.ts'
import { ASSET, acting, box, burst, column, runTo, shotOf, start } from './help.ts'

type Loose = Record<string, unknown>
const own = (birth: unknown, more: Loose = {}): Loose => ({ id: 'heat', name: 'Heat', birth, ...more })
const values = (attribute: Loose, rest: Loose = {}, frame = 1, mesh: Mesh = box()): number[] =>
  column(runTo(start(shotOf({ births: [burst()], attributes: [attribute] }, rest), mesh), frame), 'own.heat')
const mean = (all: number[]): number => all.reduce((a, b) => a + b, 0) / all.length
const part = (all: number[], k: number): number[] => all.filter((_, i) => i % 3 === k)

describe('at birth', () => {
  test('mean and spread: evenly between, whatever the seed', () => {
    for (const seed of [1, 77, 4_000_000]) {
      const all = values(own({ mean: 20, spread: 5 }), { seed })
      expect([Math.min(...all) >= 15, Math.max(...all) <= 25]).toEqual([true, true])
      // of 1000 even draws: the standard error of the mean is 5/√3/√1000 = 0.09
      expect(Math.abs(mean(all) - 20)).toBeLessThan(0.4)
      const variance = mean(all.map((x) => (x - 20) ** 2))
      expect(variance / (25 / 3)).toBeCloseTo(1, 0)
    }
    expect(new Set(values(own({ mean: 3, spread: 0 })))).toEqual(new Set([3]))
  })

  test('of a vector each part varies by itself; a colour is linear', () => {
    const vector = values(own({ mean: [1, -2, 0], spread: 0.5 }, { type: 'vector' }))
    expect([0, 1, 2].map((k) => Math.round(mean(part(vector, k)) * 10) / 10)).toEqual([1, -2, 0])
    const correlation = mean(part(vector, 0).map((x, i) => (x - 1) * (part(vector, 1)[i]! + 2)))
    expect(Math.abs(correlation)).toBeLessThan(0.02)
    const colour = values(own({ mean: '#808080', spread: 0 }, { type: 'colour' }))
    // sRGB 128 in linear light, IEC 61966-2-1
    for (const x of colour.slice(0, 6)) expect(x).toBeCloseTo(0.21586, 4)
  })

  test('between two values: colours on the line between them, each part of a vector by itself', () => {
    const colour = values(own({ low: '#000000', high: '#ff8000' }, { type: 'colour' }))
    const [red, green] = [part(colour, 0), part(colour, 1)]
    red.forEach((x, i) => expect(green[i]).toBeCloseTo(x * 0.21586, 3))
    expect([Math.min(...red) < 0.01, Math.max(...red) > 0.99]).toEqual([true, true])
    const vector = values(own({ low: [0, 0, 1], high: [2, 4, 1] }, { type: 'vector' }))
    expect([0, 1, 2].map((k) => Math.round(mean(part(vector, k)) * 5) / 5)).toEqual([1, 2, 1])
    const together = mean(part(vector, 0).map((x, i) => (x - 1) * (part(vector, 1)[i]! - 2)))
    expect(Math.abs(together)).toBeLessThan(0.1)
  })

  test('whole numbers are whole, and every one of the range comes', () => {
    const all = values(own({ low: 1, high: 6 }, { type: 'whole' }))
    expect([...new Set(all)].sort()).toEqual([1, 2, 3, 4, 5, 6])
    // each about a sixth: 167 ± 4·√(1000·1/6·5/6) = 47
    for (let side = 1; side <= 6; side++)
      expect(Math.abs(all.filter((x) => x === side).length - 1000 / 6)).toBeLessThan(48)
  })

  test('from a list, by weight; a weight of 0 never', () => {
    const list = [
      { value: 5, weight: 3 },
      { value: 7, weight: 1 },
      { value: 9, weight: 0 },
    ]
    const all = values(own({ list }))
    expect([...new Set(all)].sort()).toEqual([5, 7])
    expect(Math.abs(all.filter((x) => x === 5).length - 750)).toBeLessThan(55)
  })

  test('by a mask at the place of birth', () => {
    const masks = [{ id: 'm', kind: 'slab', position: [0, 0, 0], direction: [1, 0, 0], soft: 0 }]
    const shot = shotOf({ births: [burst()], attributes: [own({ mask: 'm', low: 1, high: 9 })] }, { masks })
    const simulation = start(shot)
    const x = part(column(simulation, 'position'), 0)
    column(simulation, 'own.heat').forEach((value, i) => expect([i, value]).toEqual([i, x[i]! <= 0 ? 9 : 1]))
  })

  /** A unit square in two triangles, with a number at its corners that equals x, and colours. */
  const painted = (): Mesh =>
    weld({
      positions: new Float32Array([0, 0, 0, 1, 0, 0, 1, 0, 1, 0, 0, 1]),
      triangles: new Uint32Array([0, 2, 1, 0, 3, 2]),
      uvs: new Float32Array([0, 0, 2, 2, 2, 0, 0, 0, 0, 2, 2, 2]),
      data: {
        weight: { width: 1, values: new Float32Array([0, 1, 1, 0]) },
        colour: { width: 3, values: new Float32Array([1, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 1]) },
      },
    })
  test.each([
    ['surface', { amount: { burst: 500, at: 1 } }],
    ['vertices', { amount: { burst: 'all', at: 1 } }],
  ])('what the mesh carries, read where they are born: %s', (kind, more) => {
    const attributes = [
      own({ data: 'weight' }),
      { id: 'paint', name: 'Paint', type: 'colour', birth: { data: 'colour' } },
    ]
    const simulation = start(shotOf({ births: [burst({ kind, ...more })], attributes }), painted())
    const position = column(simulation, 'position')
    const paint = column(simulation, 'own.paint')
    const heat = column(simulation, 'own.heat')
    expect(heat.length).toBeGreaterThan(3)
    heat.forEach((value, i) => {
      expect(value).toBeCloseTo(position[i * 3]!, 4)
      expect(paint[i * 3 + 2]).toBeCloseTo(position[i * 3 + 2]!, 4)
      expect(paint[i * 3]! + paint[i * 3 + 2]!).toBeCloseTo(1, 4)
    })
  })

  test('texture coordinates, also on a mesh that is split for its detail', () => {
    const attribute = own({ data: 'uv' }, { type: 'vector' })
    const shot = shotOf(
      { births: [burst()], attributes: [attribute] },
      { meshes: [{ id: 'box', source: { asset: ASSET }, detail: 0.2 }] },
    )
    const simulation = start(shot, painted())
    const position = column(simulation, 'position')
    column(simulation, 'own.heat').forEach((value, i) => {
      if (i % 3 < 2) expect(value).toBeCloseTo(2 * position[Math.floor(i / 3) * 3 + (i % 3) * 2]!, 3)
    })
  })

  test('two attributes born alike are not alike, and one more does not change the others', () => {
    const two = [own({ low: 0, high: 1 }), own({ low: 0, high: 1 }, { id: 'cold', name: 'Cold' })]
    const simulation = start(shotOf({ births: [burst()], attributes: two }))
    const [heat, cold] = [column(simulation, 'own.heat'), column(simulation, 'own.cold')]
    expect(heat).not.toEqual(cold)
    expect(values(own({ low: 0, high: 1 }))).toEqual(heat)
    const plain = start(shotOf({ births: [burst()] }))
    expect(column(plain, 'position')).toEqual(column(simulation, 'position'))
  })
})

describe('Set', () => {
  const run = (
    influence: Loose,
    birth: unknown,
    frame: number,
    attribute: Loose = {},
    quality: Loose = {},
  ) => {
    const population = {
      births: [burst({ amount: { burst: 50, at: 1 } })],
      attributes: [own(birth, attribute)],
      influences: [acting('set', { attribute: 'heat', ...influence })],
    }
    return column(runTo(start(shotOf(population, { quality })), frame), 'own.heat')
  }

  test.each([1, 3, 8])('towards a value at a rate: e^(−r·t) to six digits, with %p substeps', (substeps) => {
    const [value] = run({ how: 'rate', value: 100, rate: 2 }, { mean: 0, spread: 0 }, 25, {}, { substeps })
    expect(value! / (100 * (1 - Math.exp(-2)))).toBeCloseTo(1, 6)
  })

  test('adding so much a second; at once; and strength as a share', () => {
    expect(run({ how: 'sum', value: 3 }, { mean: 1, spread: 0 }, 25)[0]).toBeCloseTo(4, 5)
    expect(run({ how: 'sum', value: 3, strength: -2 }, { mean: 1, spread: 0 }, 25)[0]).toBeCloseTo(-5, 5)
    expect(run({ how: 'once', value: 7 }, { mean: 1, spread: 0 }, 2)[0]).toBe(7)
  })

  test('whole numbers stay whole; vectors and colours are set part by part', () => {
    const none = { mean: 0, spread: 0 }
    // there is no way from one whole number to the next: they are set at once, and rounded
    for (const how of ['once', 'rate', 'sum'])
      expect(run({ how, value: 9.6, rate: 1 }, none, 3, { type: 'whole' })[0]).toBe(10)
    const vector = run({ vector: [1, 2, 3] }, { mean: [0, 0, 0], spread: 0 }, 2, { type: 'vector' })
    expect(vector.slice(0, 3)).toEqual([1, 2, 3])
    const colour = run({ colour: '#ff0000' }, { mean: '#0000ff', spread: 0 }, 2, { type: 'colour' })
    expect(colour.slice(0, 3)).toEqual([1, 0, 0])
  })

  test('responses of the value: it follows what is read', () => {
    const responses = [{ to: 'value', from: 'y', curve: [[-10, -10], [10, 10]] }] // prettier-ignore
    const population = {
      births: [burst()],
      attributes: [own({ mean: 0, spread: 0 })],
      influences: [acting('set', { attribute: 'heat', value: 2, responses })],
    }
    const simulation = runTo(start(shotOf(population)), 3)
    const position = column(simulation, 'position')
    column(simulation, 'own.heat').forEach((value, i) =>
      expect(value).toBeCloseTo(2 * position[i * 3 + 1]!, 4),
    )
  })
})

describe('reading', () => {
  test('a response makes an attribute the particle’s own speed: each drifts at the pace it was born with', () => {
    const population = {
      births: [burst()],
      attributes: [own({ low: 1, high: 3 }, { id: 'pace', name: 'Pace', unit: 'm/s' })],
      influences: [
        acting('wind', {
          speed: 10,
          strength: 1,
          direction: [1, 0, 0],
          gusts: 0,
          responses: [
            {
              to: 'speed',
              from: 'own',
              attribute: 'pace',
              curve: [
                [0, 0],
                [10, 1],
              ],
            },
          ],
        }),
      ],
    }
    const parameters = shotOf(population).populations[0]!.influences[0]!
    expect(parameters.responses).toHaveLength(1)
    const simulation = runTo(start(shotOf(population)), 120)
    const pace = column(simulation, 'own.pace')
    const velocity = column(simulation, 'velocity')
    pace.forEach((value, i) => expect(velocity[i * 3]! / value).toBeCloseTo(1, 1))
  })

  test('a cue by an attribute takes exactly those above the level', () => {
    const population = {
      phases: ['Cool', 'Loose'],
      births: [burst({ into: 'Cool' })],
      attributes: [own({ low: 0, high: 10 })],
      cues: [
        { id: 'c', from: 'Cool', to: 'Loose', when: { kind: 'attribute', attribute: 'heat', above: 4 } },
      ],
    }
    const simulation = runTo(start(shotOf(population)), 3)
    const phase = column(simulation, 'phase')
    const heat = column(simulation, 'own.heat')
    heat.forEach((value, i) => expect([i, phase[i]]).toEqual([i, value > 4 ? 1 : 0]))
    expect(new Set(phase).size).toBe(2)
  })

  test('measures give median, 10 % and 90 %; snapshots keep them', () => {
    const shot = shotOf({ births: [burst()], attributes: [own({ low: 0, high: 100 })] })
    const simulation = start(shot)
    const { low, median, high } = simulation.measures().populations[0]!.attributes.heat!
    for (const [value, expected] of [[low, 10], [median, 50], [high, 90]] as const) expect(Math.abs(value - expected)).toBeLessThan(7) // prettier-ignore
    const other = start(shot)
    runTo(other, 5)
    other.restore(simulation.snapshot())
    expect(column(other, 'own.heat')).toEqual(column(simulation, 'own.heat'))
  })
})

describe('what is wrong is said with where and how to mend it', () => {
  const problems = (attribute: Loose, more: Loose = {}): string => {
    try {
      shotOf({ births: [burst()], attributes: [attribute], ...more })
      return ''
    } catch (error) {
      return (error as Error).message
    }
  }
  test.each<[string, Loose, RegExp]>([
    [
      'a reserved name',
      { ...own({ mean: 1, spread: 0 }), id: 'velocity' },
      /attributes\[0\]\.id.*velocity.*take another/,
    ],
    [
      'an unknown type',
      own({ mean: 1, spread: 0 }, { type: 'matrix' }),
      /attributes\[0\]\.type.*number, whole, vector, colour/,
    ],
    ['a vector where a number is due', own({ mean: [1, 2, 3], spread: 0 }), /birth\.mean.*must be a number/],
    [
      'a fraction in a whole number',
      own({ mean: 1.5, spread: 0 }, { type: 'whole' }),
      /birth\.mean.*whole number/,
    ],
    ['a wrong colour', own({ mean: 'red', spread: 0 }, { type: 'colour' }), /birth\.mean.*#rrggbb/],
    ['no way to be born', own({ of: 3 }), /birth.*one of list, mask, data, low, mean/],
    ['an empty list', own({ list: [] }), /birth\.list.*at least one/],
    ['a mask that is not there', own({ mask: 'nowhere', low: 0, high: 1 }), /nowhere/],
  ])('%s', (_, attribute, message) => expect(problems(attribute)).toMatch(message))

  test('twice the same id, and an influence, cue, response or look of one that is not there', () => {
    const fine = own({ mean: 1, spread: 0 })
    expect(problems(fine)).toBe('')
    expect(problems(fine, { attributes: [fine, fine] })).toMatch(/heat/)
    expect(problems(fine, { influences: [acting('set', { attribute: 'cold' })] })).toMatch(/cold/)
    const response = { to: 'strength', from: 'own', attribute: 'cold', curve: [[0, 0], [1, 1]] } // prettier-ignore
    expect(problems(fine, { influences: [acting('gravity', { responses: [response] })] })).toMatch(/cold/)
    const look = { colour: { from: 'attribute', attribute: 'cold', range: [0, 1], ramp: 'ember' } }
    expect(problems(fine, { look })).toMatch(/cold/)
  })

  test('a mesh without the data that is asked for is a check, and all get zero', () => {
    const shot: Shot = shotOf({ births: [burst()], attributes: [own({ data: 'weight' })] })
    expect(new Set(column(start(shot), 'own.heat'))).toEqual(new Set([0]))
  })
})
