/** Whatever the table of attributes gives a name in files is in them, so that a new one is not forgotten. */
import { ATTRIBUTES, BUILT_IN_NAMES, completePopulation, emptyShot, type Shot } from '@tangle/core'
import { tableOf } from '../src/export/table.ts'
import type { CachedFrame } from '../src/index.ts'
import { fileOf, framesFrom, writtenFiles } from './take.ts'

const WRITTEN = BUILT_IN_NAMES.filter((name) => ATTRIBUTES[name].files)
const COUNT = 3
const shot = { ...emptyShot('All'), populations: [completePopulation({ id: 'dust' })] } as Shot
const columns = Object.fromEntries(
  WRITTEN.map((name) => {
    const { type, width } = ATTRIBUTES[name]
    const values = Array.from({ length: COUNT * width }, (_, k) => k + 1)
    return [name, type === 'u32' ? Uint32Array.from(values) : Float32Array.from(values)]
  }),
)
const frameAt = (frame: number): CachedFrame => ({
  frame,
  populations: [{ id: 'dust', count: COUNT, columns }],
  meshes: [],
})
const textOf = async (kind: string, part: string): Promise<string> =>
  new TextDecoder().decode(fileOf(await writtenFiles(kind, shot, framesFrom(1, 2, frameAt)), part))
test('USD and VTK have all of them', async () => {
  const [usd, vtk] = [await textOf('usda', 'usd'), await textOf('vtp', '0001.vtp')]
  for (const name of WRITTEN) {
    const { files } = ATTRIBUTES[name]
    // points do not turn there, only instances do
    if (name !== 'angularVelocity') expect(usd).toContain(`${files!.usd}.timeSamples`)
    expect(vtk).toContain(`Name="${files!.vtk}"`)
  }
})

test('so do tables, which PLY, CSV, Parquet and glTF are made from', () => {
  const names = tableOf(shot, frameAt(1).populations[0]!, null).map(({ name }) => name)
  for (const name of WRITTEN) expect(names).toEqual(expect.arrayContaining([...ATTRIBUTES[name].files!.ply]))
})
