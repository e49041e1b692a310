import { rampTable, trailFrames, trailsOf, type Look, type TrailFrame } from '@tangle/core'
import { fromHalf, type PackedPopulation } from '@tangle/runtime/browser'
import {
  BufferAttribute,
  DataTexture,
  FloatType,
  InstancedBufferAttribute,
  InstancedBufferGeometry,
  LinearFilter,
  Mesh,
  RGBAFormat,
  ShaderMaterial,
  Vector2,
} from 'three'

/** Each piece of a line is a flat band that faces the camera. */
const VERTEX = /* glsl */ `
  attribute vec4 from; // place, and how far along the trail: 0 at the particle, 1 at the end
  attribute vec4 to;
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
    vec4 a = modelViewMatrix * vec4(from.xyz, 1.0);
    vec4 b = modelViewMatrix * vec4(to.xyz, 1.0);
    bool far = position.x > 0.5;
    vec4 seen = far ? b : a;
    float along = far ? to.w : from.w;
    vec4 pa = projectionMatrix * a;
    vec4 pb = projectionMatrix * b;
    vec4 p = far ? pb : pa;
    vec2 way = (pb.xy / max(pb.w, 1e-4) - pa.xy / max(pa.w, 1e-4)) * size;
    vec2 side = length(way) > 1e-6 ? normalize(vec2(-way.y, way.x)) : vec2(1.0, 0.0);
    float width = mix(widths.x, widths.y, along) * pixels / max(-seen.z, 1e-4);
    gl_Position = p;
    gl_Position.xy += side * position.y * max(width, 1.0) / size * p.w;
    if (pa.w <= 0.0 || pb.w <= 0.0) gl_Position = vec4(2.0, 2.0, 2.0, 1.0);
    float t = range.y == range.x ? step(range.x, shade.x) : (shade.x - range.x) / (range.y - range.x);
    colour = ownRamp > 0.5 ? onRamp(along) : shade.w > 0.5 ? shade.rgb : onRamp(t);
    solid = mix(1.0, opacityEnd, along) * clamp(width, 0.35, 1.0);
  }`

const FRAGMENT = /* glsl */ `
  varying vec3 colour;
  varying float solid;
  void main() {
    gl_FragColor = vec4(colour, solid);
    #include <colorspace_fragment>
  }`

/** Room for so many pieces; a geometry never draws more instances than it had at first. */
function bands(room: number): InstancedBufferGeometry {
  const geometry = new InstancedBufferGeometry()
  geometry.setAttribute(
    'position',
    new BufferAttribute(new Float32Array([0, -1, 0, 1, -1, 0, 1, 1, 0, 0, 1, 0]), 3),
  )
  geometry.setIndex([0, 1, 2, 0, 2, 3])
  for (const name of ['from', 'to', 'shade'])
    geometry.setAttribute(name, new InstancedBufferAttribute(new Float32Array(room * 4), 4))
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

  function fill(look: Look, population: PackedPopulation, trails: ReturnType<typeof trailsOf>): void {
    const pieces = trails.along.length - trails.counts.length
    if (pieces > geometry.attributes.from!.count) {
      geometry.dispose()
      geometry = bands(Math.ceil(pieces * 1.5))
      object.geometry = geometry
    }
    const [from, to, shade] = ['from', 'to', 'shade'].map((name) => {
      const attribute = geometry.attributes[name] as InstancedBufferAttribute
      attribute.needsUpdate = true
      return attribute.array as Float32Array
    }) as [Float32Array, Float32Array, Float32Array]
    let [piece, point] = [0, 0]
    trails.particles.forEach((particle, line) => {
      const colour = shadeOf(look, population, particle)
      for (let k = 0; k + 1 < trails.counts[line]!; k++, piece++, point++) {
        from.set(trails.points.subarray(point * 3, point * 3 + 3), piece * 4)
        to.set(trails.points.subarray(point * 3 + 3, point * 3 + 6), piece * 4)
        from[piece * 4 + 3] = trails.along[point]!
        to[piece * 4 + 3] = trails.along[point + 1]!
        shade.set(colour, piece * 4)
      }
      point++
    })
    geometry.instanceCount = pieces
    object.visible = pieces > 0
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
