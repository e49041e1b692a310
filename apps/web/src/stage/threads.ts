import { linearColour, onRamp, rampTable, threadsOf, type Look } from '@tangle/core'
import type { PackedPopulation } from '@tangle/runtime/browser'
import {
  AdditiveBlending,
  BufferAttribute,
  BufferGeometry,
  DoubleSide,
  Mesh,
  ShaderMaterial,
  UniformsLib,
  UniformsUtils,
  Vector2,
} from 'three'
import { rampValueOf, type Shades } from './shades.ts'

/** A line is a band that faces the camera: four corners. */
const VERTEX = /* glsl */ `
  attribute vec4 place; // an end, and the side: −1 or 1
  attribute vec3 way;   // from this end's particle to the other
  attribute vec3 shade;
  uniform vec2 size;    // of the picture, pixels
  uniform float pixels; // pixels of a metre at a metre's distance
  uniform float width;  // metres
  varying vec3 colour;
  varying float solid;
  #include <fog_pars_vertex>
  void main() {
    vec4 seen = modelViewMatrix * vec4(place.xyz, 1.0);
    vec3 ahead = (modelViewMatrix * vec4(way, 0.0)).xyz;
    vec2 onScreen = ahead.xy * seen.z - seen.xy * ahead.z;
    vec2 across = length(onScreen) > 1e-12 ? normalize(vec2(-onScreen.y, onScreen.x)) : vec2(1.0, 0.0);
    float wide = width * pixels / max(-seen.z, 1e-4);
    gl_Position = projectionMatrix * seen;
    gl_Position.xy += across * place.w * max(wide, 1.0) / size * gl_Position.w;
    colour = shade;
    vec4 mvPosition = seen;
    #include <fog_vertex>
    // thinner than a pixel it is dimmer
    solid = clamp(wide, 0.2, 1.0);
  }`
const FRAGMENT = /* glsl */ `
  #include <fog_pars_fragment>
  uniform float opacity;
  varying vec3 colour;
  varying float solid;
  void main() {
    float clear = 1.0;
    #ifdef USE_FOG // light that is added fades into it
    clear = exp(-fogDensity * fogDensity * vFogDepth * vFogDepth);
    #endif
    gl_FragColor = vec4(colour * opacity * solid * clear, 1.0);
    #include <tonemapping_fragment>
    #include <colorspace_fragment>
  }`

/** A frame of a population, those that bore it, and how it is looked at. */
export interface ThreadView {
  look: Look
  population: PackedPopulation
  /** With their numbers in the shot. */
  bearers: { population: PackedPopulation; number: number }[]
  shades: Shades
  rate: number
  width: number
  height: number
  pixels: number
}

/** The threads of one population: where they lie over one another their light adds up. */
export function drawThreads() {
  const material = new ShaderMaterial({
    vertexShader: VERTEX,
    fragmentShader: FRAGMENT,
    transparent: true,
    depthWrite: false,
    blending: AdditiveBlending,
    side: DoubleSide,
    fog: true,
    uniforms: {
      ...UniformsUtils.clone(UniformsLib.fog),
      size: { value: new Vector2(1, 1) },
      pixels: { value: 1 },
      width: { value: 0 },
      opacity: { value: 1 },
    },
  })
  const object = new Mesh(new BufferGeometry(), material)
  object.frustumCulled = false
  let shown: unknown[] = []
  const { uniforms } = material

  return {
    object,
    show({ look, population, bearers, shades, rate, width, height, pixels }: ThreadView): void {
      const threads = look.threads!
      const asked = [population, shades, look.colour, threads, ...bearers.map((one) => one.population)]
      if (asked.length !== shown.length || asked.some((one, k) => one !== shown[k])) {
        shown = asked
        const { parents } = population
        const now = {
          ...population,
          parents: parents?.ids ?? null,
          parentPopulations: parents?.populations ?? null,
          frames: parents && parents.ages.map((age) => age * rate),
        }
        fill(
          object,
          threadsOf(
            now,
            bearers.map(({ population: one, number }) => ({ ...one, number })),
            threads,
          ),
          colourOf(look, population, shades),
        )
      }
      uniforms.size!.value.set(width, height)
      uniforms.pixels!.value = pixels
      uniforms.width!.value = threads.width
      uniforms.opacity!.value = threads.opacity * (1 + (look.glow?.strength ?? 0))
    },
    dispose(): void {
      object.geometry.dispose()
      material.dispose()
    },
  }
}

function fill(
  object: Mesh,
  { particles, ends }: ReturnType<typeof threadsOf>,
  colour: (i: number) => ArrayLike<number>,
): void {
  const lines = particles.length
  const [place, way, shade] = [4, 3, 3].map((width) => new Float32Array(lines * 4 * width)) as [
    Float32Array,
    Float32Array,
    Float32Array,
  ]
  const index = new Uint32Array(lines * 6)
  for (let line = 0; line < lines; line++) {
    const from = line * 6
    const own = colour(particles[line]!)
    for (let corner = 0; corner < 4; corner++) {
      const to = line * 4 + corner
      const end = corner < 2 ? 0 : 3
      for (let k = 0; k < 3; k++) {
        place[to * 4 + k] = ends[from + end + k]!
        way[to * 3 + k] = ends[from + 3 + k]! - ends[from + k]!
        shade[to * 3 + k] = own[k]!
      }
      place[to * 4 + 3] = corner % 2 === 0 ? -1 : 1
    }
    index.set(
      [0, 1, 3, 0, 3, 2].map((k) => line * 4 + k),
      line * 6,
    )
  }
  object.geometry.dispose()
  object.geometry = new BufferGeometry()
  object.geometry.setAttribute('place', new BufferAttribute(place, 4))
  object.geometry.setAttribute('way', new BufferAttribute(way, 3))
  object.geometry.setAttribute('shade', new BufferAttribute(shade, 3))
  object.geometry.setIndex(new BufferAttribute(index, 1))
  object.visible = lines > 0
}

/** Linear RGB of a particle, as its look says. */
function colourOf(
  look: Look,
  population: PackedPopulation,
  shades: Shades,
): (i: number) => ArrayLike<number> {
  const { colours } = shades
  if (colours) return (i) => colours.subarray(i * 3, i * 3 + 3)
  if (look.colour.from === 'own') return () => WHITE
  const [ramp, value] = [rampTable(look.colour.ramp), rampValueOf(population, look, shades)]
  return (i) => {
    const entry = Math.round(onRamp(value(i), look.colour.range) * 255) * 3
    return ramp.subarray(entry, entry + 3)
  }
}
const WHITE = linearColour('#ffffff')
