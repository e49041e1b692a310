import { WebIO, type Node, type Primitive } from '@gltf-transform/core'
import { placeVertices, type MeshMotion, type SkinnedMotion } from '@tangle/core'
import { createMachine } from '@tangle/kernels'
import { arePlaces, atByte, FormatFault, TOO_FAR } from '../fault.ts'
import { checkGlb } from './glbCheck.ts'
import { materialsOf, PAINTING, type FileMesh, type Painted } from './glbPaint.ts'
import { motionOfGlb, type MovedPart } from './glbMotion.ts'
import { Growing } from './lines.ts'

const MAGIC = 0x46546c67 // "glTF"

/** Binary glTF 2.0 (Khronos specification, §4.4): all triangle meshes of the scene, placed by their nodes. */
export async function readGlb(bytes: Uint8Array): Promise<FileMesh> {
  const data = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  if (bytes.length < 20 || data.getUint32(0, true) !== MAGIC) throw atByte(0, 'a GLB file starts with "glTF"')
  if (data.getUint32(4, true) !== 2)
    throw atByte(4, `glTF version ${data.getUint32(4, true)} is not known, only 2`)
  const length = data.getUint32(8, true)
  if (length > bytes.length)
    throw atByte(8, `says ${length} bytes, but the file has ${bytes.length}: it is cut off`)
  checkGlb(bytes.subarray(0, length))
  const document = await new WebIO()
    .registerExtensions(PAINTING)
    .readBinary(bytes.slice(0, length))
    .catch((error: Error) => {
      throw new FormatFault(
        'GLB',
        `${error.message}. Save it without compression and with everything in one file`,
      )
    })
  const positions = new Growing(Float32Array)
  const triangles = new Growing(Uint32Array)
  const uvs = new Growing(Float32Array)
  const colours = new Growing(Float32Array)
  const root = document.getRoot()
  const scene = root.getDefaultScene() ?? root.listScenes()[0]
  if (!scene) throw new FormatFault('GLB', 'has no scene')
  const parts: MovedPart[] = []
  const painted: Painted[] = []
  scene.traverse((node) => {
    for (const primitive of node.getMesh()?.listPrimitives() ?? []) {
      if (!addPrimitive(node, primitive, { positions, triangles, uvs, colours })) continue
      parts.push({ node, primitive })
      painted.push({ material: primitive.getMaterial(), end: triangles.length / 3 })
    }
  })
  const [corners, coordinates] = [triangles.done(), uvs.done()]
  // texture coordinates count only where every primitive has them
  const textured = coordinates.length > 0 && coordinates.length === corners.length * 2
  const [points, colour] = [positions.done(), colours.done()]
  const coloured = colour.length > 0 && colour.length === points.length
  const motion = motionOfGlb(document, parts)
  return {
    positions: motion ? firstPlaces(motion) : points,
    triangles: corners,
    ...(motion ? { motion } : {}),
    ...(textured ? { uvs: coordinates } : {}),
    ...materialsOf(painted),
    ...(coloured ? { data: { colour: { width: 3, values: colour } } } : {}),
  }
}

/** Where vertices are at the first sample of their motion. @throws FormatFault */
function firstPlaces(motion: MeshMotion): Float32Array {
  const { base } = motion.by as SkinnedMotion
  const machine = createMachine()
  const out = machine.heap.allocate(base.byteLength)
  const block = (_: string, bytes: number, fill?: (pointer: number) => void): number => {
    const pointer = machine.heap.allocate(bytes)
    fill?.(pointer)
    return pointer
  }
  placeVertices(machine, { positions: base, triangles: new Uint32Array(0), motion }, 0, block, out)
  const places = machine.heap.f32(out, base.length).slice()
  const far = places.findIndex((x) => !arePlaces(x))
  if (far >= 0) throw new FormatFault(`vertex ${Math.floor(far / 3)}`, TOO_FAR)
  return places
}

interface Parts {
  positions: Growing<Float32Array>
  triangles: Growing<Uint32Array>
  uvs: Growing<Float32Array>
  /** Linear RGB of vertices, as glTF has them. */
  colours: Growing<Float32Array>
}

/** False where it has no surface. */
function addPrimitive(
  node: Node,
  primitive: Primitive,
  { positions, triangles, uvs, colours }: Parts,
): boolean {
  const accessor = primitive.getAttribute('POSITION')
  const mode = primitive.getMode()
  if (!accessor || mode < 4) return false // points and lines
  const name = node.getName() || 'a node'
  const first = positions.length / 3
  const m = node.getWorldMatrix()
  const p = [0, 0, 0]
  const tint = primitive.getAttribute('COLOR_0')
  const rgb = [0, 0, 0, 0]
  for (let i = 0; i < accessor.getCount(); i++) {
    accessor.getElement(i, p)
    const [x, y, z] = p as [number, number, number]
    const along = (r: number): number => m[r]! * x + m[4 + r]! * y + m[8 + r]! * z + m[12 + r]!
    const world: [number, number, number] = [along(0), along(1), along(2)]
    if (!arePlaces(...world)) throw new FormatFault(`vertex ${i} of "${name}"`, TOO_FAR)
    positions.push(...world)
    if (!tint) continue
    tint.getElement(i, rgb)
    colours.push(rgb[0]!, rgb[1]!, rgb[2]!)
  }
  const indices = primitive.getIndices()
  const count = indices?.getCount() ?? accessor.getCount()
  const at = (i: number): number => {
    const vertex = indices ? indices.getScalar(i) : i
    if (vertex >= accessor.getCount())
      throw new FormatFault(
        `index ${i} of "${name}"`,
        `names vertex ${vertex}, but there are ${accessor.getCount()}`,
      )
    return first + vertex
  }
  const flipped = determinant(m) < 0
  const texture = primitive.getAttribute('TEXCOORD_0')
  const uv = [0, 0]
  const add = (...[a, b, c]: [number, number, number]): void => {
    const corners: [number, number, number] = flipped ? [a, c, b] : [a, b, c]
    triangles.push(at(corners[0]), at(corners[1]), at(corners[2]))
    if (!texture) return
    for (const corner of corners) {
      texture.getElement(at(corner) - first, uv)
      // glTF counts v from the top of the picture
      uvs.push(uv[0]!, 1 - uv[1]!)
    }
  }
  if (mode === 4) for (let i = 0; i + 2 < count; i += 3) add(i, i + 1, i + 2)
  else
    for (let i = 0; i + 2 < count; i++) {
      if (mode === 6) add(0, i + 1, i + 2)
      else if (i % 2 === 0) add(i, i + 1, i + 2)
      else add(i + 1, i, i + 2)
    }
  return true
}

const determinant = (m: ArrayLike<number>): number =>
  m[0]! * (m[5]! * m[10]! - m[9]! * m[6]!) -
  m[4]! * (m[1]! * m[10]! - m[9]! * m[2]!) +
  m[8]! * (m[1]! * m[6]! - m[5]! * m[2]!)
