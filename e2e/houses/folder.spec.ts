/** Takes written to a folder of the server: whole, verified by the command line, never over one another. */
import { expect, test } from '@playwright/test'
import { execFileSync } from 'node:child_process'
import { mkdtempSync, readdirSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { createHouse, createShot, takesOf } from './house.ts'

test('a take is written to the folder of the server as chosen; what can’t be is refused and leaves nothing', async ({
  request,
}) => {
  const exports = mkdtempSync(join(tmpdir(), 'tangle-exports-'))
  const house = await createHouse('tangle_folder', { TANGLE_EXPORT_FOLDER: exports })
  try {
    const { base } = house
    const { make, done } = takesOf(request, house, await createShot(request, house))
    const ask = async (take: string, data: object): Promise<[number, string]> => {
      const answer = await request.post(`${base}/takes/${take}/files`, { data })
      return [answer.status(), await answer.text()]
    }
    expect(await (await request.get(`${base}/space`)).json()).toMatchObject({ folder: exports })
    const take = await make()
    expect(await ask(take, { format: 'ply' })).toMatchObject([
      409,
      expect.stringMatching(/only a finished one/),
    ])
    house.worker()
    await done(take)
    expect(await ask(take, { format: 'ply', unit: 'cm', from: '20', to: '22' })).toMatchObject([201, expect.stringMatching(/Workers_take1_ply/)]) // prettier-ignore
    const folder = join(exports, 'Workers_take1_ply')
    expect(readdirSync(folder).sort()).toEqual([
      'cache.json',
      'dust.0020.ply',
      'dust.0021.ply',
      'dust.0022.ply',
    ])
    expect(execFileSync('node', ['.build/cli.mjs', 'verify', folder]).toString()).toMatch(
      /3 frames, .* as computed/,
    )
    for (const [data, status, says] of [
      [{ format: 'ply' }, 409, /is there already/],
      [{ format: 'ply', folder: '../out' }, 422, /must be a name/],
      [{ format: 'ply', folder: '.hidden' }, 422, /must be a name/],
      [{ format: 'fbx' }, 422, /format must be one of/],
      [{ format: 'ply', folder: 'b', unit: 'mile' }, 422, /unit must be one of/],
      [{ format: 'vdb', folder: 'c', voxel: '0.000001' }, 422, /choose larger ones/],
    ] as const)
      expect(await ask(take, data)).toMatchObject([status, expect.stringMatching(says)])
    expect(await ask(take, { format: 'usdc', folder: 'shot-7.v2', from: '9', to: '10', samples: '2' })).toMatchObject([201, expect.any(String)]) // prettier-ignore
    // nothing is left of what could not be written
    expect(readdirSync(exports).sort()).toEqual(['Workers_take1_ply', 'shot-7.v2'])
  } finally {
    await house.close()
    rmSync(exports, { recursive: true })
  }
})
