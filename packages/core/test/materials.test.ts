/** A material belongs to its population: contacts follow it until their values are typed over. */
import { gripFor, gripOf, LIQUIDS, liquidOf, madeOf, MATERIALS, readShot } from '../src/index.ts'
import { acting, shotOf } from './help.ts'

const sand = MATERIALS.find(({ id }) => id === 'dry-sand')!
const population = (more: object = {}) => shotOf(more).populations[0]!

test('one that is chosen first is followed by contacts that come later, and by nothing else', () => {
  const made = madeOf(population(), sand)
  expect(made.material).toBe('dry-sand')
  const { friction, sliding, sticky, bounce } = sand
  expect(gripFor(made, acting('floor'))).toEqual({ friction, sliding, sticky, bounce })
  expect(gripFor(made, acting('gravity'))).toEqual({})
  expect(gripFor(population(), acting('floor'))).toEqual({})
})

test.each(MATERIALS.map((one) => [one.label, one] as const))(
  '%s: a document that names it has its contacts',
  (_, material) => {
    const contacts = ['floor', 'selfCollision'].map((kind) => ({ id: kind, kind, weights: { Loose: 1 } }))
    const { influences } = population({ material: material.id, influences: contacts })
    for (const one of influences)
      expect([one.friction, one.bounce]).toEqual([material.friction, material.bounce])
  },
)

test('what is written in the document stands, and is told', () => {
  const of = population({
    material: 'dry-sand',
    influences: [{ id: 'f', kind: 'floor', weights: { Loose: 1 }, friction: 0.9 }],
  })
  expect(of.influences[0]).toMatchObject({ friction: 0.9, sliding: sand.sliding })
  expect(gripOf(of, of.influences[0]!)).toEqual({ material: sand, own: ['friction'] })
  expect(gripOf(of, acting('gravity'))).toBeNull()
  expect(gripOf({ material: null }, of.influences[0]!)).toBeNull()
})

test('a liquid is kept as well, and its contacts have no grip of grains', () => {
  const water = liquidOf(population(), LIQUIDS[0]!)
  expect(water.material).toBe(LIQUIDS[0]!.id)
  expect(gripFor(water, acting('floor'))).toEqual({})
})

test('one that there is not is refused with those that there are', () => {
  const json = { ...shotOf({}), populations: [{ ...population(), material: 'cheese' }] }
  const [problem] = readShot(JSON.parse(JSON.stringify(json))).problems!
  expect(problem).toMatchObject({ path: 'populations[0].material' })
  expect(problem!.message).toMatch(/must be one of dry-sand/)
})
