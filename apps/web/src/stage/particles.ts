import { isTold, type Look } from '@tangle/core'
import type { PackedPopulation } from '@tangle/runtime/browser'
import {
  BufferAttribute,
  BufferGeometry,
  Color,
  CustomBlending,
  DoubleSide,
  Mesh,
  NormalBlending,
  OneFactor,
  Points,
  ShaderMaterial,
  UniformsLib,
  UniformsUtils,
  Vector2,
  Vector3,
  type IUniform,
  type Object3D,
  type Texture,
} from 'three'
import { FRAGMENT, SHADOW_FRAGMENT, SHADOW_VERTEX, VERTEX } from './particleShaders.ts'
import { farFirst } from './order.ts'
import { createRampTexture } from './rampTexture.ts'
import type { CloudView } from './clouds.ts'
import type { Shades } from './shades.ts'

/** `phase` is not a look: it is how the Motion step tells phases apart. */
const SOURCES = ['age', 'speed', 'travelled', 'own', 'attribute', 'phase']
const SHAPES: Record<Look['draw'], number> = { points: 0, streaks: 0, spheres: 1, discs: 2, soft: 3, instances: 1, pieces: 1 } // prettier-ignore
/** Soft points fade to nothing at so many radii. */
const SOFT = 2
/** What are no bodies: with a glow they are lights, and hide nothing. */
const isLight = ({ draw }: Look): boolean => draw === 'points' || draw === 'soft' || draw === 'streaks'

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

type Cloud = Points<BufferGeometry, ShaderMaterial> | Mesh<BufferGeometry, ShaderMaterial>

/** The particles of one population as points, as balls drawn on points, or as streaks. */
export interface DrawnPopulation {
  object: Object3D
  /** @param steps of streaks: how far each came in a frame */
  show(population: PackedPopulation | undefined, shades: Shades, steps?: Float32Array): void
  setLook(look: Look, light: CloudLight, byPhase: string[] | null): void
  /** Marks a particle by its id; null marks none. */
  mark(id: number | null): void
  setView(view: CloudView): void
  dispose(): void
}

function cloudMaterial(ramp: Texture, defines: object): ShaderMaterial {
  return new ShaderMaterial({
    defines: { ...defines },
    side: DoubleSide,
    vertexShader: VERTEX,
    fragmentShader: FRAGMENT,
    lights: true,
    fog: true,
    uniforms: {
      ...UniformsUtils.clone(UniformsLib.lights),
      ...UniformsUtils.clone(UniformsLib.fog),
      towards: { value: new Vector3(0, 1, 0) },
      around: { value: 1 },
      size: { value: new Vector2(1, 1) },
      shutter: { value: 0.5 },
      spread: { value: 1 },
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

const shadowMaterial = (shutter: IUniform<number>, defines: object): ShaderMaterial =>
  new ShaderMaterial({
    defines: { ...defines },
    side: DoubleSide,
    vertexShader: SHADOW_VERTEX,
    fragmentShader: SHADOW_FRAGMENT,
    uniforms: { texels: { value: 1 }, shade: { value: 1 }, shutter },
  })

/** With shadows balls are as deep as they are round; without, pictures cost what they did. */
function setLight(object: Cloud, look: Look, light: CloudLight): void {
  const { material, customDepthMaterial: thrown } = object
  material.uniforms.light!.value.copy(light.seen)
  material.uniforms.towards!.value.copy(light.towards)
  material.uniforms.strength!.value = light.strength
  material.uniforms.around!.value = light.around
  const shadows = light.texels > 0
  object.receiveShadow = shadows
  object.castShadow = shadows && light.shade > 0 && !(look.glow && isLight(look))
  const { uniforms } = thrown as ShaderMaterial
  uniforms.texels!.value = light.texels
  uniforms.shade!.value = light.shade
  const round = shadows && SHAPES[look.draw] === 1
  if (round === 'ROUND' in material.defines) return
  if (round) material.defines.ROUND = ''
  else delete material.defines.ROUND
  material.needsUpdate = true
}

const GLOWS_BY = ['even', 'life', 'speed', 'value', 'attribute']
/** How particles lie over one another: they hide what is behind, soften it, or add their light to it. */
type Cover = 'hide' | 'soften' | 'add'
const COVERS: Record<Cover, Partial<ShaderMaterial>> = {
  hide: { transparent: false, depthWrite: true, blending: NormalBlending },
  soften: { transparent: true, depthWrite: false, blending: NormalBlending },
  add: { transparent: true, depthWrite: false, blending: CustomBlending, blendSrc: OneFactor, blendDst: OneFactor }, // prettier-ignore
}
/** Points that are lights add up; balls and discs shine, and stay solid. */
const coverOf = (look: Look, glow: Look['glow']): Cover =>
  isLight(look) && (glow?.strength ?? 0) > 0 ? 'add' : look.draw === 'soft' ? 'soften' : 'hide'

function setCover(material: ShaderMaterial, cover: Cover): void {
  if (material.userData.cover === cover) return
  material.userData.cover = cover
  Object.assign(material, COVERS[cover])
  material.needsUpdate = true
}

function setGlow({ uniforms }: ShaderMaterial, glow: Look['glow'], points: boolean, lit: boolean): void {
  uniforms.glow!.value = glow?.strength ?? 0
  uniforms.halo!.value = points ? (glow?.halo ?? 1) : 1
  // by an attribute that nobody has all are alike
  const by = glow?.by === 'attribute' && !lit ? 'even' : (glow?.by ?? 'even')
  uniforms.glowBy!.value = GLOWS_BY.indexOf(by)
  uniforms.full!.value = (by === 'attribute' ? glow?.full : glow?.speed) ?? 1
}

/** @param streaks bands along their way, instead of points */
export function drawPopulation(streaks = false): DrawnPopulation {
  const buffers = createBuffers(streaks)
  const ramp = createRampTexture()
  const defines = streaks ? { STREAKS: '' } : {}
  const material = cloudMaterial(ramp.texture, defines)
  const { uniforms } = material
  const shutter = uniforms.shutter as IUniform<number>
  const object: Cloud = streaks ? new Mesh(buffers.geometry, material) : new Points(buffers.geometry, material) // prettier-ignore
  object.customDepthMaterial = shadowMaterial(shutter, defines)
  object.frustumCulled = false
  let shown: PackedPopulation | undefined
  let shaded: Shades = { colours: null, values: null, brights: null }
  let stepped: Float32Array | undefined
  let markedId: number | null = null

  function placeMark(): void {
    uniforms.marked!.value = markedId === null ? -1 : (shown?.ids.indexOf(markedId) ?? -1)
  }

  return {
    object,
    show(population, shades, steps) {
      const count = population?.count ?? 0
      buffers.draw(count)
      object.visible = count > 0
      if (steps !== stepped) buffers.move((stepped = steps), count)
      if (!population || (population === shown && shades === shaded)) return
      shown = population
      shaded = shades
      buffers.fill(population, shades)
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
      uniforms.shape!.value = SHAPES[look.draw]
      uniforms.spread!.value = look.draw === 'soft' ? SOFT : 1
      shutter.value = look.shutter
      setLight(object, look, light)
      const glow = byPhase ? null : look.glow
      setGlow(material, glow, isLight(look), shaded.brights !== null)
      setCover(material, coverOf(look, glow))
    },
    mark(id) {
      markedId = id
      placeMark()
    },
    setView({ width, height, pixels, part, middle, ahead }) {
      // what is softened needs the farther ones first
      buffers.order(material.userData.cover === 'soften' ? (shown ?? null) : null, ahead)
      uniforms.size!.value.set(width, height)
      uniforms.pixels!.value = pixels
      uniforms.part!.value = part
      uniforms.middle!.value = middle
    },
    dispose() {
      buffers.geometry.dispose()
      material.dispose()
      object.customDepthMaterial?.dispose()
      ramp.dispose()
    },
  }
}

/** Corners of a streak: its side, and its end. */
const CORNERS = [-1, 0, 1, 0, 1, 1, -1, 1]
const TRIANGLES = [0, 1, 2, 0, 2, 3]

/**
 * Buffers for the particles of a frame; they grow and are filled again. Of streaks each of four corners has what its particle has: drawn
 * by the processor, instances cost ten times as much.
 */
function createBuffers(streaks: boolean) {
  const geometry = new BufferGeometry()
  const copies = streaks ? 4 : 1
  const place = streaks ? 'place' : 'position'
  let capacity = 0
  let ordered: { population: PackedPopulation | null; ahead: Vector3 } = { population: null, ahead: new Vector3() } // prettier-ignore

  function reserve(count: number): void {
    if (count <= capacity) return
    capacity = Math.ceil(count * 1.4)
    const room = capacity * copies
    const values = new BufferAttribute(new Uint16Array(room * 4), 4)
    geometry.setAttribute(place, new BufferAttribute(new Float32Array(room * 3), 3))
    geometry.setAttribute('values', Object.assign(values, { isFloat16BufferAttribute: true }))
    geometry.setAttribute('traits', new BufferAttribute(new Uint8Array(room * 4), 4, true))
    geometry.setAttribute('chances', new BufferAttribute(new Uint16Array(room * 2), 2, true))
    if (!streaks) return
    geometry.setAttribute('came', new BufferAttribute(new Float32Array(room * 3), 3))
    const corners = Int8Array.from({ length: room * 2 }, (_, k) => CORNERS[k % 8]!)
    geometry.setAttribute('corner', new BufferAttribute(corners, 2))
    const index = Uint32Array.from({ length: capacity * 6 }, (_, k) => Math.floor(k / 6) * 4 + TRIANGLES[k % 6]!) // prettier-ignore
    geometry.setIndex(new BufferAttribute(index, 1))
  }
  /** Room for what only some looks read; without it none is kept. */
  function reserveOnly(name: string, width: number): void {
    const room = capacity * copies
    if (width === 0) geometry.deleteAttribute(name)
    else if (geometry.getAttribute(name)?.count !== room)
      geometry.setAttribute(name, new BufferAttribute(new Float32Array(room * width), width))
  }
  function write(name: string, count: number, source: ArrayLike<number> | null): void {
    if (!source) return
    const attribute = geometry.getAttribute(name) as BufferAttribute
    if (streaks) repeat(attribute, source, count)
    else attribute.array.set(source)
    attribute.clearUpdateRanges()
    attribute.addUpdateRange(0, count * copies * attribute.itemSize)
    attribute.needsUpdate = true
  }
  function drawChances(ids: ArrayLike<number>): Uint16Array {
    const chances = new Uint16Array(ids.length * 2)
    for (let i = 0; i < ids.length; i++) {
      chances[i * 2] = chanceOf(ids[i]!, GOLDEN)
      chances[i * 2 + 1] = chanceOf(ids[i]!, PLASTIC)
    }
    return chances
  }

  return {
    geometry,
    draw: (count: number): void => geometry.setDrawRange(0, streaks ? count * TRIANGLES.length : count),
    fill({ count, ids, positions, values, traits }: PackedPopulation, shades: Shades): void {
      reserve(Math.max(1, count))
      reserveOnly('own', shades.colours ? 3 : 0)
      reserveOnly('chosen', shades.values ? 1 : 0)
      reserveOnly('lit', shades.brights ? 1 : 0)
      write(place, count, positions)
      write('values', count, values)
      write('traits', count, traits)
      write('chances', count, drawChances(ids))
      write('own', count, shades.colours)
      write('chosen', count, shades.values)
      write('lit', count, shades.brights)
    },
    /** In which order they are drawn: the farther ones first, or for null as they come. */
    order(population: PackedPopulation | null, ahead: Vector3): void {
      if (streaks || (population === ordered.population && (!population || ahead.equals(ordered.ahead)))) return // prettier-ignore
      ordered = { population, ahead: ahead.clone() }
      const index = population && farFirst(population.positions, population.count, ahead.toArray())
      geometry.setIndex(index && new BufferAttribute(index, 1))
    },
    move(steps: Float32Array | undefined, count: number): void {
      reserve(Math.max(1, count))
      write('came', count, steps ?? null)
    },
  }
}

/** What each has, once for each of its corners. */
function repeat({ array, itemSize }: BufferAttribute, source: ArrayLike<number>, count: number): void {
  for (let i = 0, to = 0; i < count; i++) {
    const from = i * itemSize
    for (let corner = 0; corner < 4; corner++)
      for (let k = 0; k < itemSize; k++) array[to++] = source[from + k]!
  }
}

/** Steps of even scatters: from the golden ratio, and from the plastic number. */
const [GOLDEN, PLASTIC] = [0.6180339887498949, 0.7548776662466927]
/** 0 to 65535, by the number of a particle. */
const chanceOf = (id: number, step: number): number => ((id * step) % 1) * 65536
