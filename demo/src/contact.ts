import { MATERIALS } from '@tangle/core'
import { mesh, type DemoShot } from './shot.ts'

/** What bodies of this material do where they touch. */
const grip = (material: string) => {
  const { friction, sliding, sticky, bounce } = MATERIALS.find((one) => one.id === material)!
  return { friction, sliding, sticky, bounce }
}
const density = (material: string): number => MATERIALS.find((one) => one.id === material)!.density
/** A colour of its own for each, at random from a ramp. */
const colours = (phase: string, ramp: unknown) => ({
  id: 'colours',
  kind: 'colour',
  name: 'Colours',
  weights: { [phase]: 1 },
  ramp,
  responses: [
    {
      to: 'at',
      from: 'random',
      curve: [
        [0, 0],
        [1, 1],
      ],
    },
  ],
})

/** A crate of linked grains gives way and runs out to a heap between two boards. */
export const sand: DemoShot = {
  title: 'Sandbox crate',
  build: (asset) => ({
    frames: { first: 1, last: 144, rate: 24 },
    seed: 17,
    quality: { substeps: 10, iterations: 5 },
    meshes: [
      {
        ...mesh(asset, 'crate', 'Crate', { position: [0, 0.04, 0], scale: [0.62, 0.62, 0.62] }),
        visible: false,
      },
      mesh(asset, 'plank', 'Left board', { position: [-0.56, 0.2, 0], rotation: [0, 0, 10] }),
      {
        ...mesh(asset, 'plank', 'Right board', { position: [0.56, 0.2, 0], rotation: [0, 0, -10] }),
        id: 'plank-2',
      },
    ],
    populations: [
      {
        id: 'grains',
        name: 'Grains',
        phases: ['Sand'],
        particle: { radius: { mean: 0.016, spread: 0.2 }, density: density('dry-sand'), lifespan: null },
        births: [
          {
            id: 'fill',
            kind: 'volume',
            mesh: 'crate',
            into: 'Sand',
            fill: 'grid',
            spacing: 0.039,
            amount: { burst: 'all', at: 1 },
          },
        ],
        influences: [
          { id: 'gravity', kind: 'gravity', weights: { Sand: 1 } },
          {
            id: 'links',
            kind: 'link',
            name: 'Damp',
            weights: { Sand: 1 },
            reach: 4.2,
            varies: 0.18,
            stiffness: 0.9,
            breaks: {
              keys: [
                [1, 0.6],
                [20, 0.6],
                [44, 0.004],
              ],
            },
            spread: 0.9,
          },
          { id: 'touch', kind: 'selfCollision', weights: { Sand: 1 }, ...grip('dry-sand') },
          {
            id: 'floor',
            kind: 'floor',
            weights: { Sand: 1 },
            ...grip('dry-sand'),
            friction: 0.7,
            sliding: 0.6,
          },
          {
            id: 'left',
            kind: 'collide',
            name: 'Left board',
            weights: { Sand: 1 },
            mesh: 'plank',
            ...grip('dry-sand'),
          },
          {
            id: 'right',
            kind: 'collide',
            name: 'Right board',
            weights: { Sand: 1 },
            mesh: 'plank-2',
            ...grip('dry-sand'),
          },
          { id: 'rest', kind: 'sleep', weights: { Sand: 1 } },
          colours('Sand', {
            stops: [
              [0, '#7d5f3a'],
              [0.5, '#c49a62'],
              [1, '#ead2a0'],
            ],
          }),
        ],
        look: { draw: 'spheres', colour: { from: 'own', range: [0, 1], ramp: 'brass' } },
      },
    ],
    stage: {
      camera: { position: [0.9, 1.15, 2.2], target: [0, 0.26, 0], fieldOfView: 36 },
      light: { bearing: -40, height: 44, strength: 1.1 },
      backdrop: 'dusk',
    },
  }),
}

/** A jelly, still in the shape of its mould, is cut by the blade of an oar, which takes a part along. */
export const jelly: DemoShot = {
  title: 'Jelly and the oar',
  build: (asset) => ({
    frames: { first: 1, last: 120, rate: 24 },
    seed: 5,
    quality: { substeps: 12, iterations: 6 },
    meshes: [
      { ...mesh(asset, 'jelly', 'Jelly', { position: [0, 0.004, 0] }), visible: false },
      mesh(asset, 'oar', 'Oar', {
        position: [
          {
            keys: [
              [1, 0.006],
              [52, 0.006, 'smooth'],
              [92, 0.17],
            ],
          },
          {
            keys: [
              [1, 0.26],
              [8, 0.26, 'smooth'],
              [46, 0.008],
              [94, 0.008, 'smooth'],
              [116, 0.24],
            ],
          },
          0,
        ],
        rotation: [0, 12, 0],
        scale: [0.4, 1, 1],
      }),
    ],
    populations: [
      {
        id: 'jelly',
        name: 'Jelly',
        phases: ['Soft'],
        particle: { radius: 0.0045, density: density('jelly'), lifespan: null },
        births: [
          {
            id: 'fill',
            kind: 'volume',
            mesh: 'jelly',
            into: 'Soft',
            fill: 'grid',
            spacing: 0.01,
            amount: { burst: 'all', at: 1 },
          },
        ],
        influences: [
          { id: 'gravity', kind: 'gravity', weights: { Soft: 1 } },
          {
            id: 'links',
            kind: 'link',
            name: 'Jelly',
            weights: { Soft: 1 },
            to: 'faces',
            stiffness: 0.82,
            damping: 0.02,
            breaks: 0.9,
            cut: 'oar',
          },
          { id: 'touch', kind: 'selfCollision', weights: { Soft: 1 }, ...grip('jelly'), sticky: 0 },
          {
            id: 'table',
            kind: 'floor',
            name: 'Table',
            weights: { Soft: 1 },
            ...grip('jelly'),
            friction: 0.5,
            sliding: 0.4,
          },
          {
            id: 'blade',
            kind: 'collide',
            name: 'Blade',
            weights: { Soft: 1 },
            mesh: 'oar',
            ...grip('jelly'),
            friction: 0.1,
            sliding: 0.1,
          },
          colours('Soft', {
            stops: [
              [0, '#a3203a'],
              [1, '#e0525f'],
            ],
          }),
        ],
        look: { draw: 'spheres', colour: { from: 'own', range: [0, 1], ramp: 'ember' } },
      },
    ],
    stage: {
      camera: { position: [0.3, 0.3, 0.62], target: [0.06, 0.07, 0], fieldOfView: 34 },
      light: { bearing: -60, height: 40, strength: 1.15 },
      backdrop: 'paper',
    },
  }),
}

/** Coloured net floats tumble out of lettering and pile up below it. */
export const floats: DemoShot = {
  title: 'Letters full of floats',
  build: () => ({
    frames: { first: 1, last: 168, rate: 24 },
    seed: 12,
    quality: { substeps: 8, iterations: 6 },
    meshes: [
      {
        id: 'letters',
        name: 'Letters',
        source: { text: { text: 'QUAY', weight: 900, size: 0.6, depth: 0.3, bevel: 0.02 } },
        place: { position: [0, 0.75, 0] },
      },
    ],
    populations: [
      {
        id: 'floats',
        name: 'Floats',
        phases: ['Loose'],
        particle: { radius: { mean: 0.034, spread: 0.5 }, density: 250, lifespan: null },
        births: [
          {
            id: 'out',
            kind: 'surface',
            mesh: 'letters',
            into: 'Loose',
            amount: { rate: 260, from: 1, to: 120, cap: 1300 },
            offset: 0.052,
            speed: 0.5,
            speedSpread: 0.5,
          },
        ],
        influences: [
          { id: 'gravity', kind: 'gravity', weights: { Loose: 1 } },
          { id: 'air', kind: 'airDrag', weights: { Loose: 1 } },
          {
            id: 'touch',
            kind: 'selfCollision',
            weights: { Loose: 1 },
            bounce: 0.25,
            friction: 0.35,
            sliding: 0.3,
            sticky: 1.5,
          },
          { id: 'floor', kind: 'floor', weights: { Loose: 1 }, bounce: 0.3, friction: 0.5, sliding: 0.45 },
          {
            id: 'letters',
            kind: 'collide',
            name: 'Letters',
            weights: { Loose: 1 },
            mesh: 'letters',
            bounce: 0.3,
            friction: 0.3,
            sliding: 0.25,
            deflection: 8,
          },
          { id: 'rest', kind: 'sleep', weights: { Loose: 1 } },
          colours('Loose', {
            stops: [
              [0, '#1f7a6b'],
              [0.3, '#5fd0b5'],
              [0.55, '#efe8dc'],
              [0.8, '#f2b04a'],
              [1, '#d9523f'],
            ],
          }),
        ],
        look: { draw: 'spheres', colour: { from: 'own', range: [0, 1], ramp: 'ember' } },
      },
    ],
    stage: {
      camera: { position: [0.7, 1.3, 3.6], target: [0, 0.62, 0.1], fieldOfView: 38 },
      light: { bearing: -35, height: 50, strength: 1.15 },
      backdrop: 'dusk',
    },
  }),
}
