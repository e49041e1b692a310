/**
 * The world of the stage in plain three.js: what the document and the engine say, drawn. React only
 * hands over what has changed.
 */
import { derivedFrom, type Shot } from '@tangle/core'
import type { BirthSample } from '@tangle/runtime/browser'
import { WebGLRenderer } from 'three'
import type { Engine } from '../engine/engine.ts'
import type { BondColours } from './bonds.ts'
import { createBrush } from './brush.ts'
import { createPainter } from './painter.ts'
import type { Guided } from './guides.ts'
import { createHandles, type HandleMode, type Placed } from './handles.ts'
import type { HeatColours } from './heat.ts'
import { boxOf, createStageObjects, extentOf, type StageObjects } from './objects.ts'
import type { StageQuality } from '../store/session.ts'
import { createPacing, gradesOf, type Fineness } from './pacing.ts'
import { pickParticle, type Picked } from './picking.ts'
import { thumbnailOf } from './picture.ts'
import { createSeeking } from './seeking.ts'
import { createSizing } from './sizing.ts'
import { createStrip } from './strip.ts'
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

/** How a picture for others is made. */
export interface Filmed {
  /** Whether what is around is in it. */
  background: boolean
  /** Without what it is compared with, and in its own colours. */
  alone: boolean
  /** Frames after the playhead's: a part of one, or below 0 before it. */
  after: number
  /** The place of the lens that one looks through, in its radii from its middle. */
  lens: readonly [number, number]
}
const AS_IT_IS: Filmed = { background: true, alone: true, after: 0, lens: [0, 0] }

/** What is shown beside the shot itself, and how. */
export interface Shown {
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
  /** How well it is drawn. */
  quality: StageQuality
  /** The camera of the shot that one looks through. */
  camera: string | null
  /** Where the line is beyond which one sees what is compared: a share of the width; null: they are side by side. */
  split: number | null
  /** Particles show how far they are from where they are on the other side of a comparison. */
  byDistance: boolean
  /** A picture is made for others: without what only helps to work, and on request without what is around. */
  filmed: Filmed | null
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
  quality: 'auto',
  camera: null,
  split: 0.5,
  byDistance: false,
  filmed: null,
}

export type World = ReturnType<typeof createWorld>

/** @param onStrip takes pictures of the shot that move, once it has played as it is */
export function createWorld(
  canvas: HTMLCanvasElement,
  engine: Engine,
  colours: WorldColours,
  onStrip: (strip: Blob) => void = () => undefined,
) {
  const software = isSoftware()
  const renderer = createRenderer(canvas, software)
  const shown: Shown = { ...NOTHING_SHOWN }
  let shot: Shot | undefined
  const pacing = createPacing(renderer.getContext() as WebGL2RenderingContext, {
    particles: () => engine.populations().reduce((sum, { count }) => sum + count, 0),
    // a movie draws its own pictures
    render: (fineness) => sizing.filming() || render(fineness),
    changed: engine.noteDrawn,
    grades: () => gradesOf(shown.quality, software),
  })
  const { draw } = pacing
  const view = createView(canvas, draw)
  const onMesh = (): number => requestAnimationFrame(() => seeking.arrived())
  const objects = createStageObjects(renderer, engine, colours, onMesh, draw)
  const { scene } = objects
  const axes: [string, string, string, string] = [...colours.axes, colours.selected]
  const drawn = (mesh: string) => objects.bodies.meshes.get(mesh)?.object
  const handles = createHandles(canvas, view, scene, axes, drawn, draw)
  const brush = createBrush(canvas, view, objects.bodies.group, draw, scene)

  const strip = createStrip(canvas, onStrip)
  const painter = createPainter(renderer, objects, view, engine, software ? 0 : 4)
  function render(fineness: Fineness): void {
    const ratio = sizing.ratio() * fineness.pixels
    if (renderer.getPixelRatio() !== ratio) renderer.setPixelRatio(ratio)
    if (!shot) return renderer.render(scene, view.camera)
    const { playing, takeShot, frame } = engine
    if (playing && !takeShot && !shown.filmed && !shown.quiet && engine.populationsAt(frame))
      strip.pass({ shot, frame, meshesOf: engine.surface()?.frame, drawBare: () => drawBare(AS_IT_IS) })
    painter.paint({ shot, shown, dragged: handles.dragged(), colours, canvas, fineness })
  }

  /** As well as it may be, without what only helps to work. */
  function drawBare(filmed: Filmed): void {
    const { outlined, marked, byPhase, byDistance } = shown
    Object.assign(shown, { outlined: null, marked: null, filmed })
    if (filmed.alone) Object.assign(shown, { byPhase: false, byDistance: false })
    handles.visible(false)
    engine.atPart(filmed.after, () =>
      render({ pixels: 1, particles: 1, light: gradesOf(shown.quality, software).rest }),
    )
    handles.visible(true)
    Object.assign(shown, { outlined, marked, byPhase, byDistance, filmed: null })
  }
  const sizing = createSizing({ canvas, renderer, view, draw: () => render(pacing.fineness), drawBare })

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
    ...sizing,
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
    /** What the stage shows, without what only helps to work; on request beside what it is compared with. */
    picture(alone = true): Promise<Blob | null> {
      drawBare({ ...AS_IT_IS, alone })
      draw()
      return thumbnailOf(canvas)
    },
    dispose: allOf(pacing, view.controls, handles, objects.clouds, painter, objects.lighting, renderer),
  }
}

const allOf =
  (...ending: { dispose(): void }[]) =>
  (): void =>
    ending.forEach((one) => one.dispose())

/** Drawn by the processor, smooth edges cost a third: there are none. */
const createRenderer = (canvas: HTMLCanvasElement, software: boolean): WebGLRenderer =>
  new WebGLRenderer({ canvas, alpha: true, antialias: !software, powerPreference: 'high-performance' })

/** Whether pictures are drawn by the processor, for want of graphics. */
function isSoftware(): boolean {
  const gl = document.createElement('canvas').getContext('webgl2')
  const facts = gl?.getExtension('WEBGL_debug_renderer_info')
  const name = gl && facts ? String(gl.getParameter(facts.UNMASKED_RENDERER_WEBGL)) : ''
  gl?.getExtension('WEBGL_lose_context')?.loseContext()
  return /swiftshader|llvmpipe|software/i.test(name)
}

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
    /** Looks through a camera of the shot; null looks for oneself. */
    lookThrough: (camera: string | null): void => show({ camera }),
    /** Moves the line between what is shown and what is compared. */
    split: (split: number | null): void => show({ split }),
    /** Colours particles by how far they are from where they are on the other side. */
    colourByDistance: (on: boolean): void => show({ byDistance: on }),
    /** How well pictures are drawn. */
    drawWell: (quality: StageQuality): void => show({ quality }),
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
