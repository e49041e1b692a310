/**
 * The world of the stage in plain three.js: what the document and the engine say, drawn. React only
 * hands over what has changed.
 */
import { derivedFrom, BACKDROPS, type Look, type Shot } from '@tangle/core'
import type { BirthSample } from '@tangle/runtime/browser'
import { Box3, DirectionalLight, Group, HemisphereLight, Scene, Vector3, WebGLRenderer } from 'three'
import type { Engine } from '../engine/engine.ts'
import { makeArrows } from './arrows.ts'
import { makeBirthPoints } from './birthPoints.ts'
import { createBloom } from './bloom.ts'
import { drawBodies } from './bodies.ts'
import { createBrush } from './brush.ts'
import { drawClouds } from './clouds.ts'
import { drawBonds, type BondColours } from './bonds.ts'
import { makeGuides, type Guided } from './guides.ts'
import { ghost } from './ghosting.ts'
import { createHandles, type HandleMode, type Placed } from './handles.ts'
import { makeHeatPlane, type HeatColours } from './heat.ts'
import { pickParticle, type Picked } from './picking.ts'
import { makePlanes } from './planes.ts'
import { createPacing, type Fineness } from './pacing.ts'
import { thumbnailOf } from './picture.ts'
import { makeBackdrop, makeFloor, setBackdrop, setFloor } from './surroundings.ts'
import { createSeeking } from './seeking.ts'
import { createView, type View } from './view.ts'

export interface WorldColours {
  selected: string
  /** Of the floor, before a dark backdrop and a light one. */
  line: string
  lineOnLight: string
  births: string
  bonds: BondColours
  heat: HeatColours
  /** Of the phases, in order. */
  phases: string[]
  /** Of the handles along x, y and z. */
  axes: [string, string, string]
}

/** What is shown beside the shot itself, and how. */
interface Shown {
  guided: Guided | null
  /** A particle that is marked; it may not be there. */
  marked: Picked | null
  /** The mesh that frames are about, and the one that is outlined. */
  selectedMesh: string | null
  outlined: string | null
  /** How far the pieces of a broken mesh are pulled apart, as a share of their distance from its middle. */
  apart: number
  /** Particles in the colours of their phases. */
  byPhase: boolean
  /** Meshes are seen through. */
  ghosted: boolean
  /** No particles, where meshes are what matters. */
  quiet: boolean
}

const NOTHING_SHOWN: Shown = {
  guided: null,
  marked: null,
  selectedMesh: null,
  outlined: null,
  apart: 0,
  byPhase: false,
  ghosted: false,
  quiet: false,
}

export type World = ReturnType<typeof createWorld>

export function createWorld(canvas: HTMLCanvasElement, engine: Engine, colours: WorldColours) {
  const renderer = createRenderer(canvas)
  const shown: Shown = { ...NOTHING_SHOWN }
  let shot: Shot | undefined
  const pacing = createPacing(renderer.getContext() as WebGL2RenderingContext, {
    particles: () => engine.populations().reduce((sum, { count }) => sum + count, 0),
    render,
    changed: engine.noteDrawn,
  })
  const { draw } = pacing
  const view = createView(canvas, draw)
  const onMesh = (): number => requestAnimationFrame(() => seeking.arrived())
  const { scene, ...objects } = createStageObjects(engine, colours, onMesh)
  const axes: [string, string, string, string] = [...colours.axes, colours.selected]
  const handles = createHandles(
    canvas,
    view,
    scene,
    axes,
    (mesh) => objects.bodies.meshes.get(mesh)?.object,
    draw,
  )
  const brush = createBrush(canvas, view, objects.bodies.group, draw, scene)

  const bloom = createBloom(renderer, scene, view.camera, isSoftware() ? 0 : 4)
  /** Pixels of the picture for one of the page. */
  let ratio = 1
  function render({ pixels, particles: part }: Fineness): void {
    if (renderer.getPixelRatio() !== ratio * pixels) renderer.setPixelRatio(ratio * pixels)
    if (shot) place(objects, view, engine, { shot, shown, dragged: handles.dragged(), colours, canvas, part })
    if (shot && spills(shot, shown)) bloom.render(shot.stage.bloom)
    else renderer.render(scene, view.camera)
  }

  const seeking = createSeeking(view, objects.bodies, () => shot, (id) => boxOf(objects, shot, id)) // prettier-ignore
  /** Moves the camera until the selected mesh, or all, fills the picture. */
  const frameAll = (): void => view.frame(boxOf(objects, engine.takeShot ?? shot, shown.selectedMesh))

  return {
    ...looking(view),
    ...showing(shown, objects, draw),
    draw,
    frameAll,
    /** Lets the pointer paint on a mesh; null gives it back to the camera. */
    brush,
    /** Milliseconds that the last picture took. */
    cost: () => pacing.cost,
    /** How well it was drawn. */
    fineness: () => pacing.fineness,
    resize(width: number, height: number, pixelRatio: number): void {
      ratio = pixelRatio
      renderer.setSize(width, height, false)
      view.setAspect(width / Math.max(1, height))
      // at once: a canvas of another size is empty
      render(pacing.fineness)
    },
    setShot(next: Shot): void {
      shot = next
      objects.setShot(next)
      draw()
    },
    frameNew: seeking.frameNew,
    seek: seeking.seek,
    /** Selects a mesh and shows its handles, or takes them away. */
    select(id: string | null, mode: HandleMode | null, onPlaced: (id: string, place: Placed) => void): void {
      Object.assign(shown, { selectedMesh: id, outlined: mode === null ? null : id })
      const mesh = shot?.meshes.find((one) => one.id === id)
      if (mesh && mode !== null && !derivedFrom(mesh.source)) handles.show(mesh, engine.frame, mode, onPlaced)
      else handles.hide()
      draw()
    },
    pick: (x: number, y: number): Picked | null =>
      pickParticle(engine.populations(), view.camera, { x, y }, canvas.getBoundingClientRect()),
    extent: () => extentOf(objects.bodies.group),
    /** What the stage shows, without what only helps to work. */
    picture(): Promise<Blob | null> {
      const { guided } = shown
      shown.guided = null
      render({ pixels: 1, particles: 1 })
      shown.guided = guided
      draw()
      return thumbnailOf(canvas)
    },
    dispose(): void {
      pacing.dispose()
      view.controls.dispose()
      handles.dispose()
      objects.clouds.dispose()
      bloom.dispose()
      renderer.dispose()
    },
  }
}

/** Drawn by the processor, smooth edges cost a third: there are none. */
const createRenderer = (canvas: HTMLCanvasElement): WebGLRenderer =>
  new WebGLRenderer({ canvas, antialias: !isSoftware(), powerPreference: 'high-performance' })

/** Whether pictures are drawn by the processor, for want of graphics. */
function isSoftware(): boolean {
  const gl = document.createElement('canvas').getContext('webgl2')
  const facts = gl?.getExtension('WEBGL_debug_renderer_info')
  const name = gl && facts ? String(gl.getParameter(facts.UNMASKED_RENDERER_WEBGL)) : ''
  gl?.getExtension('WEBGL_lose_context')?.loseContext()
  return /swiftshader|llvmpipe|software/i.test(name)
}

/** Whether light of anything that glows spills over: not where colours stand for something else. */
const spills = ({ populations, stage: { bloom } }: Shot, { byPhase, quiet }: Shown): boolean =>
  bloom.strength > 0 && !byPhase && !quiet && populations.some(({ look }) => (look.glow?.strength ?? 0) > 0)

/** From where it is seen. */
const looking = ({ camera, setCamera, cameraNow, lookAlong, back }: View) => ({
  camera,
  setCamera,
  cameraNow,
  lookAlong,
  viewBefore: back,
})

/** What changes what is shown. */
function showing(shown: Shown, { clouds, births }: StageObjects, draw: () => void) {
  function show(change: Partial<Shown>): void {
    Object.assign(shown, change)
    draw()
  }
  return {
    /** Hides the particles, where meshes are what matters. */
    hideParticles(on: boolean): void {
      clouds.group.visible = !on
      show({ quiet: on })
    },
    /** Colours particles by their phase instead of by their look. */
    colourByPhase: (on: boolean): void => show({ byPhase: on }),
    /** Lets meshes be seen through. */
    ghost: (on: boolean): void => show({ ghosted: on }),
    /** Shows ways to goals and radii of a population; null shows none. */
    guide: (guided: Guided | null): void => show({ guided }),
    /** Pulls the pieces of the outlined mesh apart, to look at them. */
    spreadApart(apart: number): void {
      clouds.group.visible = apart === 0 && !shown.quiet
      show({ apart })
    },
    /** Marks a particle, which may not be there. */
    mark: (marked: Picked | null): void => show({ marked }),
    /** Shows where particles are born, in place of those that are. */
    showBirths(sample: BirthSample | null): void {
      births.show(sample)
      clouds.group.visible = sample === null && !shown.quiet
      draw()
    },
  }
}

/** The box around all meshes: its middle, half its longest side and its top, metres. */
function extentOf(bodies: Group): { centre: [number, number, number]; reach: number; top: number } {
  const box = orAround(new Box3().setFromObject(bodies))
  const size = box.getSize(new Vector3())
  const reach = Math.max(size.x, size.y, size.z) / 2
  return { centre: box.getCenter(new Vector3()).toArray(), reach, top: box.max.y }
}

/** The box around a mesh, or around all that are visible: as they came, however much of them is left. */
function boxOf({ bodies }: StageObjects, shot: Shot | undefined, chosen: string | null): Box3 {
  const box = new Box3()
  for (const { id, visible } of shot?.meshes ?? []) {
    const body = bodies.meshes.get(id)
    if (body && visible && (chosen ?? id) === id) box.expandByObject(body.object)
  }
  return orAround(box)
}

/** A box, or where it is empty one around the middle of the floor. */
const orAround = (box: Box3): Box3 =>
  box.isEmpty() ? box.set(new Vector3(-1, 0, -1), new Vector3(1, 2, 1)) : box

/** All that stands in the scene. `framed` is called when a mesh that was waited for is there. */
function createStageObjects(engine: Engine, colours: WorldColours, framed: () => void) {
  const scene = new Scene()
  const [backdrop, floor] = [makeBackdrop(), makeFloor()]
  const sun = new DirectionalLight(0xfff0dd, 2.4)
  const sky = new HemisphereLight(0xa79fc8, 0x2a1f30, 1.1)
  const [bodiesGroup, cloudsGroup] = [new Group(), new Group()]
  const heatPlane = makeHeatPlane(colours.heat)
  const births = makeBirthPoints(colours.births)
  const guides = makeGuides(colours.selected, colours.births)
  const arrows = makeArrows(colours.selected)
  const planes = makePlanes(colours.axes[2])
  const bonds = drawBonds(engine.meshOf, colours.bonds)
  scene.add(
    backdrop,
    floor,
    sun,
    sky,
    bodiesGroup,
    cloudsGroup,
    births.object,
    guides.object,
    bonds.object,
    heatPlane.object,
    arrows.object,
    planes.object,
  )
  const bodies = { group: bodiesGroup, ...drawBodies(bodiesGroup, engine, colours, framed) }
  const clouds = { group: cloudsGroup, ...drawClouds(cloudsGroup, engine) }
  return {
    scene,
    backdrop,
    heatPlane,
    arrows,
    planes,
    births,
    guides,
    bonds,
    bodies,
    clouds,
    setShot(shot: Shot): void {
      const { backdrop: sort, light } = shot.stage
      bodies.keepOnly(shot)
      setBackdrop(backdrop, sort)
      setFloor(floor, BACKDROPS[sort]?.light ? colours.lineOnLight : colours.line)
      sun.position.copy(towardsLight(light).multiplyScalar(20))
      sun.intensity = 2.6 * light.strength
    },
  }
}
type StageObjects = Omit<ReturnType<typeof createStageObjects>, 'scene'>

interface Picture {
  shot: Shot
  shown: Shown
  /** The mesh that the handles hold now. */
  dragged: string | null
  colours: WorldColours
  canvas: HTMLCanvasElement
  /** Of the particles that are drawn, 0–1. */
  part: number
}

/** Puts everything where it is at the engine's frame. */
function place(objects: StageObjects, view: View, engine: Engine, picture: Picture): void {
  const { shot, shown, dragged } = picture
  const seen = engine.takeShot ?? shot
  objects.bodies.place(seen, dragged, shown.outlined, shown.apart)
  const { group } = objects.bodies
  ghost(group, shown.ghosted)
  objects.planes.show(seen, engine.shownFrame, group.children.length, () => extentOf(group))
  const { heat } = engine
  objects.heatPlane.show(heat ? (engine.surface()?.plane ?? null) : null, heat?.plane ?? null)
  objects.arrows.show(engine.arrows(), view.camera)
  placeClouds(objects, view, seen, picture)
  const guided = shown.quiet ? null : shown.guided
  objects.guides.show(guided, engine.populations(), shown.marked, view.camera, engine.shownFrame)
  const bonded = guided?.influence?.kind === 'bonds' ? guided.population : null
  objects.bonds.show(
    seen,
    engine.populations().find(({ id }) => id === bonded),
  )
  objects.backdrop.position.copy(view.camera.position)
}

function placeClouds(
  { clouds }: StageObjects,
  { camera, controls, pixels }: View,
  seen: Shot,
  { shot, shown, colours, part, canvas: { width, height } }: Picture,
): void {
  const { light } = seen.stage
  // the look of the shot that is open, so that a take can be looked at in another light
  const looks = new Map<string, Look>([...seen.populations, ...shot.populations].map((p) => [p.id, p.look]))
  clouds.place(seen, looks, {
    light: towardsLight(light).transformDirection(camera.matrixWorldInverse),
    strength: light.strength,
    width,
    height,
    pixels: pixels(height),
    phases: shown.byPhase ? colours.phases : null,
    marked: shown.marked,
    part,
    middle: camera.position.distanceTo(controls.target),
  })
}

/** Direction towards the light; bearing clockwise from the north as seen from above, degrees. */
function towardsLight({ bearing, height }: Shot['stage']['light']): Vector3 {
  const [b, h] = [(bearing * Math.PI) / 180, (height * Math.PI) / 180]
  return new Vector3(Math.sin(b) * Math.cos(h), Math.sin(h), Math.cos(b) * Math.cos(h))
}
