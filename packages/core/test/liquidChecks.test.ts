/** What artists are told of liquids, and how it is mended. */
import { checkFrame, checkShot, liquidOf, LIQUIDS, readShot } from '../src/index.ts'
import { measureSimulation } from '../src/measures/measures.ts'
import { box, mended } from './help.ts'
import { filling, startTank, tankShot } from './liquidHelp.ts'

describe('checks', () => {
  test('nothing holds it: told, and mended at once', () => {
    const held = tankShot({ meshes: [box()], width: 0.1 })
    const loose = { ...held, populations: held.populations.map((one) => ({ ...one, influences: one.influences.filter(({ kind }) => kind !== 'collide') })) } // prettier-ignore
    const found = checkShot(loose, new Map()).find(({ id }) => id === 'dust:f:unheld')!
    expect(found.title).toBe('Nothing holds dust in tank')
    expect(mended(loose, found).populations[0]!.influences.at(-1)).toMatchObject({
      kind: 'collide',
      side: 'inside',
    })
    const wrong = tankShot({ meshes: [box()], width: 0.1, side: 'outside' })
    const side = checkShot(wrong, new Map()).find(({ id }) => id === 'dust:f:side')!
    expect(mended(wrong, side).populations[0]!.influences.find(({ kind }) => kind === 'collide')).toMatchObject({ side: 'inside' }) // prettier-ignore
    expect(checkShot(held, new Map()).map(({ id }) => id)).not.toContain('dust:f:unheld')
  })
  test('a fill at a rate, and grains of many sizes: told, and mended at once', () => {
    const births = [filling('tank', 0.5, { amount: { rate: 100 } })]
    const shot = tankShot({ meshes: [box()], width: 0.1, births })
    const found = checkShot(shot, new Map()).find(({ id }) => id === 'dust:f:again')!
    expect(mended(shot, found).populations[0]!.births[0]!.amount).toEqual({ burst: 'all', at: 1 })
    const mixed = structuredClone(shot)
    mixed.populations[0]!.particle.radius = { mean: 0.05, spread: 0.3 }
    const uneven = checkShot(mixed, new Map()).find(({ id }) => id === 'dust:uneven')!
    expect(mended(mixed, uneven).populations[0]!.particle.radius).toBe(0.05)
    const [honey] = LIQUIDS.filter(({ id }) => id === 'honey')
    const { particle, influences } = liquidOf(mixed.populations[0]!, honey!)
    expect(particle).toMatchObject({ density: 1420, radius: 0.05, lifespan: null })
    expect(influences.find(({ kind }) => kind === 'liquid')).toMatchObject({ viscosity: 10 })
  })
  test('a closed mesh has no hollow: told, and mended at once', () => {
    const births = [filling('tank', 0.6, { holds: 'hollow' })]
    const shot = tankShot({ meshes: [box()], width: 0.1, births })
    const empty = startTank({ meshes: [box()], width: 0.1, births })
    const found = checkFrame(shot, measureSimulation(empty), 1).find(({ id }) => id === 'dust:f:empty')!
    expect(found.title).toBe('dust finds no room in tank')
    expect(mended(shot, found).populations[0]!.births[0]).toMatchObject({ holds: 'inside' })
  })
  test('too few rounds: it is said that it is compressed', () => {
    const simulation = startTank({
      meshes: [box()],
      width: 0.05,
      quality: { level: 'own', substeps: 1, iterations: 1 },
    })
    let told = false
    for (let f = 2; f < 20 && !told; f++) {
      simulation.advance()
      told = checkFrame(simulation.shot, measureSimulation(simulation), simulation.frame, new Map()).some(({ id }) => id === 'dust:compressed') // prettier-ignore
    }
    expect(told).toBe(true)
  })
  test('a shot with a liquid reads back as it is', () => {
    const shot = tankShot({ meshes: [box()], width: 0.1, liquid: { viscosity: 5 } })
    expect(readShot(JSON.parse(JSON.stringify(shot))).shot).toEqual(shot)
  })
})
