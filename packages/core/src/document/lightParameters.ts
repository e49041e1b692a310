/** What shines: particles that glow, threads between them, and the bloom of the picture. */
import { choice, number, reference } from './parameters.ts'

/** Particles that are lights: where they lie over one another they add up. */
export const GLOW = {
  strength: number({
    label: 'Brightness',
    unit: '×',
    help: 'Of the light, in the colour of each: 1 is the colour itself',
    default: 2,
    range: [0, 1e4],
    usual: [0, 10],
    step: 0.05,
  }),
  by: choice({
    label: 'Brightest',
    help: 'All alike, at birth and dim in the end, by their speed, as far along the ramp as what colours them says, or by an attribute of their own',
    default: 'even',
    options: {
      even: 'all alike',
      life: 'at birth',
      speed: 'when fast',
      value: 'at the end of the ramp',
      attribute: 'by an attribute',
    },
  }),
  speed: number({
    label: 'Full at',
    unit: 'm/s',
    help: 'The speed at which they are as bright as they get',
    default: 5,
    range: [1e-6, 1e6],
    usual: [0.1, 50],
    step: 0.1,
    when: { by: 'speed' },
  }),
  attribute: reference({
    label: 'Attribute',
    help: 'A number, the length of a vector, or the brightness of a colour: the more, the brighter',
    to: 'attribute',
    absent: 'none: all alike',
    when: { by: 'attribute' },
  }),
  full: number({
    label: 'Full at',
    unit: '',
    help: 'The value of the attribute at which they are as bright as they get',
    default: 1,
    range: [1e-9, 1e9],
    usual: [0.1, 10],
    step: 0.1,
    when: { by: 'attribute' },
  }),
  halo: number({
    label: 'Halo',
    unit: '×',
    help: 'How far the light of a point reaches, in radii of the particle',
    default: 3,
    range: [1, 100],
    usual: [1, 10],
    step: 0.1,
  }),
}

/** Lines between particles. */
export const THREADS = {
  join: choice({
    label: 'Join',
    help: 'Each with the particle that bore it, with whoever is near, or with the one born before it',
    default: 'parent',
    options: { parent: 'child and parent', near: 'neighbours', order: 'one after another' },
  }),
  frames: number({
    label: 'Seen for',
    unit: 'frames',
    help: 'After the birth of the child',
    default: 3,
    range: [0, 1e6],
    usual: [1, 48],
    step: 1,
    when: { join: 'parent' },
  }),
  reach: number({
    label: 'Reach',
    unit: 'm',
    help: 'Those farther from one another are not joined',
    default: 0.2,
    range: [1e-6, 1e5],
    usual: [0.01, 2],
    step: 0.01,
  }),
  most: number({
    label: 'At most',
    unit: '',
    help: 'Neighbours of each that it is joined with, the nearest first',
    default: 3,
    range: [1, 32],
    usual: [1, 8],
    whole: true,
    when: { join: 'near' },
  }),
  width: number({
    label: 'Width',
    unit: 'm',
    help: 'Of the line',
    default: 0.003,
    range: [0, 1e3],
    usual: [0.001, 0.05],
    step: 0.001,
  }),
  opacity: number({
    label: 'Opacity',
    unit: '',
    help: 'Of one line; where they lie over one another they add up',
    default: 0.5,
    range: [0, 1],
    usual: [0, 1],
    step: 0.01,
  }),
}

/** Light that spills over the edges of what is bright. */
export const BLOOM = {
  strength: number({
    label: 'Bloom',
    unit: '×',
    help: 'How much light spills over, where anything glows; 0 is none',
    default: 0.6,
    range: [0, 10],
    usual: [0, 3],
    step: 0.05,
  }),
  radius: number({
    label: 'Width',
    unit: '',
    help: 'How far it spills: 0 close, 1 wide',
    default: 0.4,
    range: [0, 1],
    usual: [0, 1],
    step: 0.05,
  }),
  threshold: number({
    label: 'From',
    unit: '',
    help: 'What is darker than this does not spill; 1 is white',
    default: 0.8,
    range: [0, 100],
    usual: [0, 2],
    step: 0.05,
  }),
}
