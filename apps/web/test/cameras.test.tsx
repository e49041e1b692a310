/** @jest-environment jsdom */
/** Cameras in the Look step, and looking through them. */
import './browser.ts'
import { screen } from '@testing-library/react'
import { cameraAt, completeCamera } from '@tangle/core'
import { Vector3 } from 'three'
import { CameraFrame } from '../src/stage/CameraFrame.tsx'
import { createView } from '../src/stage/view.ts'
import { Cameras } from '../src/steps/Cameras.tsx'
import { store } from '../src/store/index.ts'
import { withoutMesh } from '../src/store/pruning.ts'
import { button, expectSound, fill, show, shotOf, undo } from './page.tsx'

test('a camera is added, named, keyed, looked through, left, and taken out', async () => {
  const page = show(shotOf({}), <><Cameras /><CameraFrame /></>) // prettier-ignore
  await page.keys.click(button('+ Camera'))
  await page.keys.click(button('+ Camera'))
  expect(page.document().cameras.map(({ name }) => name)).toEqual(['Camera', 'Camera 2'])
  await fill(page, 'Focal length', '85')
  expect(page.document().cameras[1]!.focalLength).toBe(85)
  await page.keys.click(button('Set key for Roll'))
  expect(page.document().cameras[1]!.roll).toMatchObject({ keys: [[expect.any(Number), 0, 'smooth']] })
  expectSound(page.document())
  await page.keys.click(screen.getAllByRole('button', { name: 'Look through' })[1]!)
  expect(screen.getByTestId('camera-frame')).toBeTruthy()
  await page.keys.click(button('Leave Camera 2'))
  expect(screen.queryByTestId('camera-frame')).toBeNull()
  await page.keys.click(screen.getAllByRole('button', { name: 'Look through' })[1]!)
  await page.keys.click(button('Remove Camera 2'))
  expect(store.getState().session.camera).toBeNull()
  expect(page.document().cameras).toHaveLength(1)
  undo()
  expect(page.document().cameras).toHaveLength(2)
})

test('a camera whose mesh is gone stands still', () => {
  const shot = shotOf({}, { cameras: [{ id: 'one', follow: 'boat' }] })
  expect(withoutMesh(shot, 'boat').cameras[0]!.follow).toBeUndefined()
  expect(withoutMesh(shot, 'rock').cameras[0]!.follow).toBe('boat')
  expectSound(withoutMesh(shot, 'boat'))
})

describe('through a camera', () => {
  const seen = (more: object) => cameraAt(shotOf({}), completeCamera({ id: 'one', position: [0, 0, 10], target: [0, 0, 0], ...more }), 1) // prettier-ignore
  function viewAt() {
    const view = createView(document.createElement('canvas'), () => undefined, () => true) // prettier-ignore
    view.setAspect(16 / 9)
    view.setCamera({ position: [3, 2, 1], target: [0, 0, 0], fieldOfView: 40 })
    return view
  }
  const onScreen = (view: ReturnType<typeof viewAt>, x: number, y: number): [number, number] => {
    const place = new Vector3(x, y, 0).project(view.camera)
    return [place.x, place.y]
  }

  test('the edge of its film is the edge of the picture', () => {
    const view = viewAt()
    view.through(seen({ focalLength: 36 }))
    // 36 mm of film at 36 mm: 10 m away one sees 10 m across
    expect(onScreen(view, 5, 0)[0]).toBeCloseTo(1, 6)
    expect(onScreen(view, 0, (5 * 9) / 16)[1]).toBeCloseTo(1, 6)
  })

  test('rolled clockwise, what is upright leans to the left', () => {
    const view = viewAt()
    view.through(seen({ roll: 90 }))
    const [x, y] = onScreen(view, 0, 1)
    expect(x).toBeLessThan(-0.05)
    expect(y).toBeCloseTo(0, 6)
  })

  test('one’s own view is as it was when one leaves', () => {
    const view = viewAt()
    const before = view.cameraNow()
    view.through(seen({ roll: 30, focalLength: 100 }))
    view.through(seen({ roll: 40, position: [9, 9, 9] }))
    expect(view.controls.enabled).toBe(false)
    view.through(null)
    expect(view.cameraNow()).toEqual(before)
    expect(view.controls.enabled).toBe(true)
    expect(view.camera.up.toArray()).toEqual([0, 1, 0])
  })
})
