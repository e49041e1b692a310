/** Cameras of a shot: where they stand and look at a moment. */
import { choice, number, reference, vector } from './parameters.ts'
import { standing } from './derived.ts'
import { valueAt, vectorAt } from './keys.ts'
import type { Camera, Shot } from './types.ts'
import { arctangent, cosine, radians, sine } from '../math/functions.ts'
import { length, subtract, type Vector } from '../math/vector.ts'

/** Width of the film, millimetres: the full frame of still cameras (common practice), to which focal lengths belong. */
export const FILM_WIDTH = 36

/** Width by height of pictures, by the words for them. */
export const ASPECTS: Record<string, number> = {
  '16:9': 16 / 9,
  '4:3': 4 / 3,
  '1:1': 1,
  '9:16': 9 / 16,
  '1.85:1': 1.85,
  '2.39:1': 2.39,
}

const place = {
  unit: 'm',
  range: [-1e6, 1e6] as [number, number],
  usual: [-20, 20] as [number, number],
  step: 0.1,
}

export const CAMERA = {
  position: vector({
    label: 'Position',
    help: 'Where it stands',
    default: [4, 3, 6],
    ...place,
    keyable: true,
  }),
  target: vector({
    label: 'Looks at',
    help: 'The place that is in the middle of the picture',
    default: [0, 1, 0],
    ...place,
    keyable: true,
  }),
  focalLength: number({
    label: 'Focal length',
    unit: 'mm',
    help: 'On film 36 mm wide: less is wider',
    default: 35,
    range: [1, 5000],
    usual: [10, 200],
    step: 1,
    keyable: true,
  }),
  roll: number({
    label: 'Roll',
    unit: '°',
    help: 'About the way it looks, clockwise',
    default: 0,
    range: [-3600, 3600],
    usual: [-45, 45],
    step: 0.5,
    keyable: true,
  }),
  aperture: number({
    label: 'Aperture f/',
    unit: '',
    help: 'Of its lens, as f-number: less lets more blur before and behind what is sharp; 0: all is sharp. It shows in movies of several pictures a frame',
    default: 0,
    range: [0, 1000],
    usual: [0, 22],
    step: 0.1,
    keyable: true,
  }),
  focus: number({
    label: 'Sharp at',
    unit: 'm',
    help: 'The distance at which things are sharp; 0: that of what it looks at',
    default: 0,
    range: [0, 1e6],
    usual: [0, 20],
    step: 0.1,
    keyable: true,
  }),
  aspect: choice({
    label: 'Picture',
    help: 'Width by height',
    default: '16:9',
    options: Object.fromEntries(Object.keys(ASPECTS).map((name) => [name, name])),
  }),
  follow: reference({
    label: 'Follow',
    help: 'It and what it looks at are carried along by a mesh that moves',
    to: 'mesh',
    absent: 'nothing',
  }),
}

/** A camera at a moment. */
export interface CameraView {
  position: Vector
  target: Vector
  /** mm */
  focalLength: number
  /** Degrees. */
  roll: number
  /** Radius of its lens, metres; 0: all is sharp. */
  lens: number
  /** Metres to what is sharp. */
  focus: number
  /** Width by height. */
  aspect: number
}

/** @param frame which need not be whole */
export function cameraAt(shot: Shot, camera: Camera, frame: number): CameraView {
  const carried = carriedBy(shot, camera.follow, frame)
  const moved = (place: Vector): Vector => place.map((x, k) => x + carried[k]!) as Vector
  const [position, target] = [moved(vectorAt(camera.position, frame)), moved(vectorAt(camera.target, frame))]
  const focalLength = valueAt(camera.focalLength, frame)
  const aperture = valueAt(camera.aperture, frame)
  return {
    position,
    target,
    focalLength,
    // an f-number is the focal length by the width of the lens
    lens: aperture > 0 ? focalLength / 1000 / aperture / 2 : 0,
    focus: valueAt(camera.focus, frame) || length(subtract(target, position)),
    roll: valueAt(camera.roll, frame),
    aspect: ASPECTS[camera.aspect]!, // the schema lets no other pass
  }
}

/** How far a mesh has gone since the first frame, metres. */
function carriedBy(shot: Shot, id: string | undefined, frame: number): Vector {
  const mesh = shot.meshes.find((one) => one.id === id)
  if (!mesh) return [0, 0, 0]
  const { position } = standing(shot, mesh).place
  const from = vectorAt(position, shot.frames.first)
  return vectorAt(position, frame).map((x, k) => x - from[k]!) as Vector
}

/** The upright angle of view, degrees, of a picture in which the camera's own fits whole. `aspect` is that picture's. */
export function fieldOfViewIn(aspect: number, { focalLength, aspect: own }: CameraView): number {
  const across = FILM_WIDTH / 2 / focalLength
  return (360 / Math.PI) * arctangent(across / Math.min(own, aspect))
}

/** The focal length at which a picture has an upright angle of view, mm. Both are those of the camera's own picture. */
export function focalLengthFor(fieldOfView: number, aspect: number): number {
  const half = radians(fieldOfView / 2)
  return (FILM_WIDTH / 2 / aspect) * (cosine(half) / sine(half))
}
