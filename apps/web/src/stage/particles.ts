import { isTold, type Look } from '@tangle/core'
import type { PackedPopulation } from '@tangle/runtime/browser'
import {
  BufferAttribute,
  BufferGeometry,
  Color,
  CustomBlending,
  Float16BufferAttribute,
  NormalBlending,
  OneFactor,
  Points,
  ShaderMaterial,
  UniformsLib,
  UniformsUtils,
  Vector2,
  Vector3,
  type Texture,
} from 'three'
import { FRAGMENT, SHADOW_FRAGMENT, SHADOW_VERTEX, VERTEX } from './particleShaders.ts'
import { createRampTexture } from './rampTexture.ts'
import type { Shades } from './shades.ts'

/** `phase` is not a look: it is how the Motion step tells phases apart. */
const SOURCES = ['age', 'speed', 'travelled', 'own', 'attribute', 'phase']
const SHAPES = ['points', 'spheres', 'discs']

/** How particles are lit. */
export interface CloudLight {
  /** Towards the sun: in the world, and as seen by the camera. */
  towards: Vector3
  seen: Vector3
  strength: number
  /** From all sides. */
  around: number
  /** Texels of the map of shadows on a metre, and how much particles keep of the light; 0 texels: there are no shadows. */
  texels: number
  shade: number
}

/** The particles of one population as points, or as balls drawn on points. */
export interface DrawnPopulation {
  object: Points
  show(population: PackedPopulation | undefined, shades: Shades): void
  setLook(look: Look, light: CloudLight, byPhase: string[] | null): void
  /** Marks a particle by its id; null marks none. */
  mark(id: number | null): void
  /** How large a metre is drawn, and which part of the particles: see CloudView. */
  setView(pixels: number, part: number, middle: number): void
  dispose(): void
}

function pointsMaterial(ramp: Texture): ShaderMaterial {
  return new ShaderMaterial({
    vertexShader: VERTEX,
    fragmentShader: FRAGMENT,
    lights: true,
    fog: true,
    uniforms: {
      ...UniformsUtils.clone(UniformsLib.lights),
      ...UniformsUtils.clone(UniformsLib.fog),
      towards: { value: new Vector3(0, 1, 0) },
      around: { value: 1 },
      pixels: { value: 1 },
      part: { value: 1 },
      middle: { value: 1 },
      least: { value: 1.6 },
      range: { value: new Vector2(0, 1) },
      source: { value: 0 },
      ramp: { value: ramp },
      shape: { value: 0 },
      phases: { value: Array.from({ length: 8 }, () => new Color(1, 1, 1)) },
      marked: { value: -1 },
      light: { value: new Vector3(0, 1, 0) },
      strength: { value: 1 },
      glow: { value: 0 },
      halo: { value: 1 },
      glowBy: { value: 0 },
      full: { value: 1 },
    },
  })
}

const shadowMaterial = (): ShaderMaterial =>
  new ShaderMaterial({
    vertexShader: SHADOW_VERTEX,
    fragmentShader: SHADOW_FRAGMENT,
    uniforms: { texels: { value: 1 }, shade: { value: 1 } },
  })

/** With shadows balls are as deep as they are round; without, pictures cost what they did. */
function setLight(object: Points<BufferGeometry, ShaderMaterial>, look: Look, light: CloudLight): void {
  const { material, customDepthMaterial: thrown } = object
  material.uniforms.light!.value.copy(light.seen)
  material.uniforms.towards!.value.copy(light.towards)
  material.uniforms.strength!.value = light.strength
  material.uniforms.around!.value = light.around
  const shadows = light.texels > 0
  const isLight = look.glow !== null && look.draw === 'points'
  object.receiveShadow = shadows
  object.castShadow = shadows && light.shade > 0 && !isLight
  const { uniforms } = thrown as ShaderMaterial
  uniforms.texels!.value = light.texels
  uniforms.shade!.value = light.shade
  const round = shadows && look.draw !== 'points' && look.draw !== 'discs'
  if (round === 'ROUND' in material.defines) return
  if (round) material.defines.ROUND = ''
  else delete material.defines.ROUND
  material.needsUpdate = true
}

const GLOWS_BY = ['even', 'life', 'speed', 'value', 'attribute']
/** Points that are lights add up and hide nothing; balls and discs shine, and stay solid. */
function setGlow(material: ShaderMaterial, glow: Look['glow'], points: boolean, lit: boolean): void {
  const { uniforms } = material
  uniforms.glow!.value = glow?.strength ?? 0
  uniforms.halo!.value = points ? (glow?.halo ?? 1) : 1
  // by an attribute that nobody has all are alike
  const by = glow?.by === 'attribute' && !lit ? 'even' : (glow?.by ?? 'even')
  uniforms.glowBy!.value = GLOWS_BY.indexOf(by)
  uniforms.full!.value = (by === 'attribute' ? glow?.full : glow?.speed) ?? 1
  const adds = (glow?.strength ?? 0) > 0 && points
  if (material.transparent === adds) return
  Object.assign(material, {
    transparent: adds,
    depthWrite: !adds,
    blending: adds ? CustomBlending : NormalBlending,
    blendSrc: OneFactor,
    blendDst: OneFactor,
  })
  material.needsUpdate = true
}

export function drawPopulation(): DrawnPopulation {
  const points = createPointBuffers()
  const ramp = createRampTexture()
  const material = pointsMaterial(ramp.texture)
  const { uniforms } = material
  const object = new Points(points.geometry, material)
  object.customDepthMaterial = shadowMaterial()
  object.frustumCulled = false
  let shown: PackedPopulation | undefined
  let shaded: Shades = { colours: null, values: null, brights: null }
  let markedId: number | null = null

  function placeMark(): void {
    uniforms.marked!.value = markedId === null ? -1 : (shown?.ids.indexOf(markedId) ?? -1)
  }

  return {
    object,
    show(population, shades) {
      const count = population?.count ?? 0
      points.geometry.setDrawRange(0, count)
      object.visible = count > 0
      if (!population || (population === shown && shades === shaded)) return
      shown = population
      shaded = shades
      points.fill(population, shades)
      placeMark()
    },
    setLook(look, light, byPhase) {
      ramp.show(look.colour.ramp)
      uniforms.range!.value.set(...look.colour.range)
      const { from } = look.colour
      const byShades = shaded.colours ? 'own' : shaded.values ? 'attribute' : null
      const read = from === 'own' || from === 'attribute' || isTold(from) ? (byShades ?? 'age') : from
      uniforms.source!.value = SOURCES.indexOf(byPhase ? 'phase' : read)
      byPhase?.forEach((colour, i) => (uniforms.phases!.value as Color[])[i]?.set(colour))
      // instances that can't be drawn are drawn as spheres
      uniforms.shape!.value = SHAPES.indexOf(
        look.draw === 'instances' || look.draw === 'pieces' ? 'spheres' : look.draw,
      )
      setLight(object, look, light)
      setGlow(material, byPhase ? null : look.glow, look.draw === 'points', shaded.brights !== null) // prettier-ignore
    },
    mark(id) {
      markedId = id
      placeMark()
    },
    setView(pixels, part, middle) {
      uniforms.pixels!.value = pixels
      uniforms.part!.value = part
      uniforms.middle!.value = middle
    },
    dispose() {
      points.geometry.dispose()
      material.dispose()
      object.customDepthMaterial?.dispose()
      ramp.dispose()
    },
  }
}

/** Buffers for the particles of a frame; they grow and are filled again. */
function createPointBuffers() {
  const geometry = new BufferGeometry()
  let capacity = 0

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
  function write(name: string, source: ArrayLike<number> | null, length: number): void {
    if (!source) return
    const attribute = geometry.getAttribute(name) as BufferAttribute
    attribute.array.set(source)
    attribute.clearUpdateRanges()
    attribute.addUpdateRange(0, length)
    attribute.needsUpdate = true
  }

  return {
    geometry,
    fill({ count, positions, values, traits }: PackedPopulation, shades: Shades): void {
      reserve(Math.max(1, count))
      reserveOnly('own', shades.colours ? 3 : 0)
      reserveOnly('chosen', shades.values ? 1 : 0)
      reserveOnly('lit', shades.brights ? 1 : 0)
      write('position', positions, count * 3)
      write('values', values, count * 4)
      write('traits', traits, count * 4)
      write('own', shades.colours, count * 3)
      write('chosen', shades.values, count)
      write('lit', shades.brights, count)
    },
  }
}
