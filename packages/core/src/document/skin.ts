/** The surface of a liquid as a mesh, in frames, takes and files. */
import { choice, number } from './parameters.ts'

export const SKIN = {
  cells: number({
    label: 'Cells',
    unit: '',
    help: 'Along the width of a particle: more make a finer mesh, and take longer',
    default: 2,
    range: [0.5, 6],
    usual: [1, 4],
    step: 0.1,
  }),
  smoothing: number({
    label: 'Smoothing',
    unit: '',
    help: 'How far particles are drawn to the middle of their neighbours: 0 shows every one, 1 none',
    default: 0.5,
    range: [0, 1],
    usual: [0, 1],
    step: 0.05,
  }),
  colour: choice({
    label: 'Coloured',
    help: 'Of one colour, the middle of the ramp, or as its particles are',
    default: 'even',
    options: { even: 'evenly', look: 'as its particles' },
  }),
  opacity: number({
    label: 'Opacity',
    unit: '×',
    help: 'How little is seen through it on the stage: water some 0.7, tar 1',
    default: 0.72,
    range: [0.05, 1],
    usual: [0.2, 1],
    step: 0.01,
  }),
  particles: choice({
    label: 'Particles',
    help: 'Whether the stage draws them as well; takes and files have them either way',
    default: 'hidden',
    options: { hidden: 'under the skin', drawn: 'drawn as well' },
  }),
}
