import { choice, number, reference, text, varied, vector } from './parameters.ts'

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
  sizes: choice({
    label: 'Sizes',
    help: 'Evenly spread, or many small ones and few large, as snowflakes are',
    default: 'even',
    options: { even: 'evenly', exponential: 'few large' },
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

/** What a mask takes away of a mesh. */
/** How a mesh that moves in its file is played. */
export const PLAYBACK = {
  delay: number({
    label: 'Begins after',
    unit: 'frames',
    help: 'Frames from the first one of the shot to where its motion begins; below 0 it is under way already',
    default: 0,
    range: [-1e6, 1e6],
    usual: [-48, 48],
    step: 1,
  }),
  speed: number({
    label: 'Speed',
    unit: '×',
    help: 'How fast its motion is played: 0.5 takes twice as long',
    default: 1,
    range: [0, 1e3],
    usual: [0, 4],
    step: 0.05,
  }),
  after: choice({
    label: 'Then',
    help: 'What it does when its motion is over',
    default: 'hold',
    options: { hold: 'holds', repeat: 'begins again' },
  }),
}

export const EATEN = {
  mask: reference({ label: 'Eaten by', help: 'The mask that takes the mesh away', to: 'mask' }),
  level: number({
    label: 'Level',
    unit: '',
    help: 'Gone where the mask is at or above this',
    default: 0.5,
    range: [0.0001, 1],
    usual: [0, 1],
    step: 0.01,
  }),
  thickness: number({
    label: 'Thickness',
    unit: 'm',
    help: 'Of the wall that is left, so that the mesh stays closed; 0 leaves a sheet',
    default: 0.02,
    range: [0, 1e4],
    usual: [0, 0.2],
    step: 0.005,
  }),
  crumble: number({
    label: 'Crumble',
    unit: 'm',
    help: 'How far the rim falls in',
    default: 0,
    range: [-1e3, 1e3],
    usual: [0, 0.2],
    step: 0.005,
  }),
  crumbleMask: reference({
    label: 'Crumbles by',
    help: 'A mask that says where the rim falls in',
    to: 'mask',
    absent: 'everywhere',
  }),
}

/** Lettering made into a mesh. */
export const TEXT = {
  text: text({
    label: 'Text',
    help: 'What it says; a new line starts a new line',
    default: 'Tangle',
    most: 400,
  }),
  weight: number({
    label: 'Weight',
    unit: '',
    help: '300 is light, 900 is black',
    default: 700,
    range: [300, 900],
    usual: [300, 900],
    step: 100,
  }),
  size: number({
    label: 'Size',
    unit: 'm',
    help: 'Height of a capital letter',
    default: 1,
    range: [0.001, 1e4],
    usual: [0.05, 4],
    step: 0.05,
  }),
  depth: number({
    label: 'Depth',
    unit: 'm',
    help: 'From front to back',
    default: 0.2,
    range: [0.0001, 1e4],
    usual: [0.01, 1],
    step: 0.01,
  }),
  bevel: number({
    label: 'Bevel',
    unit: 'm',
    help: 'How much of each edge is cut off',
    default: 0.01,
    range: [0, 1e3],
    usual: [0, 0.1],
    step: 0.002,
  }),
}

/** How meshes lie about the particles that they are drawn for. */
export const INSTANCES = {
  fit: choice({
    label: 'Sized by',
    help: 'Each fits its particle, or keeps the size of its mesh',
    default: 'radius',
    options: { radius: 'the particle', own: 'its mesh' },
  }),
  size: number({
    label: 'Size',
    unit: '×',
    help: 'At 1 the longest side is as wide as the particle, or as the mesh',
    default: 1,
    range: [0.0001, 1e4],
    usual: [0.1, 4],
    step: 0.05,
  }),
  turn: vector({
    label: 'Turn',
    unit: '°',
    help: 'Of the mesh about x, then y, then z, until its front looks along Z',
    default: [0, 0, 0],
    range: [-1e6, 1e6],
    usual: [-180, 180],
    step: 5,
  }),
  offset: vector({
    label: 'Offset',
    unit: '×',
    help: 'Of its middle from that of the particle, in halves of its longest side',
    default: [0, 0, 0],
    range: [-1e3, 1e3],
    usual: [-1, 1],
    step: 0.05,
  }),
}

/** Longest edge of a mesh, where it is given. */
export const DETAIL = number({
  label: 'Detail',
  unit: 'm',
  help: 'Longest edge of the triangles; longer ones are split, up to 600 000 triangles',
  default: 0.1,
  range: [0.0001, 1e5],
  usual: [0.01, 1],
  step: 0.01,
})
