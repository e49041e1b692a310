import { readShot, variableValues, type Shot } from '../src/index.ts'

const shot = (): Shot => {
  const read = readShot({
    format: 'tangle-shot',
    version: 1,
    name: 'Varied',
    frames: { first: 1, last: 10, rate: 24 },
    meshes: [
      {
        id: 'wall',
        name: 'Wall',
        source: { asset: `sha256:${'0'.repeat(64)}` },
        place: {
          position: [
            1,
            {
              keys: [
                [1, 0],
                [9, 2],
              ],
            },
            3,
          ],
        },
      },
    ],
    masks: [{ id: 'front', name: 'Front', kind: 'noise' }],
    populations: [
      {
        id: 'dust',
        name: 'Dust',
        phases: ['Held', 'Loose'],
        particle: { radius: { mean: 0.02, spread: 0.5 }, lifespan: 3 },
        births: [{ id: 'b', kind: 'surface', mesh: 'wall', into: 'Held', amount: { rate: 500 } }],
        influences: [
          { id: 'g', kind: 'gravity', weights: { Held: 0, Loose: 1 } },
          {
            id: 't',
            kind: 'turbulence',
            name: 'Gusts',
            strength: {
              keys: [
                [1, 0],
                [5, 2],
              ],
            },
          },
        ],
      },
    ],
  })
  expect(read.problems ?? []).toEqual([])
  return read.shot!
}

const at = (document: Shot, path: (string | number)[]): unknown =>
  path.reduce<unknown>((holder, key) => (holder as Record<string, unknown>)[key], document)

test('every value is a number at its place, each place is there once, and names tell them apart', () => {
  const document = shot()
  const values = variableValues(document)
  expect(values.length).toBeGreaterThan(20)
  for (const { path, value } of values) expect([path, at(document, path)]).toEqual([path, value])
  for (const key of [
    ({ path }: (typeof values)[0]) => path.join('.'),
    ({ name }: (typeof values)[0]) => name,
  ]) {
    const all = values.map(key)
    expect(all.filter((one, i) => all.indexOf(one) < i)).toEqual([])
  }
})

test('seed, places, births, lifespans, weights and parameters are among them; what is keyed is not', () => {
  const known = new Map(variableValues(shot()).map((one) => [one.path.join('.'), one]))
  expect(known.get('seed')).toMatchObject({ name: 'Seed', whole: true })
  expect(known.get('meshes.0.place.position.0')).toMatchObject({
    name: 'Wall · position x',
    value: 1,
    unit: 'm',
  })
  expect(known.has('meshes.0.place.position.1')).toBe(false)
  expect(known.get('populations.0.particle.radius.mean')).toMatchObject({ value: 0.02, unit: 'm' })
  expect(known.get('populations.0.particle.lifespan')).toMatchObject({ value: 3, unit: 'frames' })
  expect(known.get('populations.0.births.0.amount.rate')).toMatchObject({ value: 500, unit: '1/s' })
  expect(known.get('populations.0.influences.0.weights.Loose')).toMatchObject({
    name: 'Dust · Gravity · weight in Loose',
  })
  expect(known.get('populations.0.influences.0.strength')!.unit).toBe('g')
  expect(known.has('populations.0.influences.1.strength')).toBe(false)
  expect([...known.values()].some(({ name }) => name.startsWith('Dust · Gusts · '))).toBe(true)
})

test('any of them, at either end of what is usual, makes a sound shot', () => {
  for (const { path, usual, name } of variableValues(shot())) {
    for (const value of usual) {
      const document = structuredClone(shot())
      const holder = at(document, path.slice(0, -1)) as Record<string, unknown>
      holder[path.at(-1)!] = value
      expect([name, value, readShot(document).problems ?? []]).toEqual([name, value, []])
    }
  }
})
