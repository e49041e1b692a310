import type { MeshFrame, PopulationFrame, Shot } from '@tangle/core'
import { FormatFault } from '../fault.ts'
import type { CachedFrame } from '../frames/cachedFrame.ts'
import { readPly, writePly, type PlyElement } from '../ply.ts'
import { cutMarks } from './cutMarks.ts'
import { encodeSrgb, srgbBytes } from './colours.ts'
import { allInstances, type WrittenInstances } from './instances.ts'
import { byFrame, frameNumber, inOnePiece, type ExportKind } from './kind.ts'
import { parts, populationOf, tableOf, weave } from './table.ts'
import { spaceInWords } from './space.ts'
import { edgesIn, linesOf, ownersIn, type Lines } from './lines.ts'
import { vertexDataOf, type VertexData } from './vertexData.ts'

const AXES = ['x', 'y', 'z'] as const

/**
 * A sequence of binary PLY files, one per population and frame: x y z (m), id, red green blue and, where they
 * are kept, vx vy vz (m/s), radius (m), age (s), phase, travelled (m), alpha, qx qy qz qw and the artist's own attributes by id. Meshes that are
 * eaten have files of their own, ID.mesh.FRAME.ply, and so have trails and threads, ID.trails.FRAME.ply, ID.threads.FRAME.ply: points with id, width
 * (m), red green blue alpha, and edges along the lines. Particles drawn as instances have instance (the number of their
 * mesh) and scale; the meshes are ID.instance-N.ply. Y is up.
 */
export const ply: ExportKind = {
  kind: 'ply',
  label: 'PLY sequence',
  help: 'One binary file per frame: positions, velocities, radii, ids, ages and colours',
  sequence: true,
  meshes: true,
  async *files(shot, frames, sources) {
    const instances = allInstances(shot, sources, frames.space)
    const about = (id: string, frame: number): string[] => [
      `Tangle ${shot.name.replace(/[\r\n]/g, ' ')}, ${id}, frame ${frame}`,
      spaceInWords(frames.space),
    ]
    for (const [id, one] of instances) {
      for (const [n, { mesh }] of (one?.meshes ?? []).entries())
        yield {
          name: `${id}.instance-${n}.ply`,
          pieces: inOnePiece(writeMesh(mesh, NO_DATA, about(`instance ${n} of ${id}`, frames.first))),
        }
    }
    for (let frame = frames.first; frame <= frames.last; frame++) {
      const { populations, meshes } = await frames.read(frame)
      const number = frameNumber(frame, frames.digits)
      for (const population of populations) {
        yield {
          name: `${population.id}.${number}.ply`,
          pieces: inOnePiece(
            writeFrame(shot, population, instances.get(population.id)!, about(population.id, frame)),
          ),
        }
      }
      for (const mesh of meshes)
        yield {
          name: `${mesh.id}.mesh.${number}.ply`,
          pieces: inOnePiece(writeMesh(mesh, vertexDataOf(shot, mesh), about(mesh.id, frame))),
        }
    }
    for (const { id, sort, through } of linesOf(shot)) {
      for await (const { frame, lines } of through(frames)) {
        const name = `${id}.${sort}.${frameNumber(frame, frames.digits)}.ply`
        yield { name, pieces: inOnePiece(writeLines(lines, about(`${sort} of ${id}`, frame))) }
      }
    }
  },
  async *readBack(read, names) {
    // lines and instances follow from the particles
    const own = names.filter((name) => !/\.(trails|threads)\.-?\d+\.ply$/.test(name))
    for (const [frame, files] of byFrame(own, /\.(-?\d+)\.ply$/)) {
      const populations: PopulationFrame[] = []
      const meshes: MeshFrame[] = []
      for (const file of files) {
        const bytes = await read(file)
        if (/\.mesh\.-?\d+\.ply$/.test(file)) meshes.push(readTriangles(file, bytes))
        else populations.push(readPoints(file, bytes))
      }
      yield { frame, populations, meshes } satisfies CachedFrame
    }
  },
}

const writeFrame = (
  shot: Shot,
  population: PopulationFrame,
  instances: WrittenInstances | null,
  comments: string[],
): Uint8Array => writePly(tableOf(shot, population, instances), comments)

const NO_DATA: VertexData = { colours: null, attributes: [] }
type WrittenMesh = Pick<MeshFrame, 'positions' | 'triangles' | 'inner' | 'velocities'>
function writeMesh(mesh: WrittenMesh, { colours, attributes }: VertexData, comments: string[]): Uint8Array {
  const bytes = colours && srgbBytes(colours)
  const columns = [
    ...parts(mesh.positions, AXES),
    ...parts(mesh.velocities, ['vx', 'vy', 'vz']),
    ...(bytes ? parts(bytes, ['red', 'green', 'blue']) : []),
    ...attributes.flatMap(({ values, files }) => parts(values, [...files.ply])),
  ]
  const marks = mesh.inner === undefined ? undefined : { name: 'cut', values: cutMarks(mesh) }
  return writePly(columns, comments, mesh.triangles, undefined, marks)
}

/** Points with their width and colour, and edges from one to the next of a line. */
function writeLines(lines: Lines, comments: string[]): Uint8Array {
  const { points, widths, colours, opacities } = lines
  const bytes = (value: (i: number) => number): Uint8Array => Uint8Array.from(widths, (_, i) => value(i))
  return writePly(
    [
      ...parts(points, AXES),
      ...parts(ownersIn(lines), ['id']),
      ...parts(widths, ['width']),
      ...['red', 'green', 'blue'].map((name, k) => ({
        name,
        values: bytes((i) => encodeSrgb(colours[i * 3 + k]!)),
      })),
      { name: 'alpha', values: bytes((i) => Math.round(opacities[i]! * 255)) },
    ],
    comments,
    undefined,
    edgesIn(lines),
  )
}

function vertexIn(name: string, bytes: Uint8Array) {
  const elements = readPly(bytes)
  const vertex = elements.find((e) => e.name === 'vertex')
  if (!vertex) throw new FormatFault(name, 'has no vertices')
  return { elements, vertex }
}

function readPoints(name: string, bytes: Uint8Array): PopulationFrame {
  const { vertex } = vertexIn(name, bytes)
  return populationOf(
    name,
    name.replace(/\.-?\d+\.ply$/, ''),
    vertex.count,
    (column) => vertex.columns[column],
  )
}

function readTriangles(name: string, bytes: Uint8Array): MeshFrame {
  const { elements, vertex } = vertexIn(name, bytes)
  const face: PlyElement | undefined = elements.find((e) => e.name === 'face')
  const list = face?.lists.vertex_indices
  if (!list) throw new FormatFault(name, 'has no faces')
  return {
    id: name.replace(/\.mesh\.-?\d+\.ply$/, ''),
    positions: weave(name, AXES, vertex.count, (column) => vertex.columns[column]),
    triangles: Uint32Array.from(list.values),
  }
}
