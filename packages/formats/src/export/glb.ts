import type { Mesh, MeshFrame, PopulationFrame, Shot } from '@tangle/core'
import type { Node, Primitive } from '@gltf-transform/core'
import { FormatFault } from '../fault.ts'
import { coloursOf, emissionOf } from './colours.ts'
import { allInstances, areAsTheirMeshes, type WrittenInstances } from './instances.ts'
import { cameraNodes } from './glbCameras.ts'
import { materialsFor } from './glbMaterials.ts'
import { frameIn } from './glbReader.ts'
import { accessorsOf, rowsOf, surfacesOf, withoutEmptyBuffer, type Attribute } from './glbSurfaces.ts'
import { frameNumber, inOnePiece, keepingLast, type ExportKind } from './kind.ts'
import { tableOf } from './table.ts'
import { edgesIn, linesOf, type DrawnLines, type Lines } from './lines.ts'
import { vertexDataOf } from './vertexData.ts'

/**
 * Binary glTF 2.0, a file per frame: a node for each population with a primitive of points, or its meshes as instances (EXT_mesh_gpu_instancing); a node ID_mesh for
 * each mesh that is eaten; nodes ID_trails and ID_threads of lines; the cameras of the shot by their names. What glTF has no name for are attributes of the application, `_VELOCITY` and the like, by the names of tables; of
 * an id `_ID` has the lower and the upper 16 bits, since vertices have no whole numbers of 32. Particles have
 * COLOR_0, linear, with opacity. Metres, Y up. Sources: glTF 2.0 (Khronos), §3.7 and §3.9; EXT_mesh_gpu_instancing.
 */
export const glb: ExportKind = {
  kind: 'glb',
  label: 'glTF sequence',
  help: 'One GLB file per frame, points or instanced meshes, for viewers and pages',
  sequence: true,
  meshes: true,
  fixedSpace: true,
  async *files(shot, frames, sources) {
    const instances = allInstances(shot, sources, frames.space)
    const once = keepingLast(frames)
    const drawn = linesOf(shot).map((one) => ({ ...one, steps: one.through(once) }))
    for (let frame = frames.first; frame <= frames.last; frame++) {
      const scene = await createScene(`${shot.name}, frame ${frame}`, sources)
      const { populations, meshes } = await once.read(frame)
      for (const population of populations) {
        const meshes = instances.get(population.id)!
        if (meshes) scene.addInstances(shot, population, meshes)
        else scene.addPoints(shot, population)
      }
      for (const mesh of meshes) scene.addMesh(shot, mesh)
      scene.addCameras(shot, frame)
      for (const { steps, ...one } of drawn)
        scene.addLines(one, ((await steps.next()).value as { lines: Lines }).lines)
      yield { name: `${frameNumber(frame, frames.digits)}.glb`, pieces: inOnePiece(scene.bytes()) }
    }
  },
  async *readBack(read, names) {
    const { WebIO } = await import('@gltf-transform/core')
    const { EXTMeshGPUInstancing, EXTTextureWebP, KHRMaterialsTransmission } = await import('@gltf-transform/extensions') // prettier-ignore
    const reader = new WebIO().registerExtensions([
      EXTMeshGPUInstancing,
      EXTTextureWebP,
      KHRMaterialsTransmission,
    ])
    for (const name of names) {
      const frame = Number(/^(-?\d+)\.glb$/.exec(name)?.[1])
      const bytes = Uint8Array.from(await read(name))
      const document = await reader.readBinary(bytes).catch((error: Error) => {
        throw new FormatFault(name, `is broken or cut off (${error.message})`)
      })
      yield frameIn(name, frame, document)
    }
  },
}

const POINTS = 0
const LINES = 1
/** A scene to which what a frame has is added. */
async function createScene(name: string, sources: Map<string, Mesh>) {
  const { Document, VertexLayout, WebIO } = await import('@gltf-transform/core')
  const { EXTMeshGPUInstancing } = await import('@gltf-transform/extensions')
  const document = new Document()
  document.getRoot().getAsset().generator = 'Tangle'
  const scene = document.createScene(name)
  const instancing = document.createExtension(EXTMeshGPUInstancing)
  const materials = await materialsFor(document)
  const accessor = accessorsOf(document)
  const named = (id: string): Node => {
    const made = document.createNode(id)
    scene.addChild(made)
    return made
  }
  /** What is kept is told also where nobody is. */
  const node = ({ id, columns }: PopulationFrame): Node =>
    named(id).setExtras({ of: 'particles', id, kept: Object.keys(columns) })
  const { meshOf, paintedOf, trianglesOf } = surfacesOf(document, accessor, materials, sources)
  return {
    addPoints(shot: Shot, population: PopulationFrame): void {
      const made = node(population)
      if (population.count === 0) return
      const primitive = document.createPrimitive().setMode(POINTS)
      primitive.setAttribute('POSITION', accessor(population.columns.position!.slice(), 3))
      primitive.setAttribute('COLOR_0', accessor(colourOf(shot, population), 4))
      for (const { name, values, width } of ownAttributes(shot, population, null))
        primitive.setAttribute(name, accessor(values, width))
      made.setMesh(meshOf(population.id, primitive))
    },
    /** A node for each mesh that they are drawn as, with those below it that are. */
    addInstances(shot: Shot, population: PopulationFrame, drawn: WrittenInstances): void {
      const above = node(population)
      const which = drawn.which(population)
      const attributes = instanceAttributes(shot, population, drawn)
      const lookOf = materials.ofMeshes(shot, !areAsTheirMeshes(shot, population))
      drawn.meshes.forEach(({ name, of, mesh }, n) => {
        const those = Array.from(which.keys()).filter((i) => which[i] === n)
        if (those.length === 0) return
        const batch = instancing.createInstancedMesh()
        for (const one of attributes) batch.setAttribute(one.name, accessor(rowsOf(one, those), one.width))
        const painted = areAsTheirMeshes(shot, population) ? paintedOf(shot, of, mesh, []) : null
        const drawn = meshOf(name, ...(painted ?? [trianglesOf(mesh).setMaterial(lookOf(of))]))
        above.addChild(document.createNode(`${population.id} ${name} ${n}`).setMesh(drawn).setExtension('EXT_mesh_gpu_instancing', batch)) // prettier-ignore
      })
    },
    addMesh(shot: Shot, mesh: MeshFrame): void {
      const made = named(`${mesh.id}_mesh`).setExtras({ of: 'mesh', id: mesh.id })
      if (mesh.triangles.length === 0) return
      const painted = paintedOf(shot, mesh.id, mesh, vertexAttributes(shot, mesh))
      if (painted) return void made.setMesh(meshOf(mesh.id, ...painted)).setExtras({ ...made.getExtras(), parted: true }) // prettier-ignore
      const whole = document.createMesh(mesh.id)
      const give = (to: Primitive): Primitive => vertexAttributes(shot, mesh).reduce((p, one) => p.setAttribute(one.name, accessor(one.values, one.width)), to) // prettier-ignore
      for (const { name, triangles } of partsOf(mesh)) {
        const primitive = give(trianglesOf({ positions: mesh.positions, triangles }))
        const look = shot.meshes.find(({ id }) => id === mesh.id)?.look
        const isColoured = primitive.getAttribute('COLOR_0') !== null
        if (look) primitive.setMaterial(materials.make(name, look, name.endsWith(' cut'), isColoured))
        whole.addPrimitive(primitive)
      }
      made.setMesh(whole)
    },
    addCameras: (shot: Shot, frame: number): void =>
      cameraNodes(document, shot, frame).forEach((one) => scene.addChild(one)),
    addLines({ id, sort }: Pick<DrawnLines, 'id' | 'sort'>, lines: Lines): void {
      const { points, colours, opacities } = lines
      const made = named(`${id}_${sort}`)
      const edges = edgesIn(lines)
      if (edges.length === 0) return
      const primitive = document
        .createPrimitive()
        .setMode(LINES)
        .setAttribute('POSITION', accessor(points.slice(), 3))
        .setAttribute('COLOR_0', accessor(withAlpha(colours, opacities), 4))
        .setIndices(accessor(edges, 1))
      made.setMesh(meshOf(id, primitive))
    },
    bytes(): Promise<Uint8Array> {
      if (instancing.listProperties().length === 0) instancing.dispose()
      materials.finish()
      withoutEmptyBuffer(document)
      return new WebIO()
        .registerExtensions([EXTMeshGPUInstancing, ...materials.extensions])
        .setVertexLayout(VertexLayout.SEPARATE)
        .writeBinary(document)
    },
  }
}

/** What a mesh is made of: of one that another cuts its own faces and those of the cut, with a material each. */
function partsOf({ id, triangles, inner }: MeshFrame): { name: string; triangles: Uint32Array }[] {
  const own = inner === undefined ? triangles : triangles.slice(0, inner * 3)
  const parts = [
    { name: inner === undefined ? id : `${id} own`, triangles: own },
    { name: `${id} cut`, triangles: triangles.slice(own.length) },
  ]
  return parts.filter((one) => one.triangles.length > 0)
}

const withAlpha = (colours: ArrayLike<number>, opacities: ArrayLike<number> | undefined): Float32Array =>
  Float32Array.from({ length: (colours.length / 3) * 4 }, (_, k) => (k % 4 === 3 ? (opacities?.[k >> 2] ?? 1) : colours[(k >> 2) * 3 + (k % 4)]!)) // prettier-ignore
const colourOf = (shot: Shot, population: PopulationFrame): Float32Array => {
  const { look, attributes } = shot.populations.find(({ id }) => id === population.id)!
  return withAlpha(coloursOf(look, population, attributes), population.columns.opacity)
}

/** Velocities and colours of the vertices of a mesh, and what they carry. */
function vertexAttributes(shot: Shot, mesh: MeshFrame): Attribute[] {
  const { colours, attributes } = vertexDataOf(shot, mesh)
  return [
    ...(mesh.velocities ? [{ name: '_VELOCITY', values: mesh.velocities.slice(), width: 3 }] : []),
    ...(colours ? [{ name: 'COLOR_0', values: colours, width: 3 }] : []),
    ...attributes.map(({ files, width, values }) => ({
      name: attributeName(files.vtk),
      values: values.slice(),
      width,
    })),
  ]
}

/** What glTF has no name for. */
const attributeName = (name: string): string => `_${name.toUpperCase().replace(/[^A-Z0-9_]/g, '_')}`

function ownAttributes(shot: Shot, population: PopulationFrame, drawn: WrittenInstances | null): Attribute[] {
  const { id, velocity } = population.columns
  const words = new Uint16Array(population.count * 2)
  id!.forEach((one, i) => words.set([one & 0xffff, one >>> 16], i * 2))
  const { look, attributes } = shot.populations.find(({ id: own }) => own === population.id)!
  const light = emissionOf(look, population, attributes)
  const rest = tableOf(shot, population, drawn).filter(({ name }) => !TOLD.has(name))
  const taken = new Set(['_ID', '_VELOCITY', '_EMISSION'])
  /** "heat" and "Heat" come to the same capitals. */
  const nameOf = (column: string): string => {
    const plain = attributeName(column)
    let name = plain
    for (let n = 2; taken.has(name); n++) name = `${plain}_${n}`
    taken.add(name)
    return name
  }
  return [
    { name: '_ID', values: words, width: 2 },
    ...(velocity ? [{ name: '_VELOCITY', values: Float32Array.from(velocity), width: 3 }] : []),
    ...(light ? [{ name: '_EMISSION', values: light, width: 3 }] : []),
    ...rest.map(({ name, values }) => ({
      name: nameOf(name),
      values: Float32Array.from(values),
      width: 1,
    })),
  ]
}
/** Columns of a table that are told otherwise. */
const TOLD = new Set(
  'id x y z vx vy vz qx qy qz qw red green blue alpha emission_red emission_green emission_blue instance scale'.split(
    ' ',
  ),
)

function instanceAttributes(shot: Shot, population: PopulationFrame, drawn: WrittenInstances): Attribute[] {
  const { position, orientation } = population.columns
  const scales = drawn.scales(population)
  return [
    { name: 'TRANSLATION', values: position as Float32Array, width: 3 },
    { name: 'SCALE', values: Float32Array.from({ length: scales.length * 3 }, (_, k) => scales[Math.floor(k / 3)]!), width: 3 }, // prettier-ignore
    ...(orientation ? [{ name: 'ROTATION', values: orientation as Float32Array, width: 4 }] : []),
    ...ownAttributes(shot, population, drawn),
  ]
}
