import type { Mesh } from '@tangle/core'
import { box, lathe, loft, moved, prism, together } from './build.ts'
import { BROKEN_MESHES } from './broken.ts'
import { figurehead, paperBoat, paperHeron, quay } from './figures.ts'
import { HAIR_MESHES } from './hair.ts'
import { SCAN_MESHES } from './scan.ts'
import { SLIP_MESHES } from './slip.ts'
import { OIL_MESHES } from './oilOnBrine.ts'
import { STORM_GLASS_MESHES } from './stormGlass.ts'
import { TAR_MESHES } from './tarKettle.ts'

/** The shapes of Heron Quay, at plausible real sizes. */
export interface DemoMesh {
  id: string
  name: string
  make(): Mesh
}

/** Points between two of a profile, so that long walls have vertices of their own. */
function along(from: [number, number], to: [number, number], parts: number): [number, number][] {
  return Array.from({ length: parts }, (_, i) => {
    const t = i / parts
    return [from[0] + (to[0] - from[0]) * t, from[1] + (to[1] - from[1]) * t]
  })
}

/** A tower of 9.4 m: plinth, tapering shaft, gallery, lantern room and dome. */
function lighthouse(): Mesh {
  const shaft = lathe([
    [0, 0],
    [1.75, 0],
    [1.75, 0.35],
    [1.55, 0.45],
    [1.5, 0.75],
    ...along([1.45, 0.8], [0.95, 6.6], 28),
    [0.95, 6.6],
    [1.3, 6.85],
    [1.35, 6.9],
    [1.35, 7.1],
    [0, 7.1],
  ])
  const room = lathe([[0, 7.05], [0.75, 7.05], ...along([0.75, 7.1], [0.75, 8.3], 6), [0.75, 8.3], [0, 8.3]])
  const dome = lathe([
    [0, 8.25],
    [0.98, 8.25],
    [0.98, 8.35],
    ...Array.from({ length: 9 }, (_, i): [number, number] => {
      const turn = ((i + 1) / 10) * (Math.PI / 2)
      return [0.92 * Math.cos(turn), 8.35 + 0.72 * Math.sin(turn)]
    }),
    [0.1, 9.07],
    [0.1, 9.25],
    [0.04, 9.42],
    [0, 9.42],
  ])
  const posts = Array.from({ length: 12 }, (_, i) => {
    const turn = (2 * Math.PI * i) / 12
    return moved(box(0.05, 0.55, 0.05), [1.27 * Math.sin(turn), 7.37, 1.27 * Math.cos(turn)])
  })
  const rail = moved(
    lathe([
      [1.24, 0],
      [1.3, 0],
      [1.3, 0.05],
      [1.24, 0.05],
      [1.24, 0],
    ]),
    [0, 7.62, 0],
  )
  return together(shaft, room, dome, rail, ...posts)
}

/** A glass float for nets, 30 cm across, with the seal of its blower at the top. */
function netFloat(): Mesh {
  const profile = Array.from({ length: 33 }, (_, i): [number, number] => {
    const turn = (i / 32) * Math.PI
    return [0.15 * Math.sin(turn), -0.15 * Math.cos(turn)]
  })
  return together(
    moved(lathe(profile, 48), [0, 0.15, 0]),
    moved(
      lathe(
        [
          [0, 0],
          [0.03, 0],
          [0.028, 0.02],
          [0, 0.025],
        ],
        24,
      ),
      [0, 0.292, 0],
    ),
  )
}

/** The wall of a ship's bell of 40 cm, closed at the rim. */
function bellWall(): Mesh {
  const outside: [number, number][] = [
    [0.2, 0],
    [0.195, 0.02],
    [0.16, 0.08],
    [0.135, 0.15],
    [0.12, 0.23],
    [0.105, 0.29],
    [0.07, 0.325],
    [0, 0.335],
  ]
  const inside: [number, number][] = [
    [0, 0.315],
    [0.06, 0.305],
    [0.09, 0.275],
    [0.105, 0.22],
    [0.12, 0.14],
    [0.145, 0.07],
    [0.18, 0.015],
    [0.2, 0],
  ]
  return lathe([...inside, ...outside.slice(1)], 72)
}

/** Its crown and clapper. */
function clapper(): Mesh {
  const crown = moved(
    lathe(
      [
        [0, 0],
        [0.03, 0],
        [0.03, 0.05],
        [0, 0.06],
      ],
      24,
    ),
    [0, 0.33, 0],
  )
  const tongue = lathe(
    [
      [0, -0.02],
      [0.025, -0.005],
      [0.03, 0.02],
      [0.01, 0.05],
      [0.008, 0.3],
      [0, 0.305],
    ],
    24,
  )
  return together(crown, tongue)
}

const bell = (): Mesh => together(bellWall(), clapper())

/** A storm lantern, 36 cm: tank, glass, cap and ring. */
function lantern(): Mesh {
  const tank = lathe(
    [
      [0, 0],
      [0.085, 0],
      [0.09, 0.01],
      [0.09, 0.055],
      [0.06, 0.075],
      [0, 0.08],
    ],
    40,
  )
  const glass = lathe(
    [
      [0, 0.08],
      [0.045, 0.08],
      [0.07, 0.12],
      [0.075, 0.15],
      [0.065, 0.19],
      [0.04, 0.23],
      [0, 0.23],
    ],
    40,
  )
  const cap = lathe(
    [
      [0, 0.225],
      [0.075, 0.225],
      [0.07, 0.245],
      [0.035, 0.27],
      [0.03, 0.3],
      [0.045, 0.305],
      [0.02, 0.33],
      [0, 0.335],
    ],
    40,
  )
  const bars = [0, 1, 2, 3].map((i) => {
    const turn = (Math.PI / 2) * i + Math.PI / 4
    return moved(box(0.008, 0.17, 0.008), [0.085 * Math.sin(turn), 0.15, 0.085 * Math.cos(turn)])
  })
  return together(tank, glass, cap, ...bars)
}

/** A tarred shed, 6 × 4 m, its roof steep or flat. */
function shed(pitch: 'steep' | 'flat'): Mesh {
  const wall: [number, number][] =
    pitch === 'steep'
      ? [
          [-2, 0],
          [2, 0],
          [2, 2.6],
          [0, 5.4],
          [-2, 2.6],
        ]
      : [
          [-2, 0],
          [2, 0],
          [2, 2.6],
          [-2, 3.0],
        ]
  const door = moved(box(1.1, 2, 0.08), [0, 1, 3.02])
  const sill = moved(box(4.2, 0.18, 6.2), [0, 0.09, 0])
  return together(prism(wall, 6), door, sill)
}

/** A crate of sand-coloured boards, one metre wide. */
function crate(): Mesh {
  const boards = [0, 1, 2, 3].map((i) => moved(box(1.06, 0.2, 1.06), [0, 0.125 + i * 0.25, 0]))
  return together(moved(box(1, 1, 1), [0, 0.5, 0]), ...boards)
}

/** A painted board, 4.4 × 1.3 m, in a frame, on two posts. */
function signBoard(): Mesh {
  const rails = [0.62, -0.62].map((y) => moved(box(4.5, 0.1, 0.14), [0, 1.9 + y, 0]))
  const stiles = [2.2, -2.2].map((x) => moved(box(0.1, 1.3, 0.14), [x, 1.9, 0]))
  const posts = [1.7, -1.7].map((x) => moved(box(0.14, 2.8, 0.12), [x, 1.4, -0.13]))
  return together(moved(box(4.4, 1.3, 0.06), [0, 1.9, 0]), ...rails, ...stiles, ...posts)
}

/** A bank of fog, a ball of one metre and a half. */
function fogBank(): Mesh {
  const profile = Array.from({ length: 41 }, (_, i): [number, number] => {
    const turn = (i / 40) * Math.PI
    return [0.75 * Math.sin(turn), -0.75 * Math.cos(turn)]
  })
  return lathe(profile, 72)
}

/** A board for a sandbox, 1.2 m long and 40 cm high, 3 cm thick. */
const plank = (): Mesh => box(0.03, 0.4, 1.2)

/** A jelly out of its mould, 17 cm across: waves around and a dent at the top. */
function jellyShape(): Mesh {
  const around = 48
  const ring = (radius: number, height: number, wave: number): [number, number, number][] =>
    Array.from({ length: around }, (_, s) => {
      const turn = (2 * Math.PI * s) / around
      const r = radius * (1 + wave * Math.cos(8 * turn))
      return [r * Math.sin(turn), height, r * Math.cos(turn)]
    })
  return loft([
    ring(0.085, 0, 0.02),
    ring(0.084, 0.02, 0.06),
    ring(0.078, 0.05, 0.07),
    ring(0.07, 0.08, 0.06),
    ring(0.058, 0.1, 0.04),
    ring(0.04, 0.106, 0),
    ring(0.02, 0.102, 0),
  ])
}

/** A cast bollard, 62 cm. */
const bollard = (): Mesh =>
  lathe(
    [
      [0, 0],
      [0.24, 0],
      [0.24, 0.05],
      [0.15, 0.09],
      [0.13, 0.42],
      [0.21, 0.48],
      [0.22, 0.55],
      [0.12, 0.61],
      [0, 0.62],
    ],
    40,
  )

/** The lower part of an oar, 62 cm: blade and shaft, standing on the edge of its blade. */
function oar(): Mesh {
  const blade = prism(
    [
      [-0.012, 0],
      [0.012, 0],
      [0.014, 0.02],
      [0.016, 0.2],
      [0.012, 0.3],
      [-0.012, 0.3],
      [-0.016, 0.2],
      [-0.014, 0.02],
    ],
    0.24,
  )
  const shaft = moved(
    lathe(
      [
        [0, 0],
        [0.016, 0],
        [0.018, 0.34],
        [0, 0.34],
      ],
      20,
    ),
    [0, 0.28, 0],
  )
  return together(blade, shaft)
}

/** A flat sheet, 12 × 12 m, open on purpose. */
function sky(): Mesh {
  const n = 12
  const positions = Array.from({ length: (n + 1) ** 2 }, (_, i) => [
    (i % (n + 1)) - n / 2,
    0,
    Math.floor(i / (n + 1)) - n / 2,
  ]).flat()
  const triangles = Array.from({ length: n * n }, (_, i) => {
    const a = Math.floor(i / n) * (n + 1) + (i % n)
    return [a, a + 1, a + n + 2, a, a + n + 2, a + n + 1] // faces down
  }).flat()
  return { positions: new Float32Array(positions), triangles: new Uint32Array(triangles) }
}

/** A piece of ground, 34 × 20 m and 20 cm thick. */
const ground = (): Mesh => box(34, 0.2, 20)

export const MESHES: DemoMesh[] = [
  { id: 'lighthouse', name: 'Lighthouse', make: lighthouse },
  { id: 'lantern', name: 'Lantern', make: lantern },
  { id: 'bell', name: "Ship's bell", make: bell },
  { id: 'bell-wall', name: 'Bell wall', make: bellWall },
  { id: 'clapper', name: 'Clapper and crown', make: clapper },
  { id: 'fog-bank', name: 'Fog bank', make: fogBank },
  { id: 'sign-board', name: 'Sign board', make: signBoard },
  { id: 'net-float', name: 'Net float', make: netFloat },
  { id: 'paper-boat', name: 'Paper boat', make: paperBoat },
  { id: 'paper-heron', name: 'Paper heron', make: paperHeron },
  { id: 'figurehead', name: 'Figurehead', make: figurehead },
  { id: 'quay', name: 'Quay', make: quay },
  { id: 'steep-shed', name: 'Steep shed', make: () => shed('steep') },
  { id: 'flat-shed', name: 'Flat shed', make: () => shed('flat') },
  { id: 'crate', name: 'Sandbox crate', make: crate },
  { id: 'plank', name: 'Plank', make: plank },
  { id: 'jelly', name: 'Jelly', make: jellyShape },
  { id: 'oar', name: 'Oar', make: oar },
  { id: 'bollard', name: 'Bollard', make: bollard },
  { id: 'sky', name: 'Sky sheet', make: sky },
  { id: 'ground', name: 'Ground', make: ground },
  ...SLIP_MESHES,
  ...TAR_MESHES,
  ...STORM_GLASS_MESHES,
  ...OIL_MESHES,
  ...BROKEN_MESHES,
  ...SCAN_MESHES,
  ...HAIR_MESHES,
]
