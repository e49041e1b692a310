import { rampTable, type Look } from '@tangle/core'
import type { PackedPopulation } from '@tangle/runtime/browser'
import type { Shades } from './shades.ts'
import {
  BufferAttribute,
  BufferGeometry,
  Color,
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
  attribute vec4 traits; // phase, opacity, and the direction a disc faces, each 0 to 1
  attribute vec3 own;    // colour of its own
  attribute float chosen; // number of its own that the look reads
  uniform float pixels;  // pixels of a metre at a metre's distance
  uniform float least;   // pixels
  uniform vec2 range;
  uniform int source;
  uniform sampler2D ramp;
  uniform vec3 phases[8];
  uniform float marked;  // place of the marked particle in the buffers, or -1
  varying vec3 colour;
  varying float fade;    // dimmer where a particle is smaller than a pixel
  varying float solid;   // opacity
  varying float chance;
  varying vec3 facing;
  void main() {
    vec4 seen = modelViewMatrix * vec4(position, 1.0);
    gl_Position = projectionMatrix * seen;
    float size = 2.0 * values.x * pixels / max(-seen.z, 1e-4);
    gl_PointSize = max(size, least);
    fade = clamp(size / least, 0.35, 1.0);
    float value = source == 0 ? values.y : source == 1 ? values.z : source == 2 ? values.w : chosen;
    float t = range.y == range.x ? step(range.x, value) : clamp((value - range.x) / (range.y - range.x), 0.0, 1.0);
    colour = source == 3 ? own : texture2D(ramp, vec2(t * 255.0 / 256.0 + 0.5 / 256.0, 0.5)).rgb;
    if (source == 5) colour = phases[int(mod(traits.x * 255.0 + 0.5, 8.0))];
    solid = traits.y;
    chance = fract(float(gl_VertexID) * 0.61803399);
    vec2 f = traits.zw * 2.0 - 1.0;
    vec3 n = vec3(f, 1.0 - abs(f.x) - abs(f.y));
    if (n.z < 0.0) n.xy = (1.0 - abs(n.yx)) * vec2(n.x < 0.0 ? -1.0 : 1.0, n.y < 0.0 ? -1.0 : 1.0);
    facing = normalize(normalMatrix * n);
    if (abs(float(gl_VertexID) - marked) < 0.5) {
      gl_PointSize = max(gl_PointSize * 1.5, 12.0);
      colour = vec3(1.0, 0.55, 0.05);
      fade = solid = 1.0;
    }
  }`

const FRAGMENT = /* glsl */ `
  uniform int shape; // 0 points, 1 spheres, 2 discs
  uniform vec3 light; // towards it, as seen by the camera
  uniform float strength;
  varying vec3 colour;
  varying float fade;
  varying float solid;
  varying float chance;
  varying vec3 facing;
  // an even scatter of thresholds: what is half seen-through covers half of the pixels
  float threshold(vec2 at) { return fract(52.9829189 * fract(dot(at, vec2(0.06711056, 0.00583715)))); }
  void main() {
    vec2 p = gl_PointCoord * 2.0 - 1.0;
    p.y = -p.y;
    float r = dot(p, p);
    if (r > 1.0 || solid <= fract(threshold(gl_FragCoord.xy) + chance) * 0.999) discard;
    vec3 normal = vec3(p, sqrt(1.0 - r));
    float lit = 0.55 + 0.45 * strength;
    if (shape == 1) lit = 0.22 + strength * (0.85 * max(dot(normal, light), 0.0) + 0.15);
    if (shape == 2) {
      float depth = dot(facing.xy, p) / max(abs(facing.z), 0.08);
      if (r + depth * depth > 1.0) discard;
      lit = 0.3 + strength * 0.9 * abs(dot(facing, light));
    }
    gl_FragColor = vec4(colour * lit * fade, 1.0);
    #include <colorspace_fragment>
  }`

/** `phase` is not a look: it is how the Motion step tells phases apart. */
const SOURCES = ['age', 'speed', 'travelled', 'own', 'attribute', 'phase']
const SHAPES = ['points', 'spheres', 'discs']

/** The particles of one population as points, or as balls drawn on points. */
export interface DrawnPopulation {
  object: Points
  show(population: PackedPopulation | undefined, shades: Shades): void
  setLook(look: Look, light: Vector3, strength: number, byPhase: string[] | null): void
  /** Marks a particle by its id; null marks none. */
  mark(id: number | null): void
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
      shape: { value: 0 },
      phases: { value: Array.from({ length: 8 }, () => new Color(1, 1, 1)) },
      marked: { value: -1 },
      light: { value: new Vector3(0, 1, 0) },
      strength: { value: 1 },
    },
  })
  const { uniforms } = material
  const object = new Points(geometry, material)
  object.frustumCulled = false
  let capacity = 0
  let shown: PackedPopulation | undefined
  let shaded: Shades = { colours: null, values: null }
  let rampShown = ''
  let markedId: number | null = null

  function reserve(count: number): void {
    if (count <= capacity) return
    capacity = Math.ceil(count * 1.4)
    geometry.setAttribute('position', new BufferAttribute(new Float32Array(capacity * 3), 3))
    geometry.setAttribute('values', new Float16BufferAttribute(new Uint16Array(capacity * 4), 4))
    geometry.setAttribute('traits', new BufferAttribute(new Uint8Array(capacity * 4), 4, true))
  }

  /** Room for what only some looks read; without it none is kept. */
  function reserveOnly(name: string, width: number): void {
    if (width === 0) geometry.deleteAttribute(name)
    else if (geometry.getAttribute(name)?.count !== capacity)
      geometry.setAttribute(name, new BufferAttribute(new Float32Array(capacity * width), width))
  }

  function placeMark(): void {
    uniforms.marked!.value = markedId === null ? -1 : (shown?.ids.indexOf(markedId) ?? -1)
  }

  return {
    object,
    show(population, shades) {
      const count = population?.count ?? 0
      geometry.setDrawRange(0, count)
      object.visible = count > 0
      if (!population || (population === shown && shades === shaded)) return
      shown = population
      shaded = shades
      reserve(Math.max(1, count))
      const { colours, values } = shades
      reserveOnly('own', colours ? 3 : 0)
      reserveOnly('chosen', values ? 1 : 0)
      placeMark()
      for (const [name, source, width] of [
        ['position', population.positions, 3],
        ['values', population.values, 4],
        ['traits', population.traits, 4],
        ...(colours ? [['own', colours, 3] as const] : []),
        ...(values ? [['chosen', values, 1] as const] : []),
      ] as const) {
        const attribute = geometry.getAttribute(name) as BufferAttribute
        attribute.array.set(source)
        attribute.clearUpdateRanges()
        attribute.addUpdateRange(0, count * width)
        attribute.needsUpdate = true
      }
    },
    setLook(look, light, strength, byPhase) {
      const key = JSON.stringify(look.colour.ramp)
      if (key !== rampShown) {
        rampShown = key
        const table = rampTable(look.colour.ramp)
        for (let i = 0; i < 256; i++)
          (ramp.image.data as Float32Array).set([...table.subarray(i * 3, i * 3 + 3), 1], i * 4)
        ramp.needsUpdate = true
      }
      uniforms.range!.value.set(...look.colour.range)
      const { from } = look.colour
      const byShades = shaded.colours ? 'own' : shaded.values ? 'attribute' : null
      const read = from === 'own' || from === 'attribute' ? (byShades ?? 'age') : from
      uniforms.source!.value = SOURCES.indexOf(byPhase ? 'phase' : read)
      byPhase?.forEach((colour, i) => (uniforms.phases!.value as Color[])[i]?.set(colour))
      // instances that can't be drawn are drawn as spheres
      uniforms.shape!.value = SHAPES.indexOf(look.draw === 'instances' ? 'spheres' : look.draw)
      uniforms.light!.value.copy(light)
      uniforms.strength!.value = strength
    },
    mark(id) {
      markedId = id
      placeMark()
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
