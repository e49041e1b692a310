/** Files that claim what they do not hold, or say what can't be: refused with the place, and without taking memory for it. */
import { readMesh } from '../src/index.ts'

const text = (words: string) => new TextEncoder().encode(words)
const read = (name: string, bytes: Uint8Array | string) =>
  readMesh(name, typeof bytes === 'string' ? text(bytes) : bytes)

/** A GLB (glTF 2.0, §4.4) of a description and, behind it, so many bytes. */
function glb(description: object, body = 0): Uint8Array {
  const json = text(JSON.stringify(description))
  const [long, binary] = [Math.ceil(json.length / 4) * 4, body > 0 ? 8 + body : 0]
  const bytes = new Uint8Array(20 + long + binary).fill(32, 20, 20 + long)
  const data = new DataView(bytes.buffer)
  bytes.set(text('glTF'))
  data.setUint32(4, 2, true)
  data.setUint32(8, bytes.length, true)
  data.setUint32(12, long, true)
  bytes.set(text('JSON'), 16)
  bytes.set(json, 20)
  if (body > 0) {
    data.setUint32(20 + long, body, true)
    bytes.set(text('BIN\0'), 24 + long)
  }
  return bytes
}
const scene = (more: object, nodes: object[] = [{ mesh: 0 }]) => ({
  asset: { version: '2.0' },
  scenes: [{ nodes: [0] }],
  nodes,
  meshes: [{ primitives: [{ attributes: { POSITION: 0 } }] }],
  ...more,
})
const points = (count: number, more: object = {}) => ({ componentType: 5126, type: 'VEC3', count, ...more })
const stored = {
  accessors: [points(3, { bufferView: 0 })],
  bufferViews: [{ buffer: 0, byteLength: 36 }],
  buffers: [{ byteLength: 36 }],
}
/** Nodes that hang one on another. */
const chain = (long: number) =>
  Array.from({ length: long }, (_, k) => ({ mesh: 0, ...(k + 1 < long ? { children: [k + 1] } : {}) }))

test.each<[string, Uint8Array, RegExp]>([
  ['an accessor without data', glb(scene({ accessors: [points(1.5e8)] })), /accessor 0: says 150000000 entries, but has no data/],
  ['more entries than bytes', glb(scene({ ...stored, accessors: [points(4, { bufferView: 0 })] }), 36), /accessor 0: says 4 entries, more than/],
  ['a view beyond the file', glb(scene({ ...stored, bufferViews: [{ buffer: 0, byteLength: 1e9 }] }), 36), /buffer view 0: reaches beyond/],
  ['a count that is none', glb(scene({ ...stored, accessors: [points(-3, { bufferView: 0 })] }), 36), /accessor 0: is none/],
  ['one mesh placed very often', glb(scene({ ...stored, meshes: [{ primitives: Array(1e5).fill({ attributes: { POSITION: 0 } }) }] }, chain(201)), 36), /scene: has 60300000 vertices and corners/],
  ['nodes that are no tree', glb(scene(stored, [{ children: [1, 1] }, { mesh: 0 }]), 36), /node 1: hangs on two others/],
  ['a description that is cut off', glb(scene(stored), 36).map((byte, i) => (i === 12 ? 255 : i === 13 ? 255 : byte)), /cut off/],
])('GLB: %s', async (_, bytes, message) => {
  await expect(read('x.glb', bytes)).rejects.toThrow(message)
}) // prettier-ignore

const triangle = 'v 0 0 0\nv 1 0 0\nv 0 1 0\n'
const ply = (rows: string, list = 'float') =>
  `ply\nformat ascii 1.0\nelement vertex 3\nproperty float x\nproperty float y\nproperty float z\nelement face 1\nproperty list uchar ${list} vertex_indices\nend_header\n${rows}\n`

test.each<[string, string, string, RegExp]>([
  ['OBJ: a vertex number in powers of ten', 'a.obj', `${triangle}f 1e0 2 3\n`, /line 4: "1e0" is not a vertex number/],
  ['OBJ: a vertex number with a fraction', 'a.obj', `${triangle}f 1 2 2.7\n`, /line 4: "2.7" is not/],
  ['OBJ: what f32 cannot hold', 'a.obj', `v 1e39 0 0\n${triangle}f 1 2 3\n`, /line 1: the vertex lies more than 10,000 km/],
  ['OBJ: farther than anything', 'a.obj', `v 0 0 0\nv 0 -2e7 0\n`, /line 2: the vertex lies/],
  ['PLY: an index with a fraction', 'a.ply', ply('0 0 0\n1 0 0\n0 1 0\n3 0 1 1.7'), /face 0: names vertex 1.7/],
  ['PLY: an infinite place', 'a.ply', ply('0 0 0\n1 0 0\n0 1e39 0\n3 0 1 2', 'int'), /vertex 2: lies more than/],
  ['CSV: what f32 cannot hold', 'a.csv', 'x,y,z\n0,0,0\n0,1e39,0\n', /line 3: the point lies more than/],
  ['CSV: infinite', 'a.csv', 'x,y,z\n1e400,0,0\n', /line 2: the point lies/],
  ['CSV: words for numbers', 'a.csv', 'x;y;z\n1,5;2;three\n', /line 2: a point needs three numbers/],
])('%s is refused where it stands', async (_, name, body, message) => {
  await expect(read(name, body)).rejects.toThrow(message)
}) // prettier-ignore

test.each<[string, string, number[]]>([
  ['semicolons and decimal commas', 'x;y;z\n1,5;-2,25;,5\n', [1.5, -2.25, 0.5]],
  ['tabs and decimal commas', '1,5\t2\t3\n', [1.5, 2, 3]],
  ['quotes (RFC 4180)', '"z","x","y"\n"3","1.5","2"\n', [1.5, 2, 3]],
  ['decimal commas in quotes', 'x,y,z\n"1,5",2,"3,25"\n', [1.5, 2, 3.25]],
  ['spaces', '# from a scan\n  1.5   2 3 0.7\n', [1.5, 2, 3]],
  ['commas and spaces', 'x, y, z, size\n1.5, 2, 3, 9\n', [1.5, 2, 3]],
])('CSV with %s is read rightly', async (_, body, expected) => {
  expect([...(await read('a.csv', body)).positions]).toEqual(expected)
})
