/** What is found about pieces and bonds, and that its mend does mend it. */
import { checkFrame, checkShot, type Check, type Mesh, type Shot } from '../src/index.ts'
import { blocks, body, bonded, bondedShot, gravity } from './bondHelp.ts'
import { ASSET, box, mended } from './help.ts'
import { simulate } from './rigidHelp.ts'

type Loose = Record<string, unknown>
const bar = blocks([6, 1, 1], [1.2, 0.2, 0.2])
const other = `sha256:${'6'.repeat(64)}`
const floor = { id: 'f', kind: 'floor', weights: { Free: 1 } }
const frames = { first: 1, last: 40, rate: 24 }
const high = { position: [0, 3, 0] }

/** What is said of a shot at frames of it, and the shot's measures there. */
async function said(shot: Shot, at: number[], meddle?: (columns: Record<string, Float32Array>) => void) {
  const simulation = await simulate(shot, new Map<string, Mesh>([[ASSET, bar], [other, box(1, 1, 1)]])) // prettier-ignore
  meddle?.(simulation.populations()[0]!.columns as Record<string, Float32Array>)
  const checks: Check[] = []
  for (;;) {
    if (at.includes(simulation.frame))
      checks.push(...checkFrame(shot, simulation.measures(), simulation.frame))
    if (simulation.frame >= Math.max(...at)) break
    simulation.advance()
  }
  const measures = simulation.measures()
  simulation.dispose()
  return { checks, measures }
}
const findIn = (checks: Check[], title: RegExp): Check | undefined =>
  checks.find((one) => title.test(one.title))

describe('bonds', () => {
  test('without a rigid body hold nothing', () => {
    const without = bondedShot([bonded()], { frames })
    expect(findIn(checkShot(without, new Map()), /Bonds of .* hold nothing/)?.text).toMatch(/add Rigid body/)
    expect(findIn(checkShot(bondedShot([body(), bonded()], { frames }), new Map()), /hold nothing/)).toBeUndefined() // prettier-ignore
  })
  test('that break at once: the mend holds', async () => {
    const shot = bondedShot([gravity(), body(), bonded({ bears: 0.5 }), floor], { frames }, { position: [0, 0.12, 0], rotation: [0, 0, 3] }) // prettier-ignore
    const found = findIn((await said(shot, [6])).checks, /falls apart at once/)!
    expect(found.text).toMatch(/bonds broke in the first 5 frames/)
    expect(found.mend!.label).toMatch(/^Bear .* kPa$/)
    // what breaks less is hit harder: once more may be needed
    let now = mended(shot, found)
    const again = findIn((await said(now, [6])).checks, /falls apart/)
    if (again) now = mended(now, again)
    expect(findIn((await said(now, [6])).checks, /falls apart/)).toBeUndefined()
  })
  test('that never break: the mend breaks them', async () => {
    const shot = bondedShot([gravity(), body(), bonded({ bears: 1e5 }), floor], { frames }, { position: [0, 1, 0], rotation: [0, 0, 30] }) // prettier-ignore
    const found = findIn((await said(shot, [40])).checks, /never breaks/)!
    expect(found.text).toMatch(/Its worst bond bears .* % of its strength/)
    const after = await said(mended(shot, found), [40])
    expect(after.measures.populations[0]!.bonds!.broken).toBeGreaterThan(0)
  })
})

describe('pieces', () => {
  test('that start inside what they hit: which, how deep, and the gap that would mend it', async () => {
    const collide = { id: 'c', kind: 'collide', mesh: 'slab', weights: { Free: 1 } }
    const meshes = (x: number): Loose[] => [
      { id: 'slab', source: { asset: other }, place: { position: [x, 3, 0] } },
    ]
    const shot = bondedShot([body(), collide], { frames, meshes: meshes(0.9) }, high)
    // the bar ends at 0.6, the slab begins at 0.4: its last block, number 5, is in by 20 cm less what its hull is smaller
    const { checks } = await said(shot, [1])
    expect(findIn(checks, /^17 % of .* start inside/)?.text).toMatch(/Number 5 is in it by (200|199) mm/)
    const clear = bondedShot([body(), collide], { frames, meshes: meshes(1.11) }, high)
    expect(findIn((await said(clear, [1])).checks, /start inside/)).toBeUndefined()
    // of a shell it is the gap that mends
    const { measures } = await said(shot, [1])
    const shell: Shot = { ...shot, meshes: [{ ...shot.meshes[0]!, source: { fracture: { mesh: 'skin' } } }, { ...shot.meshes[1]!, id: 'skin', source: { shell: { mesh: 'slab', gap: 0.01 } } }] as unknown as Shot['meshes'] } // prettier-ignore
    expect(findIn(checkFrame(shell, measures, 1), /start inside/)?.mend?.label).toBe('A gap of 0.22 m')
  })
  test('that are too small to matter', async () => {
    const shot = bondedShot([body()], { frames }, high)
    const crumb = await said(shot, [1], ({ radius }) => radius!.set([0.001, 0.002], 2))
    expect(findIn(crumb.checks, /^2 of .* are crumbs/)).toBeDefined()
    expect(findIn((await said(shot, [1])).checks, /crumbs/)).toBeUndefined()
  })
  test('that are too many to look at as they are computed: fewer by one click', async () => {
    const shot = bondedShot([body()], { frames }, high)
    const { measures } = await said(shot, [1])
    const many = { ...measures, populations: measures.populations.map((one) => ({ ...one, alive: 5000 })) }
    const whole = { ...shot.meshes[0]!, id: 'whole' }
    const broken = { ...shot, meshes: [{ ...shot.meshes[0]!, source: { fracture: { mesh: 'whole', pieces: 5000 } } }, whole] } as unknown as Shot // prettier-ignore
    const found = findIn(checkFrame(broken, many, 1), /^5000 of .* are rigid bodies/)!
    expect(found.mend!.edits).toEqual([{ path: ['meshes', 0, 'source', 'fracture', 'pieces'], value: 1000 }])
    expect(findIn(checkFrame(shot, measures, 1), /are rigid bodies/)).toBeUndefined()
  })
  test('that have been let go and do not go', async () => {
    const { checks } = await said(bondedShot([body()], { frames }, high), [40])
    expect(findIn(checks, /^100 % of .* are stuck/)).toBeDefined()
    const falls = await said(bondedShot([body(), gravity()], { frames }, high), [40])
    expect(findIn(falls.checks, /stuck/)).toBeUndefined()
  })
  test('that are not home at the last frame: more speed brings them there', async () => {
    const phases = {
      phases: ['Free', 'Homing'],
      cues: [{ id: 'c', from: 'Free', to: 'Homing', when: { kind: 'after', frames: 12 } }],
    }
    const home = { id: 'h', kind: 'dock', weights: { Homing: 1 }, speed: 0.4, ease: 0.2 }
    const shot = bondedShot([body(), gravity({ Free: 1 }), home], { frames }, high, phases)
    let { checks } = await said(shot, [40])
    let now = shot
    const first = findIn(checks, /^100 % of .* are not home/)!
    expect(first.text).toMatch(/farthest is .* from its place/)
    for (let n = 0; n < 4; n++) {
      const found = findIn(checks, /are not home/)
      if (!found) break
      now = mended(now, found)
      ;({ checks } = await said(now, [40]))
    }
    expect(findIn(checks, /are not home/)).toBeUndefined()
  })
})
