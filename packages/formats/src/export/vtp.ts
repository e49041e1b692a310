import {
  ATTRIBUTES,
  ownAttribute,
  ownName,
  type MeshFrame,
  type PopulationFrame,
  type Shot,
} from '@tangle/core'
import { FormatFault } from '../fault.ts'
import type { CachedFrame } from '../frames/cachedFrame.ts'
import { cutMarks } from './cutMarks.ts'
import { coloursOf, emissionOf, srgbBytes } from './colours.ts'
import { allInstances, numbersOf, type WrittenInstances } from './instances.ts'
import { byFrame, frameNumber, inOnePiece, plainName, type ExportedFile, type ExportKind } from './kind.ts'
import { readPolyData, writePolyData, type PolyData, type VtkArray } from './polyData.ts'
import { spaceInWords, type Space } from './space.ts'
import { linesOf as drawnLines, ownersIn, type Lines } from './lines.ts'
import { vertexDataOf } from './vertexData.ts'

/**
 * VTK's XML: one PolyData file per population and frame, ID.FRAME.vtp, with a vertex for each particle and what it has by the names of the attribute
 * table, and NAME.pvd, a collection that says which file is of which frame. Meshes that are eaten are ID.mesh.FRAME.vtp,
 * trails ID.trails.FRAME.vtp, and the meshes that particles are drawn as ID.instance-N.vtp. The time is the number of the frame.
 */
export const vtp: ExportKind = {
  kind: 'vtp',
  label: 'VTK sequence',
  help: 'One PolyData file per frame with every attribute, and a collection of them over time (.pvd)',
  sequence: true,
  meshes: true,
  async *files(shot, frames, sources) {
    const named = (id: string, frame: number): string => `${id}.${frameNumber(frame, frames.digits)}.vtp`
    const entries: { frame: number; id: string; name: string }[] = []
    const file = (frame: number, id: string, name: string, data: PolyData): ExportedFile => {
      entries.push({ frame, id, name })
      return written(shot, frames.space, frame, id, name, data)
    }
    const instances = allInstances(shot, sources, frames.space)
    for (const [id, one] of instances)
      for (const [n, { name, mesh }] of (one?.meshes ?? []).entries())
        yield written(
          shot,
          frames.space,
          frames.first,
          name,
          `${id}.instance-${n}.vtp`,
          surfaceOf(shot, { id: name, ...mesh }),
        )
    for (let frame = frames.first; frame <= frames.last; frame++) {
      const { populations, meshes } = await frames.read(frame)
      for (const one of populations)
        yield file(frame, one.id, named(one.id, frame), pointsOf(shot, one, instances.get(one.id)!))
      for (const one of meshes)
        yield file(frame, `${one.id} mesh`, named(`${one.id}.mesh`, frame), surfaceOf(shot, one))
    }
    for (const { id, sort, through } of drawnLines(shot))
      for await (const { frame, lines } of through(frames))
        yield file(frame, `${id} ${sort}`, named(`${id}.${sort}`, frame), linesOf(lines))
    yield {
      name: `${plainName(shot.name)}.pvd`,
      pieces: inOnePiece(new TextEncoder().encode(collection(entries))),
    }
  },
  async *readBack(read, names) {
    // lines and instances follow from the particles
    const own = names.filter((name) => !/\.(trails|threads)\.-?\d+\.vtp$/.test(name))
    for (const [frame, files] of byFrame(own, /\.(-?\d+)\.vtp$/)) {
      const out: CachedFrame = { frame, populations: [], meshes: [] }
      for (const file of files) {
        const blocks = readPolyData(file, await read(file))
        const need = <T>(name: string): T => {
          const block = blocks.get(name)
          if (!block) throw new FormatFault(file, `has no "${name}"`)
          return block as T
        }
        if (/\.mesh\.-?\d+\.vtp$/.test(file)) out.meshes.push(meshIn(file, need))
        else out.populations.push(populationIn(file, need, blocks))
      }
      yield out
    }
  },
}

const written = (
  shot: Shot,
  space: Space,
  frame: number,
  id: string,
  name: string,
  data: PolyData,
): ExportedFile => ({
  name,
  pieces: inOnePiece(writePolyData(data, frame, `Tangle ${shot.name}, ${id}, frame ${frame}; ${spaceInWords(space)}`)), // prettier-ignore
})

/** Which file is of which frame; each population and mesh is a part of its own. */
function collection(entries: { frame: number; id: string; name: string }[]): string {
  const parts = [...new Set(entries.map(({ id }) => id))]
  const lines = entries.map(
    ({ frame, id, name }) =>
      `<DataSet timestep="${frame}" part="${parts.indexOf(id)}" name="${id}" file="${name}"/>`,
  )
  return `<?xml version="1.0"?>\n<VTKFile type="Collection" version="0.1" byte_order="LittleEndian">\n<Collection>\n${lines.join('\n')}\n</Collection>\n</VTKFile>\n`
}

/** So many cells of so many points each, one after the other. */
const runs = (kind: PolyData['cells']['kind'], cells: number, of: number): PolyData['cells'] => ({
  kind,
  connectivity: Int32Array.from({ length: cells * of }, (_, i) => i),
  offsets: Int32Array.from({ length: cells }, (_, i) => (i + 1) * of),
})

function pointsOf(shot: Shot, population: PopulationFrame, instances: WrittenInstances | null): PolyData {
  const { look, attributes } = shot.populations.find(({ id }) => id === population.id)!
  const { columns, count } = population
  const kept = (Object.keys(ATTRIBUTES) as (keyof typeof ATTRIBUTES)[]).flatMap((name): VtkArray[] => {
    const { files, width } = ATTRIBUTES[name]
    const values = columns[name]
    // the colour is that of the look
    return values && files && name !== 'position' && name !== 'colour'
      ? [{ name: files.vtk, components: width, values }]
      : []
  })
  const own = attributes.flatMap((one): VtkArray[] => {
    const values = columns[ownName(one.id)]
    const { files, width } = ownAttribute(one)
    const numbers = one.type === 'whole' ? values && Int32Array.from(values, Math.round) : values
    return numbers ? [{ name: files!.vtk, components: width, values: numbers }] : []
  })
  const drawn: VtkArray[] = instances
    ? [
        { name: 'instance', components: 1, values: numbersOf(instances, population) },
        { name: 'scale', components: 1, values: instances.scales(population) },
      ]
    : []
  const emission = emissionOf(look, population, attributes)
  const light: VtkArray[] = emission ? [{ name: 'emission', components: 3, values: emission }] : []
  const colour = { name: 'colour', components: 3, values: srgbBytes(coloursOf(look, population, attributes)) }
  return {
    points: columns.position as Float32Array,
    cells: runs('Verts', count, 1),
    arrays: [...kept, ...own, ...drawn, colour, ...light],
  }
}

function surfaceOf(shot: Shot, mesh: MeshFrame): PolyData {
  const { positions, triangles, inner, velocities } = mesh
  const { colours, attributes } = vertexDataOf(shot, mesh)
  return {
    points: positions,
    cells: { ...runs('Polys', triangles.length / 3, 3), connectivity: Int32Array.from(triangles) },
    arrays: [
      ...(velocities ? [{ name: 'velocity', components: 3, values: velocities }] : []),
      ...(colours ? [{ name: 'colour', components: 3, values: srgbBytes(colours) }] : []),
      ...attributes.map(({ files, width, values }) => ({ name: files.vtk, components: width, values })),
    ],
    ...(inner === undefined ? {} : { cellArrays: [{ name: 'cut', components: 1, values: cutMarks({ triangles, inner }) }] }), // prettier-ignore
  }
}

function linesOf(lines: Lines): PolyData {
  const { counts, points, widths, colours, opacities } = lines
  let end = 0
  const offsets = Int32Array.from(counts, (count) => (end += count))
  return {
    points,
    cells: { kind: 'Lines', connectivity: Int32Array.from({ length: widths.length }, (_, i) => i), offsets },
    arrays: [
      { name: 'id', components: 1, values: ownersIn(lines) },
      { name: 'width', components: 1, values: widths },
      { name: 'opacity', components: 1, values: opacities },
      { name: 'colour', components: 3, values: srgbBytes(colours) },
    ],
  }
}

type Need = <T>(name: string) => T
const meshIn = (file: string, need: Need): MeshFrame => ({
  id: file.replace(/\.mesh\.-?\d+\.vtp$/, ''),
  positions: need('Points'),
  triangles: Uint32Array.from(need<Int32Array>('connectivity')),
})
function populationIn(file: string, need: Need, blocks: Map<string, unknown>): PopulationFrame {
  const id = need<Uint32Array>('id')
  return {
    id: file.replace(/\.-?\d+\.vtp$/, ''),
    count: id.length,
    columns: {
      id,
      position: need('Points'),
      ...(blocks.has('velocity') ? { velocity: need('velocity') } : {}),
      ...(blocks.has('radius') ? { radius: need('radius') } : {}),
    },
  }
}
