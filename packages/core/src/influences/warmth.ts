import { number } from '../document/parameters.ts'
import { APPLIED, influence } from './influence.ts'

const positive = { range: [0, 1e9] as [number, number], keyable: true as const }

/** Gives particles a temperature, and lets heat flow. What flows is in simulation/heat.ts. */
export const warmth = influence({
  kind: 'warmth',
  family: 'change',
  label: 'Warmth',
  glyph: '°',
  help: 'They have a temperature: it goes from warm ones to cold ones, of other populations too, and is lost where they lie bare',
  pitfall: 'Nothing warms up: they lie apart, so no heat flows. A pace above 1 makes it quicker.',
  source:
    'Fourier; Cleary, Monaghan, "Conduction modelling using smoothed particle hydrodynamics" (1999); Newton’s law of cooling',
  attributes: ['temperature'],
  interacts: true,
  parameters: {
    strength: { ...APPLIED, help: 'How much of the heat flows: at 0 they keep their temperature' },
    born: number({
      label: 'At birth',
      unit: '°C',
      help: 'How warm they are born',
      default: 20,
      range: [-273.15, 1e5],
      usual: [0, 200],
      step: 1,
      keyable: true,
    }),
    around: number({
      label: 'Around',
      unit: '°C',
      help: 'What those that lie bare, to the air or to a wall, cool or warm to',
      default: 20,
      range: [-273.15, 1e5],
      usual: [0, 100],
      step: 1,
      keyable: true,
    }),
    loss: number({
      label: 'Loss',
      unit: 'W/(m²K)',
      help: 'How fast they do: still air 10, wind 50, a wall of metal 500 and more',
      default: 10,
      usual: [0, 1000],
      step: 1,
      ...positive,
    }),
    conductivity: number({
      label: 'Conducts',
      unit: 'W/(m·K)',
      help: 'How fast heat goes from one to the next: oil 0.14, water 0.6, tar 0.2, iron 80',
      default: 0.6,
      usual: [0, 100],
      step: 0.01,
      ...positive,
    }),
    capacity: number({
      label: 'Holds',
      unit: 'J/(kg·K)',
      help: 'Heat that a kilogram takes up for a degree: water 4186, oil 2000, tar 1700, iron 450',
      default: 4186,
      range: [1, 1e9],
      usual: [100, 5000],
      step: 10,
      keyable: true,
    }),
    pace: number({
      label: 'Sped up',
      unit: '×',
      help: 'Heat is slow: at 100, each second of the shot is a minute and a half of it',
      default: 1,
      usual: [1, 1000],
      step: 1,
      ...positive,
    }),
  },
  heat: ({ born, around, loss, conductivity, capacity, pace }) => ({
    born,
    around,
    loss,
    conductivity,
    capacity,
    pace,
  }),
})
