/** What is born at the first frame is there as it will be: influences have changed it already, and no time has gone by. */
import { acting, box, burst, column, runTo, shotOf, start } from './help.ts'

const at = (values: number[], width: number, i = 0): number[] => values.slice(i * width, (i + 1) * width)

test('colour, size, opacity and attributes of their own are set; the next frame has the same', () => {
  const simulation = start(
    shotOf({
      attributes: [{ id: 'heat', name: 'Heat', type: 'number', birth: { mean: 1, spread: 0 } }],
      particle: { radius: { mean: 0.02, spread: 0 } },
      births: [burst({ amount: { burst: 50, at: 1 } })],
      look: { colour: { from: 'own' } },
      influences: [
        acting('colour', { ramp: 'brine', at: 1 }),
        acting('size', { size: 0.5 }),
        acting('fade', { opacity: 0.25 }),
        acting('set', { attribute: 'heat', how: 'once', value: 7 }),
      ],
    }),
    box(),
  )
  const seen = () => ['colour', 'radius', 'opacity', 'own.heat', 'inverseMass'].map((name) => column(simulation, name)) // prettier-ignore
  const [colour, radius, opacity, heat] = seen()
  expect(at(colour!, 3)).not.toEqual([1, 1, 1])
  expect([radius![0], opacity![0], heat![0]]).toEqual([expect.closeTo(0.01, 7), 0.25, 7])
  const first = seen()
  runTo(simulation, 2)
  expect(seen()).toEqual(first)
})

test('what goes on with time has not begun: who spins, tumbles, turns slowly or warms is as it was born', () => {
  const births = [burst({ amount: { burst: 20, at: 1 }, turned: 'random' })]
  const attributes = [{ id: 'heat', name: 'Heat', type: 'number', birth: { mean: 1, spread: 0.2 } }]
  // it turns nobody, but they can be turned
  const still = { ...acting('spin', { strength: 0 }), id: 'still' }
  const plain = start(shotOf({ births, attributes, influences: [still] }))
  for (const one of [
    acting('spin', { rate: 300 }),
    acting('tumble', { start: 500 }),
    acting('face', { to: 'direction', halfLife: 0.5 }),
    acting('set', { attribute: 'heat', how: 'rate', value: 5, rate: 3 }),
  ]) {
    const changed = start(shotOf({ births, attributes, influences: [still, one] }))
    for (const name of ['orientation', 'own.heat'])
      expect([one.kind, name, column(changed, name)]).toEqual([one.kind, name, column(plain, name)])
  }
})

test('phases, masks and responses count at the first frame as they do later', () => {
  const respond = (more: object) => ({ responses: [{ to: 'strength', curve: [[0, 0], [1, 1]], ...more }] }) // prettier-ignore
  const simulation = start(
    shotOf(
      {
        phases: ['Loose', 'Other'],
        births: [
          burst({ amount: { burst: 300, at: 1 } }),
          burst({ id: 'c', into: 'Other', amount: { burst: 100, at: 1 } }),
        ],
        influences: [
          {
            ...acting('size', { size: 3, ...respond({ from: 'mask', mask: 'm' }) }),
            weights: { Loose: 1, Other: 0 },
          },
        ],
      },
      { masks: [{ id: 'm', kind: 'ball', centre: [0.5, 0, 0], radius: 0.4, soft: 0.3 }] },
    ),
  )
  const first = column(simulation, 'radius')
  const phase = column(simulation, 'phase')
  expect(new Set(first.filter((_, i) => phase[i] === 1)).size).toBe(1)
  const loose = first.filter((_, i) => phase[i] === 0)
  expect(Math.max(...loose) / Math.min(...loose)).toBeGreaterThan(2.9)
  runTo(simulation, 2)
  expect(column(simulation, 'radius')).toEqual(first)
})
