/** The light of a shot, what lies around it, and how the picture is exposed: what is seen, never what is computed. */
import { choice, number } from './parameters.ts'

/** The sun. */
export const LIGHT = {
  bearing: number({
    label: 'Bearing',
    unit: '°',
    help: 'From which side it comes, clockwise from the mark on the floor',
    default: -50,
    range: [-360, 360],
    usual: [-180, 180],
    step: 1,
  }),
  height: number({
    label: 'Height',
    unit: '°',
    help: 'Above the horizon',
    default: 40,
    range: [-90, 90],
    usual: [-10, 90],
    step: 1,
  }),
  strength: number({
    label: 'Strength',
    unit: '×',
    help: 'Of the light that comes from it',
    default: 1,
    range: [0, 100],
    usual: [0, 3],
    step: 0.05,
  }),
  softness: number({
    label: 'Soft shadows',
    unit: '×',
    help: 'How far the edges of shadows run out: 0 is as sharp as they can be drawn',
    default: 1,
    range: [0, 10],
    usual: [0, 4],
    step: 0.1,
  }),
  shade: number({
    label: 'Particles shade',
    unit: '×',
    help: 'How much of the light particles keep from one another, from meshes and from the floor; 0 is none',
    default: 1,
    range: [0, 1],
    usual: [0, 1],
    step: 0.05,
  }),
}

/** What lies around: light from all sides, the floor and the air. */
export const SURROUNDINGS = {
  brightness: number({
    label: 'Light from around',
    unit: '×',
    help: 'Of the sky and the ground, which reaches into shadows',
    default: 1,
    range: [0, 20],
    usual: [0, 3],
    step: 0.05,
  }),
  turn: number({
    label: 'Turned',
    unit: '°',
    help: 'What is around, about the upright axis: where it mirrors in metal and glass',
    default: 0,
    range: [-360, 360],
    usual: [-180, 180],
    step: 1,
  }),
  floor: choice({
    label: 'Floor',
    help: 'A ground that takes light and shadows, rings a metre apart alone, or nothing',
    default: 'ground',
    options: { ground: 'ground', rings: 'rings', none: 'none' },
  }),
  fog: number({
    label: 'Fog',
    unit: 'm',
    help: 'At this distance half of what is seen is fog, in the colour of the horizon; 0 is none',
    default: 0,
    range: [0, 1e6],
    usual: [0, 100],
    step: 1,
  }),
}

/** From light to the colours of the picture. */
export const PICTURE = {
  exposure: number({
    label: 'Exposure',
    unit: 'stops',
    help: 'One more is twice as bright',
    default: 0,
    range: [-20, 20],
    usual: [-3, 3],
    step: 0.1,
  }),
  tone: choice({
    label: 'Tone',
    help: 'Colours as they are, cut off where they are too bright; or on a curve as film has, which keeps what is bright from burning out',
    default: 'straight',
    options: { straight: 'straight', film: 'film' },
  }),
}
