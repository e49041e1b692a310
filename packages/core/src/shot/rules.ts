import { number, varied, vector } from './parameters.ts'

/** Parameters that belong to the document itself rather than to a kind. */
export const PLACE = {
  position: vector({
    label: 'Position',
    unit: 'm',
    help: 'Where the mesh stands',
    default: [0, 0, 0],
    range: [-1e6, 1e6],
    usual: [-10, 10],
    step: 0.01,
    keyable: true,
  }),
  rotation: vector({
    label: 'Rotation',
    unit: '°',
    help: 'About x, then y, then z',
    default: [0, 0, 0],
    range: [-1e6, 1e6],
    usual: [-180, 180],
    step: 1,
    keyable: true,
  }),
  scale: vector({
    label: 'Scale',
    unit: '×',
    help: 'Along its own axes; births stay even in world units',
    default: [1, 1, 1],
    range: [-1e4, 1e4],
    usual: [0, 4],
    step: 0.01,
    keyable: true,
  }),
}

export const PARTICLE = {
  radius: varied({
    label: 'Radius',
    unit: 'm',
    help: 'Half the width',
    default: { mean: 0.01, spread: 0.3 },
    range: [1e-6, 1e3],
    usual: [0.001, 0.1],
    step: 0.001,
    spread: 'share',
  }),
  density: varied({
    label: 'Density',
    unit: 'kg/m³',
    help: 'Water 1000, sand 2650, dry snow 100',
    default: 1000,
    range: [0.001, 1e5],
    usual: [50, 3000],
    step: 10,
    spread: 'share',
  }),
  lifespan: varied({
    label: 'Lifespan',
    unit: 'frames',
    help: 'How long each lives',
    default: null,
    absent: 'to the end',
    range: [0.001, 1e6],
    usual: [1, 240],
    step: 1,
    spread: 'unit',
  }),
  speedLimit: number({
    label: 'Speed limit',
    unit: 'm/s',
    help: 'None goes faster than this',
    default: 200,
    range: [0.001, 1e6],
    usual: [1, 200],
    step: 1,
  }),
}
