/** What particles show of their way. */
import { choice, number, ramp } from './parameters.ts'

/** Particles drawn as long as they go. */
export const STREAK = {
  shutter: number({
    label: 'Shutter',
    unit: 'frames',
    help: 'How much of its way a streak shows: 0.5 is a film camera’s half of a frame',
    default: 0.5,
    range: [0, 100],
    usual: [0, 2],
    step: 0.05,
  }),
}

/** The line that a particle leaves behind. */
export const TRAIL = {
  length: number({
    label: 'Length',
    unit: '',
    help: 'How far back it reaches, at most to the birth of the particle',
    default: 24,
    range: [0.01, 1e5],
    usual: [1, 120],
    step: 1,
  }),
  unit: choice({
    label: 'Length in',
    help: 'Frames or seconds',
    default: 'frames',
    options: { frames: 'frames', seconds: 'seconds' },
  }),
  step: number({
    label: 'Step',
    unit: 'frames',
    help: 'From one point of the line to the next',
    default: 1,
    range: [1, 1000],
    usual: [1, 12],
    whole: true,
  }),
  width: number({
    label: 'Width',
    unit: 'm',
    help: 'At the particle',
    default: 0.004,
    range: [0, 1e3],
    usual: [0.001, 0.1],
    step: 0.001,
  }),
  widthEnd: number({
    label: 'Width at the end',
    unit: 'm',
    help: 'At the far end',
    default: 0,
    range: [0, 1e3],
    usual: [0, 0.1],
    step: 0.001,
  }),
  colour: choice({
    label: 'Colour',
    help: 'That of the particle now, or a ramp along the line',
    default: 'own',
    options: { own: 'the particle’s', ramp: 'a ramp' },
  }),
  ramp: ramp({
    label: 'Ramp',
    help: 'From the particle to the far end',
    default: 'ember',
    when: { colour: 'ramp' },
  }),
  opacityEnd: number({
    label: 'Opacity at the end',
    unit: '',
    help: '0 fades out',
    default: 0,
    range: [0, 1],
    usual: [0, 1],
    step: 0.01,
  }),
}
