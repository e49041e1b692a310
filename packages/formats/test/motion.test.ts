/** Meshes that move in their files, against three's own animation, skins and morph targets. */
import type { Document } from '@gltf-transform/core'
import { createMachine } from '@tangle/kernels'
import { createScene, createSimulation, motionOf, readShot, type Mesh, type Shot } from '@tangle/core'
import { AnimationMixer, Mesh as ThreeMesh, Vector3, type AnimationClip, type Object3D } from 'three'
import { GLTFLoader } from 'three/addons/loaders/GLTFLoader.js'
import { readMesh } from '../src/index.ts'
import { begun, files, stripMesh } from './moving.ts'

const RATE = 24
;(globalThis as { self?: unknown }).self ??= globalThis

/** The vertices of all meshes at a time, as three has them. */
async function threeAt(bytes: Uint8Array, seconds: number): Promise<number[]> {
  const gltf = (await new GLTFLoader().parseAsync(Uint8Array.from(bytes).buffer, '')) as unknown as {
    scene: Object3D
    animations: AnimationClip[]
  }
  const mixer = new AnimationMixer(gltf.scene)
  for (const clip of gltf.animations) {
    const action = mixer.clipAction(clip)
    action.clampWhenFinished = true
    action.setLoop(2200, 1).play()
  }
  mixer.update(seconds)
  gltf.scene.updateMatrixWorld(true)
  const out: number[] = []
  gltf.scene.traverse((object) => {
    if (!(object instanceof ThreeMesh)) return
    const { count } = object.geometry.getAttribute('position') as { count: number }
    for (let v = 0; v < count; v++)
      out.push(...object.getVertexPosition(v, new Vector3()).applyMatrix4(object.matrixWorld).toArray())
  })
  return out
}

function shotOf(more: object = {}): Shot {
  const read = readShot({
    format: 'tangle-shot',
    version: 1,
    name: 'Moving',
    frames: { first: 10, last: 200, rate: RATE },
    meshes: [{ id: 'm', source: { asset: `sha256:${'0'.repeat(64)}` }, ...more }],
  })
  if (read.problems) throw new Error(JSON.stringify(read.problems))
  return read.shot
}
/** Our vertices in the world at frames, in the order of the file; ours are welded, so each is looked for. */
function oursAt(mesh: Mesh, frames: number[], more: object = {}): Float32Array[] {
  const shot = shotOf(more)
  const { bodies } = createScene(
    createMachine(),
    shot,
    new Map([[`sha256:${'0'.repeat(64)}`, mesh]]),
    new Set(['m']),
  )
  return frames.map((frame) => bodies.get('m')!.worldView(frame).slice())
}
const farthest = (ours: Float32Array, theirs: number[]): number => {
  let most = 0
  for (let v = 0; v < theirs.length; v += 3) {
    let least = Infinity
    for (let o = 0; o < ours.length; o += 3)
      least = Math.min(
        least,
        Math.hypot(ours[o]! - theirs[v]!, ours[o + 1]! - theirs[v + 1]!, ours[o + 2]! - theirs[v + 2]!),
      )
    most = Math.max(most, least)
  }
  return most
}

test.each(Object.keys(files))('%s: as three has it, at every frame and between', async (name) => {
  const bytes = await files[name]!()
  const mesh = await readMesh('moving.glb', bytes)
  expect(mesh.motion).toBeDefined()
  expect(motionOf(shotOf().meshes[0]!, mesh)).toEqual({ deforms: true, rigid: false, moves: true })
  for (const frames of [0, 1, 7, 13.5, 24, 31.25, 47, 80]) {
    const [ours] = oursAt(mesh, [10 + frames])
    const steps = name.startsWith('steps') && [18, 36].some((at) => Math.abs(frames - at) < 1)
    // a millimetre at 2 m is what a step of 1/120 s is off at most
    if (!steps) expect(farthest(ours!, await threeAt(bytes, frames / RATE))).toBeLessThan(1e-3)
  }
})

test('it begins later, runs faster, holds or begins again', async () => {
  const bytes = await files['nodes that hang on one another, moved, turned and scaled']!()
  const mesh = await readMesh('moving.glb', bytes)
  const [at, late] = [
    oursAt(mesh, [10, 22, 34, 500]),
    oursAt(mesh, [10, 40, 52, 64], { playback: { delay: 30 } }),
  ]
  expect(late).toEqual([at[0], at[0], at[1], at[2]])
  expect(oursAt(mesh, [16, 22], { playback: { delay: 0, speed: 2 } })).toEqual([at[1], at[2]])
  expect(at[3]).toEqual(oursAt(mesh, [46])[0])
  // 1.5 s are 36 frames
  const again = oursAt(mesh, [22 + 36, 34 + 72], { playback: { after: 'repeat' } })
  again.forEach((places, k) => expect(farthest(places, [...at[k + 1]!])).toBeLessThan(1e-5))
})

test('split finely it is the same surface: new vertices are on the old triangles', async () => {
  const mesh = await readMesh('moving.glb', await files['a skin with two joints, weights over both']!())
  const [coarse] = oursAt(mesh, [34])
  const [fine] = oursAt(mesh, [34], { detail: 0.4 })
  expect(fine!.length).toBeGreaterThan(1.5 * coarse!.length)
  expect([...fine!.subarray(0, coarse!.length)]).toEqual([...coarse!])
  // every new one is half-way between two that are there
  for (let v = coarse!.length; v < fine!.length; v += 3) {
    const found = [...Array(v / 3).keys()].some((a) =>
      [...Array(a).keys()].some((b) =>
        [0, 1, 2].every((k) => Math.abs((fine![a * 3 + k]! + fine![b * 3 + k]!) / 2 - fine![v + k]!) < 1e-6),
      ),
    )
    expect(found).toBe(true)
  }
})

test('vertices at one place that come apart later are not welded; others are', async () => {
  const { document, scene, accessor, animate, bytes } = begun()
  const triangle = (z: number) =>
    document
      .createPrimitive()
      .setAttribute(
        'POSITION',
        accessor('VEC3', Float32Array.from([0, 0, 0, 1, 0, 0, 0, 1, z, 0, 0, 0, 0, 1, z, -1, 0, 0])),
      )
  const [left, right] = [0, 0].map((_, n) =>
    document.createNode(`n${n}`).setMesh(document.createMesh().addPrimitive(triangle(0))),
  )
  scene.addChild(left!).addChild(right!)
  animate(right as never, 'translation', [0, 1], [0, 0, 0, 0, 0, 5])
  const mesh = await readMesh('apart.glb', await bytes())
  // four of each node
  expect(mesh.positions.length / 3).toBe(8)
  const [, end] = oursAt(mesh, [10, 34])
  expect([...end!].filter((_, k) => k % 3 === 2).sort()).toEqual([0, 0, 0, 0, 5, 5, 5, 5])
})

test.each<[string, (b: ReturnType<typeof begun>) => void, RegExp]>([
  [
    'times that do not rise',
    ({ animate, document, scene, accessor }) =>
      animate(
        placed(document, scene, accessor) as never,
        'translation',
        [0, 1, 1],
        [0, 0, 0, 1, 1, 1, 2, 2, 2],
      ),
    /times for translation that do not rise/,
  ],
  [
    'values that are no numbers',
    ({ animate, document, scene, accessor }) =>
      animate(placed(document, scene, accessor) as never, 'translation', [0, 1], [0, 0, 0, NaN, 1, 1]),
    /no numbers/,
  ],
  [
    'too few values',
    ({ animate, document, scene, accessor }) =>
      animate(placed(document, scene, accessor) as never, 'translation', [0, 1], [0, 0, 0]),
    /values of translation for 2 times/,
  ],
  [
    'hours of it',
    ({ animate, document, scene, accessor }) =>
      animate(placed(document, scene, accessor) as never, 'translation', [0, 1e7], [0, 0, 0, 1, 1, 1]),
    /too long/,
  ],
  [
    'more targets than there is memory for',
    ({ document, scene, accessor, animate }) => {
      const many = accessor('VEC3', new Float32Array(600_000))
      const primitive = document.createPrimitive().setAttribute('POSITION', many)
      for (let k = 0; k < 500; k++)
        primitive.addTarget(document.createPrimitiveTarget().setAttribute('POSITION', many))
      const node = document.createNode('n').setMesh(document.createMesh().addPrimitive(primitive))
      scene.addChild(node)
      animate(node as never, 'translation', [0, 1], [0, 0, 0, 1, 1, 1])
    },
    /500 morph targets of 200000 vertices in all, more than there is memory for/,
  ],
])('%s: refused with a word', async (_, make, says) => {
  const file = begun()
  make(file)
  await expect(readMesh('bad.glb', await file.bytes())).rejects.toThrow(says)
})
function placed(
  document: Document,
  scene: ReturnType<Document['createScene']>,
  accessor: ReturnType<typeof begun>['accessor'],
) {
  const node = document.createNode('n').setMesh(stripMesh(document, accessor))
  scene.addChild(node)
  return node
}

test('what is born on it takes its velocity along, and who rides on it stays where it was born', async () => {
  const { document, scene, accessor, animate, bytes } = begun()
  const node = placed(document, scene, accessor)
  animate(node as never, 'translation', [0, 2], [0, 0, 0, 3, 0, 0])
  const mesh = await readMesh('sled.glb', await bytes())
  const asset = `sha256:${'0'.repeat(64)}`
  const born = (influences: object[]) => {
    const { shot } = readShot({
      format: 'tangle-shot',
      version: 1,
      name: 'Sled',
      frames: { first: 1, last: 48, rate: RATE },
      meshes: [{ id: 'm', source: { asset } }],
      populations: [
        {
          id: 'p',
          births: [{ id: 'b', kind: 'surface', mesh: 'm', into: 'Loose', amount: { burst: 50, at: 1 } }],
          influences,
        },
      ],
    })
    return createSimulation(createMachine(), shot!, new Map([[asset, mesh]]))
  }
  const free = born([])
  const start = [...free.populations()[0]!.columns.position!]
  for (const [k, v] of free.populations()[0]!.columns.velocity!.entries())
    expect(v).toBeCloseTo([1.5, 0, 0][k % 3]!, 4)
  const riding = born([{ id: 'r', kind: 'ride' }])
  for (let n = 0; n < 24; n++) riding.advance()
  const end = [...riding.populations()[0]!.columns.position!]
  end.forEach((x, k) => expect(x - start[k]!).toBeCloseTo([1.5, 0, 0][k % 3]!, 4))
})
