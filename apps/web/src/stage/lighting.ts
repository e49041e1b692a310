/** The light of the stage: the sun with its shadows, and what comes from all sides. */
import { BACKDROPS, type StageSettings } from '@tangle/core'
import {
  Box3,
  Color,
  DirectionalLight,
  DoubleSide,
  HemisphereLight,
  Matrix4,
  Mesh,
  MeshBasicMaterial,
  PMREMGenerator,
  Scene,
  SphereGeometry,
  Vector3,
  type Texture,
  type WebGLRenderer,
} from 'three'
import type { Grade } from './pacing.ts'

const SUN = 0xfff0dd
const SKY = 0xa79fc8
const GROUND = 0x2a1f30
/** Of the sun and the sky at strength 1. */
const [SUNLIGHT, SKYLIGHT] = [2.6, 1.1]
/** Pixels of a side of the map of shadows, by grade. */
const TEXELS: Record<Grade, number> = { 0: 1, 1: 1024, 2: 2048 }
/** Texels that the edge of a shadow runs out over, at softness 1. */
const EDGE = 2
/** How far from what is looked at shadows are thrown, in distances from the camera. */
const FAR = 3
/** Radii come in steps, so that edges of shadows do not crawl while things move. */
const STEP = 1.2

/** What throws shadows, and where one looks. */
export interface Lit {
  box: Box3
  target: Vector3
  distance: number
}

/** The sphere within which shadows are thrown: around what there is, but no farther than one sees it well. */
export function shadowSphere({ box, target, distance }: Lit): { centre: Vector3; radius: number } {
  const seen = new Box3(target.clone(), target.clone()).expandByScalar(FAR * distance)
  const within = box.clone().intersect(seen)
  if (within.isEmpty()) within.copy(seen)
  const half = within.getSize(new Vector3()).length() / 2
  const radius = STEP ** Math.ceil(Math.log(Math.max(half, 1e-6)) / Math.log(STEP))
  return { centre: within.getCenter(new Vector3()), radius }
}

/** Direction towards the light; bearing clockwise from the north as seen from above, degrees. */
export function towardsLight({ bearing, height }: StageSettings['light']): Vector3 {
  const [b, h] = [(bearing * Math.PI) / 180, (height * Math.PI) / 180]
  return new Vector3(Math.sin(b) * Math.cos(h), Math.sin(h), Math.cos(b) * Math.cos(h))
}

export function createLighting(renderer: WebGLRenderer, scene: Scene) {
  const sun = new DirectionalLight(SUN, SUNLIGHT)
  const sky = new HemisphereLight(SKY, GROUND, SKYLIGHT)
  const around = createAround(renderer)
  scene.add(sun, sun.target, sky)
  renderer.shadowMap.enabled = true
  /** Texels of the map of shadows on a metre. */
  let texels = 1

  function throwShadows({ light }: StageSettings, grade: Grade, lit: Lit): void {
    const { shadow } = sun
    const size = TEXELS[grade]
    if (shadow.mapSize.x !== size) {
      shadow.mapSize.set(size, size)
      shadow.map?.dispose()
      shadow.map = null
    }
    const { centre, radius } = shadowSphere(lit)
    const towards = towardsLight(light)
    texels = size / (2 * radius)
    sun.target.position.copy(onGrid(centre, towards, 1 / texels))
    sun.position.copy(sun.target.position).addScaledVector(towards, 2 * radius)
    sun.target.updateMatrixWorld()
    Object.assign(shadow.camera, { left: -radius, right: radius, top: radius, bottom: -radius })
    Object.assign(shadow.camera, { near: 0.5 * radius, far: 4 * radius })
    shadow.camera.updateProjectionMatrix()
    shadow.radius = EDGE * light.softness * (size / TEXELS[1])
    shadow.normalBias = 1.5 / texels
    shadow.bias = -0.0004
  }

  return {
    /** Lights the scene as a shot says; in a plain picture nothing throws shadows. */
    place(stage: StageSettings, grade: Grade, lit: () => Lit, mirrors: boolean): void {
      const { light, surroundings } = stage
      sun.position.copy(towardsLight(light).multiplyScalar(20))
      sun.target.position.set(0, 0, 0)
      sun.intensity = SUNLIGHT * light.strength
      sky.intensity = SKYLIGHT * surroundings.brightness
      sun.castShadow = grade > 0 && light.strength > 0
      if (sun.castShadow) throwShadows(stage, grade, lit())
      scene.environment = mirrors || grade === 2 ? around.of(stage) : null
      scene.environmentIntensity = 0.6 * surroundings.brightness
      scene.environmentRotation.set(0, (surroundings.turn * Math.PI) / 180, 0)
      // of what mirrors the sky is in what is around
      if (scene.environment) sky.intensity *= 0.5
    },
    texels: () => texels,
    /** Of the sun on a white ground where it is lit, green part. */
    onGround: ({ light }: StageSettings): number =>
      (sun.color.g * SUNLIGHT * light.strength * Math.max(0, towardsLight(light).y)) / Math.PI,
    dispose(): void {
      around.dispose()
      sun.shadow.map?.dispose()
    },
  }
}

/** A place moved to the nearest crossing of a grid across the light. */
function onGrid(place: Vector3, towards: Vector3, step: number): Vector3 {
  const basis = new Matrix4().lookAt(towards, new Vector3(), new Vector3(0, 1, 0))
  const [x, y, z] = [new Vector3(), new Vector3(), new Vector3()]
  basis.extractBasis(x, y, z)
  const whole = (axis: Vector3): Vector3 => axis.multiplyScalar(Math.round(place.dot(axis) / step) * step)
  const depth = z.clone().multiplyScalar(place.dot(z))
  return whole(x).add(whole(y)).add(depth)
}

/** What is around, as it mirrors in what is smooth: the sky and the ground of the backdrop, the glow about the sun, and a pale light across. */
function createAround(renderer: WebGLRenderer) {
  let made: { key: string; texture: Texture; dispose(): void } | null = null
  function make({ backdrop, light }: StageSettings, key: string): void {
    const { sky, horizon, ground } = BACKDROPS[backdrop] ?? BACKDROPS.dusk!
    const room = new Scene()
    const add = (geometry: SphereGeometry, colour: string | number, bright: number, at: Vector3): void => {
      const material = new MeshBasicMaterial({ color: new Color(colour).multiplyScalar(bright), side: DoubleSide }) // prettier-ignore
      const mesh = new Mesh(geometry, material)
      mesh.position.copy(at)
      room.add(mesh)
    }
    /** A zone of the sky, from one angle from the zenith to another as shares of half a turn. */
    const zone = (colour: string, bright: number, from: number, to: number): void =>
      add(
        new SphereGeometry(50, 32, 8, 0, 2 * Math.PI, from * Math.PI, (to - from) * Math.PI),
        colour,
        bright,
        new Vector3(),
      )
    const towards = towardsLight(light)
    const across = new Vector3(-1, 0.5, 1).cross(towards).normalize()
    zone(sky, 4, 0, 0.3)
    zone(horizon, 3.2, 0.3, 0.5)
    zone(ground, 2, 0.5, 1)
    add(new SphereGeometry(4, 24, 12), SUN, 30 * light.strength, towards.multiplyScalar(40))
    add(new SphereGeometry(7, 24, 12), SKY, 2.2, across.multiplyScalar(42))
    const generator = new PMREMGenerator(renderer)
    const target = generator.fromScene(room, 0.03)
    generator.dispose()
    made?.dispose()
    made = { key, texture: target.texture, dispose: () => target.dispose() }
  }
  return {
    of(stage: StageSettings): Texture {
      const key = JSON.stringify([stage.backdrop, stage.light])
      if (made?.key !== key) make(stage, key)
      return made!.texture
    },
    dispose: (): void => made?.dispose(),
  }
}
