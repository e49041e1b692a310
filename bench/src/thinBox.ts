import { readShot, weld, type Mesh } from '@tangle/core'
import { bake, createNodeMachine } from '@tangle/runtime/node'

const ASSET = `sha256:${'0'.repeat(64)}`

/** A closed box of 4 × `high` × 4 m. */
function thinBox(high: number): Mesh {
  const corners = Array.from({ length: 8 }, (_, i) => [((i & 1) - 0.5) * 4, (((i >> 1) & 1) - 0.5) * high, ((i >> 2) - 0.5) * 4]) // prettier-ignore
  const sides = [[0, 2, 3, 1], [4, 5, 7, 6], [0, 1, 5, 4], [2, 6, 7, 3], [0, 4, 6, 2], [1, 3, 7, 5]] // prettier-ignore
  return weld({
    positions: new Float32Array(corners.flat()),
    triangles: new Uint32Array(sides.flatMap(([a, b, c, d]) => [a!, b!, c!, a!, c!, d!])),
  })
}

/** 100,000 particles at up to 60 m/s for 300 frames in a closed box: how many of them are outside in the end. */
export function lostFrom(high: number): { lost: number; seconds: number } {
  const from = performance.now()
  const read = readShot({
    format: 'tangle-shot',
    version: 1,
    name: 'Thin box',
    frames: { first: 1, last: 300, rate: 24 },
    quality: { substeps: 1 },
    meshes: [{ id: 'box', source: { asset: ASSET } }],
    populations: [
      {
        id: 'p',
        particle: { radius: 0.004, density: 1000 },
        births: [
          {
            id: 'b',
            kind: 'region',
            mesh: 'box',
            into: 'Loose',
            amount: { burst: 100_000, at: 1 },
            size: [3.9, high * 0.7, 3.9],
            middle: [0, 0, 0],
            cone: 180,
            speed: 30,
            speedSpread: 1,
          },
        ],
        influences: [
          { id: 'c', kind: 'collide', mesh: 'box', side: 'inside', bounce: 1, friction: 0, sliding: 0 },
        ],
      },
    ],
  })
  if (read.problems) throw new Error(JSON.stringify(read.problems))
  const machine = createNodeMachine()
  const meshes = new Map([[ASSET, thinBox(high)]])
  let inside = 0
  for (const { populations } of bake(machine, read.shot, meshes, { first: 300, last: 300 })) {
    const position = populations[0]!.columns.position!
    const halves = [2, high / 2, 2]
    for (let i = 0; i < position.length; i += 3)
      if (halves.every((half, axis) => Math.abs(position[i + axis]!) <= half)) inside++
  }
  machine.dispose()
  return { lost: 100_000 - inside, seconds: (performance.now() - from) / 1000 }
}
