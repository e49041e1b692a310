import { LIQUID } from '../constraints/fluid.ts'
import { number } from '../document/parameters.ts'
import { APPLIED, influence } from './influence.ts'

/** Makes particles a liquid. Its kernels, assembly/fluid.ts, give the equations. */
export const liquid = influence({
  kind: 'liquid',
  family: 'constraints',
  startsIn: 'all',
  label: 'Liquid',
  glyph: '≈',
  help: 'They keep their volume and flow: each fills a cell as wide as it is, and weighs what its density says',
  source:
    'Macklin, Müller, "Position based fluids" (2013); viscosity: Weiler et al. (2018); swirl: Fedkiw, Stam, Jensen (2001)',
  attributes: ['startVelocity', 'pressure', 'compression'],
  interacts: true,
  parameters: {
    strength: { ...APPLIED, help: 'Above 0 they are liquid, at 0 they are not' },
    viscosity: number({
      label: 'Viscosity',
      unit: 'Pa·s',
      help: 'How thick it is: water 0.001, oil 0.1, honey 10',
      default: 0.001,
      range: [0, 1e6],
      usual: [0, 20],
      step: 0.001,
      keyable: true,
      responsive: true,
    }),
    weight: number({
      label: 'Weight',
      unit: '×',
      help: 'How heavy it is, times its density, in as much room: with a response to temperature what is warm rises',
      default: 1,
      range: [0.01, 100],
      usual: [0.5, 1.5],
      step: 0.01,
      keyable: true,
      responsive: true,
    }),
    swirl: number({
      label: 'Swirl',
      unit: '',
      help: 'Gives eddies back what particles lose of them: 0 as it comes, 0.3 lively, 1 wild',
      default: 0,
      range: [0, 5],
      usual: [0, 1],
      step: 0.01,
      keyable: true,
    }),
  },
  constraint: LIQUID,
  rule: ({ viscosity, weight, swirl }) => ({ viscosity, weight, swirl }),
})
