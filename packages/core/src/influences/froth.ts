import { direction, number, reference } from '../document/parameters.ts'
import { unit, type Vector } from '../math/vector.ts'
import { influence } from './influence.ts'
import { RATE } from './seek.ts'

/** Most particles of the liquid that one looks at, and how many of their widths it looks. */
const MOST = 64
const WIDTHS = 2
/** Σ (1 − r/reach) over particles a width apart that fill all about: π/3·(reach/width)³. */
const FULL = (Math.PI / 3) * WIDTHS ** 3

/** Spray, foam and bubbles: what a liquid carries along without being pushed aside by it. */
export const froth = influence({
  kind: 'froth',
  family: 'forces',
  label: 'Froth',
  glyph: '∴',
  help: 'Spray flies, foam lies on a liquid and goes along with it, bubbles rise in it. They push nothing aside, so they may be as small as you like',
  pitfall: 'It stays where it was born: the liquid it goes with is not named, or it is dead.',
  source: 'After Ihmsen et al., "Unified spray, foam and air bubbles for particle-based fluids" (2012)',
  interacts: true,
  parameters: {
    strength: {
      ...RATE,
      default: 100,
      usual: [0, 200],
      help: 'How firmly the liquid takes them along: 100 means within a hundredth of a second',
    },
    with: reference({ label: 'On', help: 'The liquid that carries them', to: 'population' }),
    rise: number({
      label: 'Rises at',
      unit: 'm/s',
      help: 'How fast bubbles rise in it: those of 1 mm at some 0.1 to 0.3 m/s in water',
      default: 0.3,
      range: [0, 1e3],
      usual: [0, 1],
      step: 0.01,
      keyable: true,
      responsive: true,
    }),
    direction: direction({ label: 'Up', help: 'Which way bubbles rise', default: [0, 1, 0], keyable: true }),
  },
  applyForces(
    { with: of, rise, direction: way },
    { machine, columns, amount, neighbours, widestOf, factors },
  ) {
    const reach = WIDTHS * 2 * widestOf(of)
    const seen = reach > 0 ? neighbours(reach, MOST, of) : null
    if (!seen) return
    const { position, acceleration, damping } = columns.at
    const [upX, upY, upZ] = unit(way as Vector, [0, 1, 0])
    machine.run('carryFroth', columns.count, {
      amount,
      cells: seen.cells,
      position,
      acceleration,
      damping,
      reach,
      full: FULL,
      rise,
      riseFactor: factors('rise'),
      upX,
      upY,
      upZ,
      most: MOST,
    })
  },
})
