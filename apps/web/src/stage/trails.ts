import { trailFrames, trailsOf, type Look, type TrailFrame, type Trails } from '@tangle/core'
import type { PackedPopulation } from '@tangle/runtime/browser'
import {
  BufferAttribute,
  BufferGeometry,
  DoubleSide,
  Mesh,
  ShaderMaterial,
  UniformsLib,
  UniformsUtils,
  Vector2,
  type Texture,
} from 'three'
import type { CloudLight } from './particles.ts'
import { createRampTexture } from './rampTexture.ts'
import { rampValueOf, type Shades } from './shades.ts'
import { FRAGMENT, VERTEX } from './trailShaders.ts'

/** Two triangles from the vertices of a point to those of the next. */
const PIECE = [0, 1, 3, 0, 3, 2]
const ATTRIBUTES = ['place', 'way', 'shade']
/** Room for the bands of so many points. */
function bands(room: number): BufferGeometry {
  const geometry = new BufferGeometry()
  for (const name of ATTRIBUTES)
    geometry.setAttribute(name, new BufferAttribute(new Float32Array(room * 8), 4))
  geometry.setIndex(new BufferAttribute(new Uint32Array(room * 6), 1))
  return geometry
}

function bandMaterial(ramp: Texture): ShaderMaterial {
  return new ShaderMaterial({
    vertexShader: VERTEX,
    fragmentShader: FRAGMENT,
    transparent: true,
    lights: true,
    fog: true,
    depthWrite: false,
    side: DoubleSide,
    uniforms: {
      ...UniformsUtils.clone(UniformsLib.lights),
      ...UniformsUtils.clone(UniformsLib.fog),
      around: { value: 1 },
      strength: { value: 1 },
      size: { value: new Vector2(1, 1) },
      pixels: { value: 1 },
      widths: { value: new Vector2() },
      range: { value: new Vector2(0, 1) },
      ownRamp: { value: 0 },
      opacityEnd: { value: 0 },
      ramp: { value: ramp },
    },
  })
}

/** A frame of a population, and how it is looked at. */
export interface TrailView {
  look: Look
  population: PackedPopulation
  shades: Shades
  frame: number
  rate: number
  /** The population at frames before, where they are there. */
  at: (frame: number) => PackedPopulation | undefined
  width: number
  height: number
  pixels: number
  light: CloudLight
}

/** The trails of one population. */
export function drawTrails() {
  const ramp = createRampTexture()
  const material = bandMaterial(ramp.texture)
  const { uniforms } = material
  const object = new Mesh(bands(1024), material)
  object.frustumCulled = false
  let shown: unknown[] = []

  return {
    object,
    show({ look, population, shades, frame, rate, at, width, height, pixels, light }: TrailView): void {
      const trail = look.trail!
      const length = trailFrames(trail, rate)
      const there = Array.from({ length: length + 1 }, (_, k) => at(frame - k)).filter(Boolean).length
      const asked = [population, shades, frame, there, length, trail.step, look.colour.from]
      if (asked.some((one, k) => one !== shown[k])) {
        shown = asked
        const past = (time: number): TrailFrame | undefined => (time === frame ? population : at(time))
        fillBands(object, trailsOf(frame, past, length, trail.step), shadeOf(look, population, shades))
      }
      object.receiveShadow = light.texels > 0
      uniforms.around!.value = light.around
      uniforms.strength!.value = light.strength
      uniforms.size!.value.set(width, height)
      uniforms.pixels!.value = pixels
      uniforms.widths!.value.set(trail.width, trail.widthEnd)
      uniforms.range!.value.set(...look.colour.range)
      uniforms.ownRamp!.value = trail.colour === 'ramp' ? 1 : 0
      uniforms.opacityEnd!.value = trail.opacityEnd
      ramp.show(trail.colour === 'ramp' ? trail.ramp : look.colour.ramp)
    },
    dispose(): void {
      object.geometry.dispose()
      material.dispose()
      ramp.dispose()
    },
  }
}

type Shade = [number, number, number, number]

/** Lays a band along every trail; grows the geometry where there are more points than it has room for. */
function fillBands(
  object: Mesh,
  { particles, points, along, counts }: Trails,
  shadeOf: (i: number) => Shade,
): void {
  if (along.length * 2 > object.geometry.attributes.place!.count) {
    object.geometry.dispose()
    object.geometry = bands(Math.ceil(along.length * 1.5))
  }
  const { geometry } = object
  const [place, way, shade] = ATTRIBUTES.map((name) => {
    const attribute = geometry.attributes[name] as BufferAttribute
    attribute.needsUpdate = true
    return attribute.array as Float32Array
  }) as [Float32Array, Float32Array, Float32Array]
  const index = geometry.index!.array
  let first = 0
  let corner = 0
  particles.forEach((particle, line) => {
    const colour = shadeOf(particle)
    const last = first + counts[line]! - 1
    for (let point = first; point <= last; point++) {
      const before = Math.max(first, point - 1) * 3
      const after = Math.min(last, point + 1) * 3
      for (let side = 0; side < 2; side++) {
        const to = (point * 2 + side) * 4
        for (let k = 0; k < 3; k++) {
          place[to + k] = points[point * 3 + k]!
          way[to + k] = points[after + k]! - points[before + k]!
        }
        place[to + 3] = along[point]!
        way[to + 3] = side * 2 - 1
        shade.set(colour, to)
      }
      if (point === last) continue
      const v = point * 2
      for (const [k, step] of PIECE.entries()) index[corner + k] = v + step
      corner += PIECE.length
    }
    first = last + 1
  })
  geometry.index!.needsUpdate = true
  geometry.setDrawRange(0, corner)
  object.visible = corner > 0
}

/** What colours a particle: the value that its look reads, or a colour of its own with 1 behind it. */
function shadeOf(look: Look, population: PackedPopulation, shades: Shades): (i: number) => Shade {
  const { colours } = shades
  if (colours) return (i) => [colours[i * 3]!, colours[i * 3 + 1]!, colours[i * 3 + 2]!, 1]
  const value = rampValueOf(population, look, shades)
  return (i) => [value(i), 0, 0, 0]
}
