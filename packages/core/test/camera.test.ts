/** Cameras: where they are at a moment, and how wide they see. */
import {
  ASPECTS,
  cameraAt,
  completeCamera,
  fieldOfViewIn,
  focalLengthFor,
  readShot,
  type Shot,
} from '../src/index.ts'

const asset = `sha256:${'1'.repeat(64)}`
function shotWith(camera: object, more: object = {}): Shot {
  const read = readShot({
    format: 'tangle-shot',
    version: 1,
    name: 'Cameras',
    frames: { first: 1, last: 49, rate: 24 },
    meshes: [
      { id: 'boat', source: { asset }, place: { position: [{ keys: [[1, 0], [49, 24]] }, 1, 0] } },
      { id: 'pieces', source: { fracture: { mesh: 'boat' } } },
    ],
    cameras: [{ id: 'one', ...camera }],
    ...more,
  }) // prettier-ignore
  if (read.problems) throw new Error(JSON.stringify(read.problems))
  return read.shot
}
const at = (shot: Shot, frame: number) => cameraAt(shot, shot.cameras[0]!, frame)

test('places and lenses follow their keys, between frames too', () => {
  const shot = shotWith({
    position: [{ keys: [[1, 0], [11, 10]] }, 2, 3],
    focalLength: { keys: [[1, 20], [11, 40]] },
    roll: 5,
  }) // prettier-ignore
  expect(at(shot, 6)).toMatchObject({ position: [5, 2, 3], target: [0, 1, 0], focalLength: 30, roll: 5 })
  expect(at(shot, 3.5).position[0]).toBeCloseTo(2.5, 9)
  expect(at(shot, 99).focalLength).toBe(40)
})

test.each(['boat', 'pieces'])(
  'what follows %s is carried by as much as it has gone, from where it stands at first',
  (follow) => {
    const shot = shotWith({ position: [4, 3, 6], target: [0, 1, 0], follow })
    expect(at(shot, 1)).toMatchObject({ position: [4, 3, 6], target: [0, 1, 0] })
    // a boat that goes 24 m in 48 frames
    const { position, target } = at(shot, 25)
    expect(position[0]).toBeCloseTo(16, 9)
    expect(target[0]).toBeCloseTo(12, 9)
    expect([position[1], position[2]]).toEqual([3, 6])
  },
)

// handbook: 36 mm film at 50 mm sees 39.6° across and, 24 mm high, 27.0° upright; at 24 mm 73.7° across (from memory)
test.each([
  [50, 1.5, 27],
  [24, 1.5, 53.1],
  [100, 1.5, 13.7],
])('a lens of %d mm sees as the handbook says', (focalLength, aspect, upright) => {
  const { aspect: _, ...rest } = cameraAt(shotWith({}), completeCamera({ id: 'a', focalLength }), 1)
  expect(fieldOfViewIn(aspect, { ...rest, aspect })).toBeCloseTo(upright, 1)
  expect(focalLengthFor(upright, aspect)).toBeGreaterThan(focalLength * 0.99)
  expect(focalLengthFor(upright, aspect)).toBeLessThan(focalLength * 1.01)
})

test.each(Object.keys(ASPECTS))(
  'the picture of a camera of %s is seen whole in a picture of any shape',
  (aspect) => {
    const camera = at(shotWith({ aspect, focalLength: 35 }), 1)
    for (const shape of [0.4, 1, 16 / 9, 4]) {
      const upright = Math.tan((fieldOfViewIn(shape, camera) * Math.PI) / 360)
      const [across, high] = [18 / 35, 18 / 35 / ASPECTS[aspect]!]
      expect(upright).toBeGreaterThan(high * 0.9999)
      expect(upright * shape).toBeGreaterThan(across * 0.9999)
      // and touches two of its edges
      expect(Math.min(upright / high, (upright * shape) / across)).toBeCloseTo(1, 6)
    }
  },
)

test('bad cameras are refused with where and why', () => {
  const problemsOf = (camera: object): string[] => {
    const { problems } = readShot({
      format: 'tangle-shot', version: 1, name: 'x', frames: { first: 1, last: 2, rate: 24 }, cameras: [{ id: 'one', ...camera }],
    }) // prettier-ignore
    return (problems ?? []).map(({ path, message }) => `${path} ${message}`)
  }
  expect(problemsOf({ focalLength: 0 })).toEqual([expect.stringContaining('cameras[0].focalLength')])
  expect(problemsOf({ aspect: '3:2' })).toEqual([expect.stringContaining('must be one of 16:9')])
  expect(problemsOf({ follow: 'nobody' })).toEqual([expect.stringContaining('there is no mesh "nobody"')])
  expect(problemsOf({ position: [0, Number.NaN, 0] })).toHaveLength(1)
})
