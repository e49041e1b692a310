import { meshFacts, type Mesh } from '@tangle/core'
import { Document, NodeIO } from '@gltf-transform/core'
import fc from 'fast-check'
import { BoxGeometry, Mesh as ThreeMesh, SphereGeometry } from 'three'
import { OBJExporter } from 'three/addons/exporters/OBJExporter.js'
import { PLYExporter } from 'three/addons/exporters/PLYExporter.js'
import { STLExporter } from 'three/addons/exporters/STLExporter.js'
import { readMesh } from '../src/index.ts'

const bytes = (text: string): Uint8Array => new TextEncoder().encode(text)
const facts = async (name: string, content: Uint8Array | string) =>
  meshFacts(await readMesh(name, typeof content === 'string' ? bytes(content) : content))

// three's exporter announces that it is done in the next animation frame
globalThis.requestAnimationFrame ??= () => 0

const sphere = new ThreeMesh(new SphereGeometry(1, 24, 16))
const box = new ThreeMesh(new BoxGeometry(2, 3, 4))
const buffer = (data: DataView | ArrayBuffer): Uint8Array =>
  data instanceof DataView
    ? new Uint8Array(data.buffer, data.byteOffset, data.byteLength)
    : new Uint8Array(data)

/** Files written by an independent library: three's exporters and gltf-transform. */
async function written(mesh: ThreeMesh): Promise<Record<string, Uint8Array>> {
  const position = mesh.geometry.getAttribute('position').array as Float32Array
  const document = new Document()
  const data = document.createBuffer()
  const primitive = document
    .createPrimitive()
    .setAttribute(
      'POSITION',
      document.createAccessor().setType('VEC3').setArray(position.slice()).setBuffer(data),
    )
    .setIndices(
      document
        .createAccessor()
        .setType('SCALAR')
        .setArray(new Uint16Array(mesh.geometry.index!.array))
        .setBuffer(data),
    )
  const node = document.createNode().setMesh(document.createMesh().addPrimitive(primitive))
  document.createScene().addChild(document.createNode().setTranslation([5, 0, 0]).addChild(node))
  const ply = new PLYExporter()
  const options = (binary: boolean, littleEndian = true) => ({
    binary,
    littleEndian,
    excludeAttributes: ['normal', 'uv'],
  })
  return {
    'a.obj': bytes(new OBJExporter().parse(mesh)),
    'ascii.ply': bytes(ply.parse(mesh, () => {}, options(false)) as unknown as string),
    'little.ply': buffer(ply.parse(mesh, () => {}, options(true)) as unknown as ArrayBuffer),
    'big.ply': buffer(ply.parse(mesh, () => {}, options(true, false)) as unknown as ArrayBuffer),
    'ascii.stl': bytes(new STLExporter().parse(mesh, { binary: false })),
    'binary.stl': buffer(new STLExporter().parse(mesh, { binary: true }) as unknown as DataView),
    'moved.glb': await new NodeIO().writeBinary(document),
  }
}

const header = (body: string): string =>
  `ply\nformat ascii 1.0\nelement vertex 3\nproperty float x\nproperty float y\nproperty float z\nelement face 1\nproperty list uchar int vertex_indices\nend_header\n${body}`

test('the same box from every format, written by other libraries', async () => {
  for (const [name, content] of Object.entries(await written(box))) {
    const read = await facts(name, content)
    expect([name, read.vertices, read.triangles, read.openEdges]).toEqual([name, 8, 12, 0])
    expect(read.area).toBeCloseTo(52, 4)
    expect(read.low[0]).toBeCloseTo(name === 'moved.glb' ? 4 : -1, 5)
  }
})

test('UV from every format that has it, written by other libraries: of each corner what the sphere has there', async () => {
  const { position, uv } = sphere.geometry.attributes
  const ply = (binary: boolean): Uint8Array => {
    const text = new PLYExporter().parse(sphere, () => {}, { binary, excludeAttributes: ['normal'] })
    return binary ? buffer(text as unknown as ArrayBuffer) : bytes(text as unknown as string)
  }
  const files = { 'a.obj': bytes(new OBJExporter().parse(sphere)), 'a.ply': ply(false), 'b.ply': ply(true) }
  for (const [name, content] of Object.entries(files)) {
    const { positions, triangles, uvs } = await readMesh(name, content)
    expect([name, uvs?.length]).toEqual([name, triangles.length * 2])
    triangles.forEach((v, corner) => {
      const [u, w] = [uvs![corner * 2]!, uvs![corner * 2 + 1]!]
      // the only vertex there with these coordinates
      const at = Array.from({ length: position!.count }, (_, k) => k).find(
        (k) =>
          Math.abs(uv!.getX(k) - u) < 1e-5 &&
          Math.abs(uv!.getY(k) - w) < 1e-5 &&
          Math.abs(position!.getX(k) - positions[v * 3]!) < 1e-5 &&
          Math.abs(position!.getY(k) - positions[v * 3 + 1]!) < 1e-5,
      )
      expect([name, corner, at !== undefined]).toEqual([name, corner, true])
    })
  }
})

test.each([
  ['names in any order', 'a.csv', 'name;z;x;y\np;3;1;2\nq;6;4;5\n'],
  ['no names, other separators, comments', 'a.csv', '# here\n1\t2, 3\n\n4  5  6'],
  ['columns that have other names', 'a.csv', 'east,up,south\r\n1,2,3\r\n4,5,6\r\n'],
  ['a PLY of nothing but points', 'a.ply', header('1 2 3\n4 5 6\n').replace(/element face.*\n.*indices\n/, '').replace('vertex 3', 'vertex 2')], // prettier-ignore
])('points from a file with %s', async (_, name, text) => {
  const { positions, triangles } = await readMesh(name, bytes(text))
  expect([[...positions], triangles.length]).toEqual([[1, 2, 3, 4, 5, 6], 0])
})

test('an STL sphere is sewn together again', async () => {
  const files = await written(sphere)
  const read = await facts('s.stl', files['binary.stl']!)
  expect(read.triangles).toBe(24 * 14 * 2 + 24 * 2)
  expect(read.openEdges).toBe(0)
})

const quad = 'v 0 0 0\nv 2 0 0\nv 2 1 0\nv 0 1 0\n'
test.each<[string, string, number, number]>([
  ['a quad', `${quad}f 1 2 3 4\n`, 2, 2],
  ['negative numbers', `${quad}f -4 -3 -2 -1\n`, 2, 2],
  [
    'CRLF, groups, materials, texture and normal numbers',
    `mtllib a.mtl\r\n${quad.replaceAll('\n', '\r\n')}g one\r\nusemtl m\r\nf 1/1/1 2//2 3/3\r\ng two\r\nf 1 3 4\r\n`,
    2,
    2,
  ],
  ['comments and odd spaces', `# a\n\t${quad}f\t1  2 3 # the first\n\n f 1 3 4\n`, 2, 2],
  ['a continued line', `${quad}f 1 2 \\\n3 4\n`, 2, 2],
  [
    'a hollow polygon',
    'v 0 0 0\nv 4 0 0\nv 4 4 0\nv 3 4 0\nv 3 1 0\nv 1 1 0\nv 1 4 0\nv 0 4 0\nf 1 2 3 4 5 6 7 8\n',
    6,
    10,
  ],
  ['no line end at the end', `${quad}f 1 2 3`, 1, 1],
])('OBJ with %s', async (_, text, triangles, area) => {
  const read = await facts('a.obj', text)
  expect([read.triangles, read.area]).toEqual([triangles, area])
})

test('a hollow polygon keeps the side it faces', async () => {
  const { positions: p, triangles } = await readMesh(
    'a.obj',
    bytes('v 0 0 0\nv 2 0 0\nv 1 0.3 0\nv 1 2 0\nf 4 3 2 1\nf 1 2 3 4'),
  )
  const turns = Array.from({ length: 4 }, (_, t) => {
    const [a, b, c] = [0, 1, 2].map((k) => triangles[t * 3 + k]! * 3) as [number, number, number]
    return Math.sign((p[b]! - p[a]!) * (p[c + 1]! - p[a + 1]!) - (p[b + 1]! - p[a + 1]!) * (p[c]! - p[a]!))
  })
  expect(turns).toEqual([-1, -1, 1, 1])
})

test.each<[string, string | Uint8Array, RegExp]>([
  ['a.obj', `${quad}f 1 2 9\n`, /line 5: the face names vertex 9, but there are 4/],
  ['a.obj', `${quad}f 0 1 2\n`, /line 5: .*start at 1/],
  ['a.obj', `${quad}f 1 2\n`, /line 5: .*three corners/],
  ['a.obj', 'v 1 two 3\n', /line 1: .*three numbers/],
  ['a.obj', quad, /no triangles/],
  ['a.obj', 'hello', /no vertices/],
  ['a.obj', '', /empty/],
  ['a.fbx', 'x', /OBJ, PLY, STL, GLB/],
  ['a.ply', 'plx', /byte 0/],
  ['a.ply', 'ply\nformat ascii 1.0\n', /end_header/],
  ['a.ply', header('0 0 0\n1 0 0\n'), /line 12: the file ends in vertex 2/],
  ['a.ply', header('0 0 0\n1 0 x\n'), /line 11: "x" is not a number/],
  ['a.ply', header('0 0 0\n1 0 0\n0 1 0\n3 0 1 3\n'), /face 0: names vertex 3/],
  ['a.ply', header('').replace('vertex 3', 'vertex 99999999'), /more than the file has bytes/],
  ['a.ply', header('').replace('float x', 'real x'), /line 4: "real" is not a type/],
  [
    'a.stl',
    'solid a\nfacet normal 0 0 1\nouter loop\nvertex 0 0 0\nvertex 1 0 0\nvertex 0 1 0\nendloop\n',
    /endsolid/,
  ],
  ['a.stl', 'solid a\nvertex 0 0 y\n', /line 2/],
  [
    'a.stl',
    (() => {
      const b = new Uint8Array(200)
      b[80] = 9
      return b
    })(),
    /byte 80: says 9 triangles, which takes 534 bytes, but the file has 200/,
  ],
  ['a.glb', 'glTFxxxxxxxxxxxxxxxxxxxx', /version/],
  ['a.csv', 'x,y,z\n1,2,3\n1,two,3\n', /line 3: a point needs three numbers, but this has "1,two,3"/],
  ['a.csv', '1 2\n', /line 1: a point needs three numbers/],
  ['a.csv', 'x,y,z\n', /no points/],
])('a broken %s is refused with the place and the reason', async (name, content, message) => {
  await expect(facts(name, content)).rejects.toThrow(message)
})

test('a file cut off anywhere is refused or read whole, never half', async () => {
  const files = Object.entries(await written(box)).filter(([name]) => name !== 'a.obj')
  await fc.assert(
    fc.asyncProperty(
      fc.constantFrom(...files),
      fc.double({ min: 0, max: 0.98, noNaN: true }),
      async ([name, whole], part) => {
        const cut = await readMesh(name, whole.slice(0, Math.floor(whole.length * part))).then(
          (mesh: Mesh) => mesh.triangles.length / 3,
          () => 0,
        )
        expect([0, 12]).toContain(cut)
      },
    ),
    { numRuns: 150, seed: 4 },
  )
})

/** A cube as an OBJ: how its faces run, and how often each is there. */
const cubeObj = (...ways: ((face: number[], n: number) => number[])[]): string =>
  [
    ...Array.from({ length: 8 }, (_, k) => `v ${k & 1} ${(k >> 1) & 1} ${k >> 2}`),
    ...[[1, 3, 4, 2], [5, 6, 8, 7], [1, 2, 6, 5], [3, 7, 8, 4], [1, 5, 7, 3], [2, 4, 8, 6]].flatMap((face, n) =>
      ways.map((way) => `f ${way(face, n).join(' ')}`),
    ),
  ].join('\n') // prettier-ignore
const asIs = (face: number[]): number[] => face
const round = (face: number[]): number[] => face.toReversed()

test.each([
  ['as it should be', [asIs], {}],
  ['inside out', [round], { turned: 12 }],
  [
    'with two faces the other way round',
    [(f: number[], n: number) => (n < 2 ? f.toReversed() : f)],
    { turned: 4 },
  ],
  ['with every face twice, once from within', [asIs, round], { doubled: 12 }],
])('a closed mesh %s: outside is outside', async (_, ways, told) => {
  const mesh = await readMesh('cube.obj', bytes(cubeObj(...ways)))
  const { turned, doubled, openEdges, crowdedEdges } = meshFacts(mesh)
  expect({ turned, doubled, openEdges, crowdedEdges }).toEqual({ turned: undefined, doubled: undefined, openEdges: 0, crowdedEdges: 0, ...told }) // prettier-ignore
  // the divergence theorem: what looks outward sums to the volume
  let volume = 0
  for (let t = 0; t < mesh.triangles.length; t += 3) {
    const [a, b, c] = [0, 1, 2].map((k) => mesh.positions.subarray(mesh.triangles[t + k]! * 3, mesh.triangles[t + k]! * 3 + 3)) as [Float32Array, Float32Array, Float32Array] // prettier-ignore
    volume += (a[0]! * (b[1]! * c[2]! - b[2]! * c[1]!) + a[1]! * (b[2]! * c[0]! - b[0]! * c[2]!) + a[2]! * (b[0]! * c[1]! - b[1]! * c[0]!)) / 6 // prettier-ignore
  }
  expect(volume).toBeCloseTo(1, 6)
})
