/** @jest-environment jsdom */
/** Movies of several pictures a frame: their mean, their moments, and the lens. */
import { cameraAt, completeCamera, emptyShot } from '@tangle/core'
import { Vector3 } from 'three'
import { movedOn } from '../src/engine/movedOn.ts'
import { createMean } from '../src/movie/mean.ts'
import { samplesOf } from '../src/movie/samples.ts'
import { createView } from '../src/stage/view.ts'

describe('the mean of pictures', () => {
  const meanOf = (...pictures: number[][]): number[] => {
    const mean = createMean(pictures[0]!.length / 4)
    for (const picture of pictures) mean.add(picture)
    const out = new Uint8ClampedArray(pictures[0]!.length)
    mean.write(out)
    return [...out]
  }
  test('of the same is the same, for every byte', () => {
    const all = Array.from({ length: 256 }, (_, byte) => [byte, 255 - byte, byte >> 1, 255]).flat()
    expect(meanOf(all, all, all)).toEqual(all)
  })
  test('is taken in light: half of black and white is 188, not 128', () => {
    // IEC 61966-2-1: half of the light of white
    expect(meanOf([0, 0, 0, 255], [255, 255, 255, 255])).toEqual([188, 188, 188, 255])
  })
  test('what is not there in half of them is half seen-through, in its own colour', () => {
    expect(meanOf([200, 100, 50, 255], [0, 0, 0, 0])).toEqual([200, 100, 50, 128])
    expect(meanOf([0, 0, 0, 0], [9, 9, 9, 0])).toEqual([0, 0, 0, 0])
  })
  test('begins anew with each frame', () => {
    const mean = createMean(1)
    const out = new Uint8ClampedArray(4)
    for (const value of [255, 7]) {
      mean.add([value, value, value, 255])
      mean.write(out)
      expect(out[0]).toBe(value)
    }
  })
})

describe('the pictures of a frame', () => {
  test.each([8, 16, 32, 64])(
    '%d are even over the shutter and the lens, and when has nothing to do with where',
    (count) => {
      const samples = samplesOf(count, 0.5)
      const times = samples.map(({ after }) => after)
      expect(times.reduce((a, b) => a + b, 0)).toBeCloseTo(0, 9)
      expect([Math.min(...times), Math.max(...times)]).toEqual([expect.closeTo(-0.25 + 0.25 / count, 9), expect.closeTo(0.25 - 0.25 / count, 9)]) // prettier-ignore
      const lens = samples.map((one) => one.lens)
      const radii = lens.map(([x, y]) => Math.hypot(x, y))
      expect(Math.max(...radii)).toBeLessThan(1)
      // as many within half of the area as without
      expect(radii.filter((r) => r * r < 0.5).length).toBe(count / 2)
      for (const axis of [0, 1] as const) {
        const mean = lens.reduce((sum, one) => sum + one[axis], 0) / count
        expect(Math.abs(mean)).toBeLessThan(0.15)
        const together = samples.reduce((sum, one) => sum + one.after * one.lens[axis], 0) / count
        expect(Math.abs(together)).toBeLessThan(0.02)
      }
    },
  )
  test('one is the frame itself', () => expect(samplesOf(1, 0.5)).toEqual([{ after: 0, lens: [0, 0] }]))
})

describe('a part of a frame later', () => {
  const at = (frame: number, ids: number[]) => ({
    id: 'dust',
    count: ids.length,
    ids: Uint32Array.from(ids),
    // each goes its number of metres a frame, faster after frame 5
    positions: Float32Array.from(
      ids.flatMap((id) => [id * (frame <= 5 ? frame : 5 + 3 * (frame - 5)), 0, 0]),
    ),
    turns: Int16Array.from(ids.flatMap(() => [0, 0, Math.round(32767 * Math.sin(frame / 10)), Math.round(32767 * Math.cos(frame / 10))])), // prettier-ignore
  })
  const part = (frames: number) =>
    movedOn(at(5, [1, 2, 4]) as never, frames, [at(4, [1, 2])] as never, [at(6, [2, 4])] as never)
  const xs = (frames: number): number[] => [0, 1, 2].map((i) => part(frames).positions[i * 3]!)

  test('particles are on their way to the next frame, or from the one before; newborn and dying ones go on as they did', () => {
    // 1 dies after this frame, 4 was born in it
    expect(xs(0.25)).toEqual([expect.closeTo(5.25), expect.closeTo(11.5), expect.closeTo(23)])
    expect(xs(-0.25)).toEqual([expect.closeTo(4.75), expect.closeTo(9.5), expect.closeTo(17)])
  })
  test('and turn the shorter way', () => {
    const angle = (frames: number): number =>
      Math.atan2(part(frames).turns![4 + 2]!, part(frames).turns![4 + 3]!)
    expect(angle(0.5)).toBeCloseTo(0.55, 3)
    expect(angle(-0.5)).toBeCloseTo(0.45, 3)
  })
})

describe('the lens of a camera', () => {
  const camera = completeCamera({ id: 'c', position: [0, 1, 10], target: [0, 1, 0], focalLength: 50, aperture: 2, focus: 6 }) // prettier-ignore
  const seen = cameraAt({ ...emptyShot('Lens'), cameras: [camera] }, camera, 1)
  const view = () =>
    createView(
      document.createElement('canvas'),
      () => undefined,
      () => true,
    )
  const shown = (place: [number, number, number], lens: [number, number]): Vector3 => {
    const one = view()
    one.setAspect(1.5)
    one.through(seen)
    one.throughLens(seen, lens)
    return new Vector3(...place).project(one.camera)
  }
  test('is as wide as its f-number says', () => {
    expect(seen.lens).toBeCloseTo(0.05 / 2 / 2, 9)
    expect(cameraAt(emptyShot('x'), { ...camera, aperture: 0 }, 1).lens).toBe(0)
    // sharp where it looks, unless it is said otherwise
    expect(cameraAt(emptyShot('x'), { ...camera, focus: 0 }, 1).focus).toBe(10)
  })
  test.each([[[0, 1, 4]], [[1.2, 0.3, 4]], [[-2, 2, 4]]] as [[number, number, number]][])(
    'what is in focus stays where it is: %j',
    (place) => {
      const middle = shown(place, [0, 0])
      for (const lens of [
        [1, 0],
        [0, 1],
        [-0.7, -0.7],
      ] as [number, number][]) {
        // prettier-ignore
        const there = shown(place, lens)
        expect(there.x).toBeCloseTo(middle.x, 6)
        expect(there.y).toBeCloseTo(middle.y, 6)
      }
    },
  )
  test('what is not is spread over the circle of confusion of a thin lens', () => {
    // at distance d the blur of a point has the radius r·|1/f − 1/d| as the slope of what is seen (similar triangles)
    for (const d of [2, 9, 40]) {
      const place: [number, number, number] = [0, 1, 10 - d]
      const slope = seen.lens * Math.abs(1 / 6 - 1 / d)
      // the film is 36 mm wide, 50 mm behind
      expect(Math.abs(shown(place, [1, 0]).x)).toBeCloseTo((slope * 50) / 18, 6)
    }
  })
})
