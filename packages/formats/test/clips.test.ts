/** Value clips: what is opened names the clips, and each has a frame; read by others. */
import { parse as parseUsda } from '@kroxilon/usda-parser'
import { execFileSync } from 'node:child_process'
import { readText } from '../src/export/usdReader.ts'
import { frames, withAll, write } from './take.ts'

const text = (bytes: Uint8Array): string => new TextDecoder().decode(bytes)
const asText = (crate: Uint8Array): Uint8Array =>
  execFileSync(process.execPath, [`${import.meta.dirname}/crateAsText.mjs`], {
    input: crate,
    maxBuffer: 2 ** 28,
  })

test('there is a clip for each frame, what varies is listed, and one file plays them', async () => {
  await withAll(async (sources, steady) => {
    const files = await write('usd-clips', sources, steady)
    expect([...files.keys()]).toEqual([
      'Two_counts.0003.usdc',
      'Two_counts.0004.usdc',
      'Two_counts.0005.usdc',
      'Two_counts.manifest.usda',
      'Two_counts.usda',
    ])
    const stage = text(files.get('Two_counts.usda')!)
    for (const line of [
      'double2[] active = [(3, 0), (4, 1), (5, 2)]',
      'asset[] assetPaths = [@./Two_counts.0003.usdc@, @./Two_counts.0004.usdc@, @./Two_counts.0005.usdc@]',
      'asset manifestAssetPath = @./Two_counts.manifest.usda@',
      'string primPath = "/Two_counts"',
      // a time of the stage is the same time of a clip
      'double2[] times = [(3, 3), (6, 6)]',
      'startTimeCode = 3',
      'endTimeCode = 5',
      'rel prototypes = [</Two_counts/spray_2/bolt_0>, </Two_counts/spray_2/nut_1>]',
      'point3f[] positions',
    ])
      expect(stage).toContain(line)
    expect(stage).not.toContain('timeSamples')
    expect(JSON.stringify(parseUsda(stage.replace(/ \(\n {4}clips[^]*?\n\)/, '')))).toContain('spray_2')
    // every attribute that a clip has is in the list, with its type
    const listed = text(files.get('Two_counts.manifest.usda')!)
    const first = text(asText(files.get('Two_counts.0003.usdc')!))
    const declared = [...first.matchAll(/^\s+(\w+\[\] [\w:]+)\.timeSamples/gm)].map(([, one]) => one!)
    expect(declared.length).toBeGreaterThan(20)
    for (const one of declared) expect(listed).toMatch(new RegExp(`${one.replace(/[[\]]/g, '\\$&')}[ \n]`))
  })
})

test('an independent reader finds in each clip what one file of all frames has at that frame', async () => {
  await withAll(async (sources, steady) => {
    for (const take of [frames, steady, { ...steady, times: [3, 3.5, 4, 4.5, 5], digits: 6 }]) {
      const whole = readText([...(await write('usda', sources, take)).values()][0]!)
      const clips = await write('usd-clips', sources, take)
      for (const frame of [3, 4, 5]) {
        const name = `Two_counts.${String(frame).padStart(take.digits, '0')}.usdc`
        const prims = readText(asText(clips.get(name)!)).filter(({ samples }) => samples.size > 0)
        expect(prims.map(({ type, id }) => [type, id])).toEqual(
          whole.filter(({ samples }) => samples.size > 0).map(({ type, id }) => [type, id]),
        )
        for (const { type, id, samples } of prims) {
          const same = whole.find((one) => one.type === type && one.id === id)!
          const here = [...same.samples].filter(([time]) => Math.floor(time) === frame)
          expect([...samples.keys()]).toEqual(here.map(([time]) => time))
          for (const [time, all] of here)
            for (const [attribute, values] of Object.entries(all))
              expect([attribute, samples.get(time)![attribute]!.map((x) => Math.fround(x) + 0)]).toEqual([
                attribute,
                values.map((x) => Math.fround(x) + 0),
              ])
        }
      }
    }
  })
})
