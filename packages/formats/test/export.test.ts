/** What is written, read by others: three's PLY loader and two USD parsers. */
import { parse as parseUsda } from '@kroxilon/usda-parser'
import { chooseInstance, completeInstances, completeMesh, keptAttributes, type Mesh } from '@tangle/core'
import { framesFrom, frameOf, frames, meshOf, shot, write } from './take.ts'
import { PLYLoader } from 'three/addons/loaders/PLYLoader.js'
import {
  contentsHash,
  EXPORTS,
  framesChosen,
  meshHash,
  type CachedFrame,
  type Frames,
  readChoices,
} from '../src/index.ts'

test.each(EXPORTS.filter(({ volumes }) => !volumes).map((one) => one.kind))(
  '%s: our own reader finds every value again, to the bit, also of frames below 0',
  async (kind) => {
    const { meshes: hasMeshes, readBack } = EXPORTS.find((one) => one.kind === kind)!
    const hashed = ({ populations, meshes }: CachedFrame): string[] => [
      ...populations.map(contentsHash),
      ...(hasMeshes ? meshes.map(meshHash) : []),
    ]
    for (const first of [3, -1, -12_345]) {
      const read = (frame: number): CachedFrame => ({ ...frameOf(frame - first + 3), frame })
      const files = await write(kind, undefined, framesFrom(first, first + 2, read))
      // as files are read: somewhere in a larger buffer
      const back = readBack((name) => Promise.resolve(Buffer.concat([Buffer.alloc(3), files.get(name)!]).subarray(3)), [...files.keys()]) // prettier-ignore
      const hashes: Record<number, string[]> = {}
      for await (const frame of back) hashes[frame.frame] = hashed(frame)
      expect(hashes).toEqual(Object.fromEntries([0, 1, 2].map((n) => [first + n, hashed(read(first + n))])))
    }
  },
)

test('PLY: an independent reader finds the points, colours and our own properties', async () => {
  const files = await write('ply')
  expect([...files.keys()]).toContain('dust.0004.ply')
  const loader = new PLYLoader()
  loader.setCustomPropertyNameMapping({ identity: ['id'], width: ['radius'], velocity: ['vx', 'vy', 'vz'] })
  const geometry = loader.parse(files.get('dust.0004.ply')!.buffer as ArrayBuffer)
  const { columns, count } = frameOf(4).populations[0]!
  expect(geometry.getAttribute('position').array).toEqual(columns.position)
  expect(geometry.getAttribute('velocity').array).toEqual(columns.velocity)
  expect(geometry.getAttribute('width').array).toEqual(columns.radius)
  expect(geometry.getAttribute('identity').count).toBe(count)
  // all are faster than the 2 m/s at which "snow" ends: #a9bcd9, which the reader makes linear
  expect(Array.from(geometry.getAttribute('color').array.slice(0, 3), (c) => c / 255)).toEqual([
    expect.closeTo(0.397, 2),
    expect.closeTo(0.503, 2),
    expect.closeTo(0.694, 2),
  ])
})

test('PLY: the meshes that are eaten have files of their own, which an independent reader reads', async () => {
  const files = await write('ply')
  const geometry = new PLYLoader().parse(files.get('tower.mesh.0003.ply')!.buffer as ArrayBuffer)
  expect(Array.from(geometry.getIndex()!.array)).toEqual(Array.from(meshOf(3).triangles))
  expect(geometry.getAttribute('position').array).toEqual(meshOf(3).positions)
})

test('trails: an independent reader finds their points and edges, and a parser the curves', async () => {
  const trail = { length: 2, unit: 'frames', step: 1, width: 0.1, widthEnd: 0.02, colour: 'ramp', ramp: 'brine', opacityEnd: 0.5 } // prettier-ignore
  const { look } = shot.populations[0]!
  look.trail = trail
  try {
    const files = await write('ply')
    // ids of a frame are 4e9 + 3i + frame: those of frame 5 that also lived at 3 or 4 have none there, but for none
    expect([...files.keys()].filter((name) => name.includes('trails'))).toHaveLength(3)
    const steady: Frames = {
      ...frames,
      read: (frame) => {
        const now = frameOf(5)
        now.frame = frame
        now.populations[0]!.columns.position = now.populations[0]!.columns.position!.map((x) => x + frame)
        return Promise.resolve(now)
      },
    }
    const last = new Map<string, Uint8Array>()
    for (const kind of ['ply', 'usda'])
      for await (const { name, pieces } of EXPORTS.find((one) => one.kind === kind)!.files(
        shot,
        steady,
        new Map(),
      )) {
        const all: Uint8Array[] = []
        for await (const piece of pieces) all.push(piece)
        last.set(name, new Uint8Array(Buffer.concat(all)))
      }
    const loader = new PLYLoader()
    loader.setCustomPropertyNameMapping({ width: ['width'], identity: ['id'] })
    const bytes = last.get('dust.trails.0005.ply')!
    const geometry = loader.parse(bytes.buffer as ArrayBuffer)
    const [place, width] = [geometry.getAttribute('position'), geometry.getAttribute('width')]
    // 50 lines of 3 points: now, one frame and two frames ago
    expect(place.count).toBe(150)
    expect([0, 1, 2].map((k) => place.getX(k) - place.getX(0))).toEqual([0, -1, -2])
    expect([0, 1, 2].map((k) => width.getX(k))).toEqual([0.1, 0.06, 0.02].map((w) => expect.closeTo(w, 6)))
    const edges = new TextDecoder().decode(bytes).match(/element edge (\d+)/)
    expect(edges![1]).toBe('100')

    const usd = new TextDecoder().decode([...last.entries()].find(([name]) => name.endsWith('.usda'))![1])
    const tree = JSON.stringify(parseUsda(usd) as unknown as Prim)
    for (const word of ['BasisCurves', 'dust_trails', 'curveVertexCounts', 'linear'])
      expect(tree).toContain(word)
    const counts = /int\[\] curveVertexCounts\.timeSamples = \{[^}]*5: \[([^\]]*)\]/
      .exec(usd)![1]!
      .split(', ')
    expect([counts.length, new Set(counts)]).toEqual([50, new Set(['3'])])
  } finally {
    look.trail = null
  }
})

test('backward: the last frame comes first, with velocities turned round and all else as it was', async () => {
  const { read } = framesChosen(frames, readChoices({ backward: '1' }, frames, { label: '' }), {
    shot,
    meshes: new Map(),
    kind: { meshes: true },
  })
  for (const [frame, from] of [
    [3, 5],
    [5, 3],
  ] as const) {
    // prettier-ignore
    const turned = await read(frame)
    const source = frameOf(from)
    expect(turned.frame).toBe(frame)
    expect(turned.meshes).toEqual(source.meshes)
    turned.populations.forEach(({ columns }, p) => {
      const before = source.populations[p]!.columns
      expect(columns.position).toEqual(before.position)
      columns.velocity!.forEach((v, i) => expect(v + before.velocity![i]!).toBe(0))
    })
  }
})

test('a population keeps what it says, and what its look reads', () => {
  const [dust] = shot.populations
  expect(keptAttributes({ ...dust!, keep: ['radius'] })).toEqual(['id', 'position', 'velocity', 'radius'])
  expect(keptAttributes({ ...dust!, keep: null })).toContain('orientation')
})

interface Prim {
  name: string
  type: string
  children?: Prim[]
}
test('USD: an independent parser finds the prims, the ids and the values of each frame', async () => {
  const [name, content] = [...(await write('usda'))][0]!
  expect(name).toBe('Two_counts.usda')
  const text = new TextDecoder().decode(content)
  const tree = JSON.stringify(parseUsda(text) as unknown as Prim)
  for (const word of [
    'Points',
    'dust',
    'spray_2',
    'Mesh',
    'tower_mesh',
    'faceVertexIndices',
    'displayOpacity',
    'orientation',
    'displayColor',
    'metersPerUnit',
  ])
    expect(tree).toContain(word)
  const { columns } = frameOf(5).populations[0]!
  expect(tree).toContain(String(columns.id![49]))
  expect(text).toMatch(/upAxis = "Y"/)
  expect(text).toMatch(/timeCodesPerSecond = 30/)
  // widths are diameters
  const widths = /widths\.timeSamples = \{\s+3: \[([^\]]*)\]/.exec(text)![1]!.split(', ').map(Number)
  expect(widths.length).toBe(30)
  // real part first
  expect(text).toMatch(/primvars:orientation\.timeSamples = \{\s+3: \[\(0\.5, 0\.5, -0\.5, 0\.5\)/)
  const corners = /faceVertexIndices\.timeSamples = \{\s+3: \[([^\]]*)\]/
    .exec(text)![1]!
    .split(', ')
    .map(Number)
  expect(corners).toEqual(Array.from(meshOf(3).triangles))
  expect(widths[29]).toBeCloseTo(2 * (0.01 + 29e-5), 7)
})

test('instances: a parser finds the instancer with its meshes, and a reader of PLY which mesh each is', async () => {
  const [dust] = shot.populations
  const { look, id } = dust!
  const kept = { ...look }
  const mesh: Mesh = {
    positions: new Float32Array([0, 0, 0, 2, 0, 0, 0, 1, 0, 0, 0, 1]),
    triangles: new Uint32Array([0, 2, 1, 0, 1, 3, 0, 3, 2, 1, 2, 3]),
  }
  const shotMeshes = shot.meshes
  shot.meshes = ['bolt', 'nut'].map((name) => completeMesh({ id: name, source: { asset: name } }))
  dust!.look = {
    ...kept,
    draw: 'instances',
    instances: completeInstances({ set: [{ mesh: 'bolt', weight: 1 }, { mesh: 'nut', weight: 2 }], size: 3 }), // prettier-ignore
  }
  const sources = new Map(['bolt', 'nut'].map((name) => [name, mesh]))
  try {
    const files = await write('ply', sources)
    expect([...files.keys()].filter((name) => name.includes('instance'))).toEqual([
      'dust.instance-0.ply',
      'dust.instance-1.ply',
    ])
    const { columns, count } = frameOf(4).populations[0]!
    const choose = chooseInstance(shot, id, dust!.look.instances!)
    const which = Array.from(columns.id!, choose)
    const loader = new PLYLoader()
    loader.setCustomPropertyNameMapping({ which: ['instance'], scale: ['scale'] })
    const geometry = loader.parse(files.get('dust.0004.ply')!.buffer as ArrayBuffer)
    expect(Array.from(geometry.getAttribute('which').array)).toEqual(which)
    expect(geometry.getAttribute('scale').array[1]).toBeCloseTo(3 * columns.radius![1]!, 7)
    expect(new PLYLoader().parse(files.get('dust.instance-1.ply')!.buffer as ArrayBuffer).getIndex()!.count).toBe(12) // prettier-ignore

    const written = await write('usda', sources)
    const text = new TextDecoder().decode([...written.values()][0])
    expect(() => parseUsda(text)).not.toThrow()
    expect(text).toMatch(/def PointInstancer "dust"/)
    expect(text).toContain('rel prototypes = [</Two_counts/dust/bolt_0>, </Two_counts/dust/nut_1>]')
    const indices = /int\[\] protoIndices\.timeSamples = \{[^}]*? 4: \[([^\]]*)\]/.exec(text)!
    expect(indices[1]!.split(', ').map(Number)).toEqual(which)
    const back: CachedFrame[] = []
    for await (const frame of EXPORTS.find((one) => one.kind === 'usda')!.readBack(
      (name) => Promise.resolve(written.get(name)!),
      [...written.keys()],
    ))
      back.push(frame)
    const found = back.find((one) => one.frame === 4)!.populations.find((one) => one.id === 'dust')!
    expect([found.count, contentsHash(found)]).toEqual([count, contentsHash(frameOf(4).populations[0]!)])
  } finally {
    dust!.look = kept
    shot.meshes = shotMeshes
  }
})

test.each(EXPORTS.filter(({ meshes }) => meshes).map(({ kind }) => kind))(
  '%s: names that come to the same in a file are still told apart',
  async (kind) => {
    const { populations } = shot
    const like = { ...populations[0]!, look: populations[1]!.look }
    const ids = ['a-b', 'a_b', 'tower_mesh', 'tower']
    shot.populations = ids.map((id) => ({ ...like, id }))
    const of = (frame: number): CachedFrame => {
      const [dust] = frameOf(frame).populations
      return {
        ...frameOf(frame),
        populations: ids.map((id, n) => ({
          ...dust!,
          id,
          columns: { ...dust!.columns, position: dust!.columns.position!.map((x) => x + n) },
        })),
      }
    }
    try {
      const files = await write(kind, undefined, { ...frames, read: (frame) => Promise.resolve(of(frame)) })
      const found = new Map<number, Record<string, string>>()
      for await (const { frame, populations, meshes } of EXPORTS.find((one) => one.kind === kind)!.readBack(
        (name) => Promise.resolve(files.get(name)!),
        [...files.keys()],
      ))
        found.set(frame, Object.fromEntries([...populations.map((one) => [one.id, contentsHash(one)]), ...meshes.map((one) => [`mesh ${one.id}`, meshHash(one)])])) // prettier-ignore
      expect(found.get(4)).toEqual(Object.fromEntries([...of(4).populations.map((one) => [one.id, contentsHash(one)]), ['mesh tower', meshHash(meshOf(4))]])) // prettier-ignore
    } finally {
      shot.populations = populations
    }
  },
)
