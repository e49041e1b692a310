import { rampTable, type Look } from '@tangle/core'
import type { PackedPopulation } from '@tangle/runtime/browser'
import {
  BufferAttribute,
  BufferGeometry,
  DataTexture,
  Float16BufferAttribute,
  FloatType,
  LinearFilter,
  Points,
  RGBAFormat,
  ShaderMaterial,
  Vector2,
  Vector3,
} from 'three'

const VERTEX = /* glsl */ `
  attribute vec4 values; // radius (m), age (share of life), speed (m/s), travelled (m)
  uniform float pixels;  // pixels of a metre at a metre's distance
  uniform float least;   // pixels
  uniform vec2 range;
  uniform int source;
  uniform sampler2D ramp;
  varying vec3 colour;
  varying float fade;
  void main() {
    vec4 seen = modelViewMatrix * vec4(position, 1.0);
    gl_Position = projectionMatrix * seen;
    float size = 2.0 * values.x * pixels / max(-seen.z, 1e-4);
    gl_PointSize = max(size, least);
    fade = clamp(size / least, 0.35, 1.0);
    float value = source == 0 ? values.y : source == 1 ? values.z : values.w;
    float t = range.y == range.x ? step(range.x, value) : clamp((value - range.x) / (range.y - range.x), 0.0, 1.0);
    colour = texture2D(ramp, vec2(t * 255.0 / 256.0 + 0.5 / 256.0, 0.5)).rgb;
  }`

const FRAGMENT = /* glsl */ `
  uniform bool round;
  uniform vec3 light; // towards it, as seen by the camera
  uniform float strength;
  varying vec3 colour;
  varying float fade;
  void main() {
    vec2 p = gl_PointCoord * 2.0 - 1.0;
    p.y = -p.y;
    float r = dot(p, p);
    if (r > 1.0) discard;
    vec3 normal = vec3(p, sqrt(1.0 - r));
    float lit = round
      ? 0.22 + strength * (0.85 * max(dot(normal, light), 0.0) + 0.15)
      : 0.55 + 0.45 * strength;
    gl_FragColor = vec4(colour * lit * fade, 1.0);
    #include <colorspace_fragment>
  }`

const SOURCES = ['age', 'speed', 'travelled']

/** The particles of one population as points, or as balls drawn on points. */
export interface DrawnPopulation {
  object: Points
  show(population: PackedPopulation | undefined): void
  setLook(look: Look, light: Vector3, strength: number): void
  setView(pixels: number): void
  dispose(): void
}

export function drawPopulation(): DrawnPopulation {
  const geometry = new BufferGeometry()
  const ramp = new DataTexture(new Float32Array(256 * 4), 256, 1, RGBAFormat, FloatType)
  ramp.minFilter = ramp.magFilter = LinearFilter
  const material = new ShaderMaterial({
    vertexShader: VERTEX,
    fragmentShader: FRAGMENT,
    uniforms: {
      pixels: { value: 1 },
      least: { value: 1.6 },
      range: { value: new Vector2(0, 1) },
      source: { value: 0 },
      ramp: { value: ramp },
      round: { value: false },
      light: { value: new Vector3(0, 1, 0) },
      strength: { value: 1 },
    },
  })
  const { uniforms } = material
  const object = new Points(geometry, material)
  object.frustumCulled = false
  let capacity = 0
  let shownPositions: Float32Array | undefined

  function reserve(count: number): void {
    if (count <= capacity) return
    capacity = Math.ceil(count * 1.4)
    geometry.setAttribute('position', new BufferAttribute(new Float32Array(capacity * 3), 3))
    geometry.setAttribute('values', new Float16BufferAttribute(new Uint16Array(capacity * 4), 4))
  }

  return {
    object,
    show(population) {
      const count = population?.count ?? 0
      geometry.setDrawRange(0, count)
      object.visible = count > 0
      if (!population || population.positions === shownPositions) return
      shownPositions = population.positions
      reserve(Math.max(1, count))
      for (const [name, source, width] of [
        ['position', population.positions, 3],
        ['values', population.values, 4],
      ] as const) {
        const attribute = geometry.getAttribute(name) as BufferAttribute
        attribute.array.set(source)
        attribute.clearUpdateRanges()
        attribute.addUpdateRange(0, count * width)
        attribute.needsUpdate = true
      }
    },
    setLook(look, light, strength) {
      const table = rampTable(look.colour.ramp)
      for (let i = 0; i < 256; i++)
        (ramp.image.data as Float32Array).set([...table.subarray(i * 3, i * 3 + 3), 1], i * 4)
      ramp.needsUpdate = true
      uniforms.range!.value.set(...look.colour.range)
      uniforms.source!.value = SOURCES.indexOf(look.colour.from)
      uniforms.round!.value = look.draw === 'spheres'
      uniforms.light!.value.copy(light)
      uniforms.strength!.value = strength
    },
    setView(pixels) {
      uniforms.pixels!.value = pixels
    },
    dispose() {
      geometry.dispose()
      material.dispose()
      ramp.dispose()
    },
  }
}
