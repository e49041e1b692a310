import { rampTable, trailFrames, trailsOf, type Look, type TrailFrame, type Trails } from '@tangle/core'
import { fromHalf, type PackedPopulation } from '@tangle/runtime/browser'
import {
  BufferAttribute,
  BufferGeometry,
  DataTexture,
  DoubleSide,
  FloatType,
  LinearFilter,
  Mesh,
  RGBAFormat,
  ShaderMaterial,
  Vector2,
} from 'three'

/** A line is a band that faces the camera: two vertices at each of its points, one on either side. */
const VERTEX = /* glsl */ `
  attribute vec4 place; // and how far along the trail: 0 at the particle, 1 at the end
  attribute vec4 way;   // from the point before to the one after, and the side: −1 or 1
  attribute vec4 shade; // colour by the look: value, or rgb with w = 1
  uniform vec2 size;    // of the picture, pixels
  uniform float pixels; // pixels of a metre at a metre's distance
  uniform vec2 widths;  // metres at both ends
  uniform vec2 range;
  uniform float ownRamp; // 1: a ramp along the trail
  uniform float opacityEnd;
  uniform sampler2D ramp;
  varying vec3 colour;
  varying float solid;
  vec3 onRamp(float t) { return texture2D(ramp, vec2(clamp(t, 0.0, 1.0) * 255.0 / 256.0 + 0.5 / 256.0, 0.5)).rgb; }
  void main() {
    vec4 seen = modelViewMatrix * vec4(place.xyz, 1.0);
    // the way on the screen: the change of x/z and y/z
    vec3 ahead = (modelViewMatrix * vec4(way.xyz, 0.0)).xyz;
    vec2 onScreen = ahead.xy * seen.z - seen.xy * ahead.z;
    vec2 across = length(onScreen) > 1e-12 ? normalize(vec2(-onScreen.y, onScreen.x)) : vec2(1.0, 0.0);
    float width = mix(widths.x, widths.y, place.w) * pixels / max(-seen.z, 1e-4);
    gl_Position = projectionMatrix * seen;
    gl_Position.xy += across * way.w * max(width, 1.0) / size * gl_Position.w;
    float t = range.y == range.x ? step(range.x, shade.x) : (shade.x - range.x) / (range.y - range.x);
    colour = ownRamp > 0.5 ? onRamp(place.w) : shade.w > 0.5 ? shade.rgb : onRamp(t);
    solid = mix(1.0, opacityEnd, place.w) * clamp(width, 0.35, 1.0);
  }`

const FRAGMENT = /* glsl */ `
  varying vec3 colour;
  varying float solid;
  void main() {
    gl_FragColor = vec4(colour, solid);
    #include <colorspace_fragment>
  }`

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

/** The trails of one population. */
export function drawTrails() {
  const ramp = new DataTexture(new Float32Array(256 * 4), 256, 1, RGBAFormat, FloatType)
  ramp.minFilter = ramp.magFilter = LinearFilter
  const material = new ShaderMaterial({
    vertexShader: VERTEX,
    fragmentShader: FRAGMENT,
    transparent: true,
    depthWrite: false,
    side: DoubleSide,
    uniforms: {
      size: { value: new Vector2(1, 1) },
      pixels: { value: 1 },
      widths: { value: new Vector2() },
      range: { value: new Vector2(0, 1) },
      ownRamp: { value: 0 },
      opacityEnd: { value: 0 },
      ramp: { value: ramp },
    },
  })
  let geometry = bands(1024)
  const object = new Mesh(geometry, material)
  object.frustumCulled = false
  let shown = ''
  let last: PackedPopulation | undefined
  let rampShown = ''

  function fill(look: Look, population: PackedPopulation, trails: Trails): void {
    const { points, along, counts } = trails
    if (along.length * 2 > geometry.attributes.place!.count) {
      geometry.dispose()
      geometry = bands(Math.ceil(along.length * 1.5))
      object.geometry = geometry
    }
    const [place, way, shade] = ATTRIBUTES.map((name) => {
      const attribute = geometry.attributes[name] as BufferAttribute
      attribute.needsUpdate = true
      return attribute.array as Float32Array
    }) as [Float32Array, Float32Array, Float32Array]
    const index = geometry.index!.array
    let first = 0
    let corner = 0
    trails.particles.forEach((particle, line) => {
      const colour = shadeOf(look, population, particle)
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
        corner += 6
      }
      first = last + 1
    })
    geometry.index!.needsUpdate = true
    geometry.setDrawRange(0, corner)
    object.visible = corner > 0
  }

  return {
    object,
    /** Shows the trails of a frame; `at` gives the population at frames before, where they are there. */
    show(
      look: Look,
      frame: number,
      rate: number,
      population: PackedPopulation,
      at: (frame: number) => PackedPopulation | undefined,
      view: { width: number; height: number; pixels: number },
    ): void {
      const trail = look.trail!
      const length = trailFrames(trail, rate)
      const there = Array.from({ length: length + 1 }, (_, k) => at(frame - k)).filter(Boolean).length
      const key = `${frame} ${there} ${population.count} ${length} ${trail.step} ${look.colour.from}`
      if (key !== shown || last !== population) {
        shown = key
        last = population
        const past = (time: number): TrailFrame | undefined => (time === frame ? population : at(time))
        fill(look, population, trailsOf(frame, past, length, trail.step))
      }
      const { uniforms } = material
      uniforms.size!.value.set(view.width, view.height)
      uniforms.pixels!.value = view.pixels
      uniforms.widths!.value.set(trail.width, trail.widthEnd)
      uniforms.range!.value.set(...look.colour.range)
      uniforms.ownRamp!.value = trail.colour === 'ramp' ? 1 : 0
      uniforms.opacityEnd!.value = trail.opacityEnd
      const wanted = trail.colour === 'ramp' ? trail.ramp : look.colour.ramp
      const rampKey = JSON.stringify(wanted)
      if (rampKey === rampShown) return
      rampShown = rampKey
      const table = rampTable(wanted)
      for (let i = 0; i < 256; i++)
        (ramp.image.data as Float32Array).set([...table.subarray(i * 3, i * 3 + 3), 1], i * 4)
      ramp.needsUpdate = true
    },
    dispose(): void {
      geometry.dispose()
      material.dispose()
      ramp.dispose()
    },
  }
}
/** What colours a particle: the value that its look reads, or its own colour with 1 behind it. */
function shadeOf(
  { colour }: Look,
  population: PackedPopulation,
  i: number,
): [number, number, number, number] {
  if (colour.from === 'own' && population.colours)
    return [...(population.colours.subarray(i * 3, i * 3 + 3) as unknown as [number, number, number]), 1]
  const place = colour.from === 'speed' ? 2 : colour.from === 'travelled' ? 3 : 1
  return [fromHalf(population.values[i * 4 + place]!), 0, 0, 0]
}
