/** VTK's XML, read by the makers of VTK: the reader of vtk.js. */
import vtkXMLPolyDataReader from '@kitware/vtk.js/IO/XML/XMLPolyDataReader.js'
import { readPolyData } from '../src/export/polyData.ts'
import { coloursOf } from '../src/index.ts'
import { frameOf, meshOf, shot, withAll, write } from './take.ts'

// it is made for pages
Object.assign(globalThis, { Node: { ELEMENT_NODE: 1 } })

interface Values {
  getData(): ArrayLike<number>
  getNumberOfComponents(): number
}
interface PolyData {
  getPoints(): Values
  getPointData(): { getArrayByName(name: string): Values | null }
  getVerts(): Values
  getLines(): Values
  getPolys(): Values
}
function read(bytes: Uint8Array): PolyData {
  const reader = (vtkXMLPolyDataReader as unknown as { newInstance(): { parseAsArrayBuffer(b: ArrayBufferLike): void; getOutputData(n: number): PolyData } }).newInstance() // prettier-ignore
  reader.parseAsArrayBuffer(bytes.slice().buffer)
  return reader.getOutputData(0)
}
const data = (values: Values | null): number[] => Array.from(values!.getData())

test('an independent reader finds every attribute of the particles, to the bit', async () => {
  const files = await write('vtp')
  const { columns, count } = frameOf(4).populations[0]!
  const found = read(files.get('dust.0004.vtp')!)
  const of = (name: string) => found.getPointData().getArrayByName(name)
  expect(data(found.getPoints())).toEqual(Array.from(columns.position!))
  expect(data(of('id'))).toEqual(Array.from(columns.id!))
  expect([of('velocity')!.getNumberOfComponents(), data(of('velocity'))]).toEqual([3, Array.from(columns.velocity!)]) // prettier-ignore
  for (const [name, column] of [
    ['age', 'age'],
    ['radius', 'radius'],
    ['opacity', 'opacity'],
    ['phase', 'phase'],
    ['orientation', 'orientation'],
  ] as const)
    // prettier-ignore
    expect([name, data(of(name))]).toEqual([name, Array.from(columns[column]!)])
  const first = coloursOf(shot.populations[0]!.look, frameOf(4).populations[0]!)[0]!
  expect(data(of('colour'))[0]).toBe(Math.round((1.055 * first ** (1 / 2.4) - 0.055) * 255))
  // a vertex for each: 1, and its number
  expect(data(found.getVerts()).slice(0, 6)).toEqual([1, 0, 1, 1, 1, 2])
  expect(data(found.getVerts()).length).toBe(2 * count)
  // and where nobody is
  expect(data(read(files.get('spray_2.0004.vtp') ?? files.get('spray-2.0004.vtp')!).getPoints())).toEqual([])
})

test('meshes, trails and instances have files of their own, and the collection names those of each frame', async () => {
  await withAll(async (sources, steady) => {
    const files = await write('vtp', sources, steady)
    const mesh = read(files.get('tower.mesh.0003.vtp')!)
    const triangles = meshOf(4).triangles
    expect(data(mesh.getPolys())).toEqual(
      Array.from({ length: (triangles.length / 3) * 4 }, (_, k) =>
        k % 4 === 0 ? 3 : triangles[Math.floor(k / 4) * 3 + (k % 4) - 1]!,
      ),
    )
    expect(data(mesh.getPoints())).toEqual(Array.from(meshOf(4).positions))
    const trails = read(files.get('dust.trails.0005.vtp')!)
    expect(data(trails.getLines()).slice(0, 8)).toEqual([3, 0, 1, 2, 3, 3, 4, 5])
    expect(data(trails.getPointData().getArrayByName('id')).slice(0, 4).map((id) => id - 4_000_000_004)).toEqual([0, 0, 0, 3]) // prettier-ignore
    expect(data(read(files.get('spray-2.instance-1.vtp')!).getPolys()).length).toBe(16)
    const collection = new TextDecoder().decode(files.get('Two_counts.pvd'))
    for (const line of [
      '<VTKFile type="Collection"',
      '<DataSet timestep="4" part="0" name="dust" file="dust.0004.vtp"/>',
      'timestep="5" part="2" name="tower mesh" file="tower.mesh.0005.vtp"',
      'name="dust trails" file="dust.trails.0003.vtp"',
    ])
      expect(collection).toContain(line)
    for (const [, name] of collection.matchAll(/file="([^"]*)"/g)) expect(files.has(name!)).toBe(true)
  })
})

test('what is cut off is refused with where, and a name of a shot breaks no file', async () => {
  const { name } = shot
  shot.name = 'A --> "b" & <c>\u0007'
  const files = await write('vtp')
  shot.name = name
  const bytes = files.get('dust.0003.vtp')!
  expect(data(read(bytes).getPoints()).length).toBe(90)
  expect(() => readPolyData('x.vtp', bytes.slice(0, bytes.length - 20))).toThrow(/x\.vtp.*(no end|cut off)/)
  expect(() => readPolyData('x.vtp', bytes.slice(0, bytes.length >> 1))).toThrow(
    /ends in "\w+": it is cut off/,
  )
  expect(() => readPolyData('x.vtp', bytes.slice(400))).toThrow(/no PolyData/)
})
