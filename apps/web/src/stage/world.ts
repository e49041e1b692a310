/**
 * The world of the stage in plain three.js: what the document and the engine say, drawn. React only
 * hands over what has changed.
 */
import { BACKDROPS, vectorAt, type Look, type Shot } from '@tangle/core'
import type { BirthSample } from '@tangle/runtime/browser'
import {
  DirectionalLight,
  Group,
  HemisphereLight,
  PerspectiveCamera,
  Scene,
  Vector3,
  WebGLRenderer,
  Box3,
} from 'three'
import { OrbitControls } from 'three/addons/controls/OrbitControls.js'
import { TransformControls } from 'three/addons/controls/TransformControls.js'
import type { Engine } from '../engine/engine.ts'
import { makeBirthPoints } from './birthPoints.ts'
import { createBrush } from './brush.ts'
import { drawBodies } from './bodies.ts'
import { drawClouds } from './clouds.ts'
import { makeHeatPlane, type HeatColours } from './heat.ts'
import { makeGuides, type Guided } from './guides.ts'
import { pickParticle, type Picked } from './picking.ts'
import { makeBackdrop, makeFloor, setBackdrop, setFloor } from './surroundings.ts'

export type HandleMode = 'move' | 'turn' | 'scale'
export interface Placed {
  position: [number, number, number]
  rotation: [number, number, number]
  scale: [number, number, number]
}

export interface WorldColours {
  selected: string
  /** Of the floor, before a dark backdrop and a light one. */
  line: string
  lineOnLight: string
  births: string
  heat: HeatColours
  /** Of the phases, in order. */
  phases: string[]
  /** Of the handles along x, y and z. */
  axes: [string, string, string]
}

export type World = ReturnType<typeof createWorld>

export function createWorld(canvas: HTMLCanvasElement, engine: Engine, colours: WorldColours) {
  const renderer = new WebGLRenderer({ canvas, antialias: true, powerPreference: 'high-performance' })
  const scene = new Scene()
  const camera = new PerspectiveCamera(40, 1, 0.01, 2000)
  const controls = new OrbitControls(camera, canvas)
  const backdrop = makeBackdrop()
  const floor = makeFloor()
  const sun = new DirectionalLight(0xfff0dd, 2.4)
  const sky = new HemisphereLight(0xa79fc8, 0x2a1f30, 1.1)
  const bodies = new Group()
  const clouds = new Group()
  const heatPlane = makeHeatPlane(colours.heat)
  const births = makeBirthPoints(colours.births)
  const guides = makeGuides(colours.selected, colours.births)
  let guided: Guided | null = null
  scene.add(backdrop, floor, sun, sky, bodies, clouds, births.object, guides.object, heatPlane.object)

  const drawn = drawBodies(bodies, engine, colours, () => requestAnimationFrame(frameAll))
  const { meshes } = drawn
  const particles = drawClouds(clouds, engine)
  let byPhase = false
  let quiet = false
  let markedParticle: Picked | null = null
  let shot: Shot | undefined
  let selectedMesh: string | null = null
  let marked: string | null = null
  let needed = false
  let cost = 0

  // handles
  const handle = new TransformControls(camera, canvas)
  const grip = new Group()
  scene.add(grip, handle.getHelper())
  handle.setSize(0.8)
  handle.setColors(colours.axes[0], colours.axes[1], colours.axes[2], colours.selected)
  let placed: ((id: string, place: Placed) => void) | undefined
  handle.addEventListener('dragging-changed', (event) => {
    controls.enabled = !event.value
    if (!event.value && selectedMesh) placed?.(selectedMesh, placeOf(grip))
  })
  handle.addEventListener('objectChange', () => {
    const body = selectedMesh ? meshes.get(selectedMesh) : undefined
    grip.updateMatrix()
    body?.object.matrix.copy(grip.matrix)
    draw()
  })
  handle.addEventListener('change', () => draw())
  controls.addEventListener('change', () => draw())

  const brush = createBrush(canvas, camera, controls, () => bodies, draw, scene)

  /** Asks for a picture in the next animation frame. */
  function draw(): void {
    if (needed) return
    needed = true
    requestAnimationFrame(render)
  }

  function render(): void {
    needed = false
    const from = performance.now()
    if (shot) drawn.place(shownShot(), handle.dragging ? selectedMesh : null, marked)
    const heat = engine.heat
    heatPlane.show(heat ? (engine.surface()?.plane ?? null) : null, heat?.plane ?? null)
    placeClouds()
    guides.show(quiet ? null : guided, engine.populations(), markedParticle, camera, engine.shownFrame)
    backdrop.position.copy(camera.position)
    renderer.render(scene, camera)
    cost = performance.now() - from
  }

  const shownShot = (): Shot => engine.takeShot ?? shot!

  function placeClouds(): void {
    if (!shot) return
    const { stage, populations } = shownShot()
    const { width, height } = renderer.domElement
    // the look of the shot that is open, so that a take can be looked at in another light
    const looks = new Map<string, Look>([...populations, ...shot.populations].map((p) => [p.id, p.look]))
    particles.place(shownShot(), looks, {
      light: towardsLight(stage.light).transformDirection(camera.matrixWorldInverse),
      strength: stage.light.strength,
      width,
      height,
      pixels: height / (2 * Math.tan((camera.fov * Math.PI) / 360)),
      phases: byPhase ? colours.phases : null,
      marked: markedParticle,
    })
  }

  /** Moves the camera until the selected mesh, or all, fills the picture. */
  function frameAll(): void {
    const box = new Box3()
    for (const [id, { object }] of meshes) {
      if ((selectedMesh === null || id === selectedMesh) && object.visible) box.expandByObject(object)
    }
    if (box.isEmpty()) box.set(new Vector3(-1, 0, -1), new Vector3(1, 2, 1))
    const centre = box.getCenter(new Vector3())
    const radius = Math.max(0.05, box.getSize(new Vector3()).length() / 2)
    const away = camera.position.clone().sub(controls.target).normalize()
    controls.target.copy(centre)
    camera.position
      .copy(centre)
      .addScaledVector(away, (radius * 1.25) / Math.sin((camera.fov * Math.PI) / 360))
    controls.update()
    draw()
  }

  return {
    camera,
    draw,
    /** Milliseconds that the last picture took. */
    get cost() {
      return cost
    },
    resize(width: number, height: number, ratio: number): void {
      renderer.setPixelRatio(ratio)
      renderer.setSize(width, height, false)
      camera.aspect = width / Math.max(1, height)
      camera.updateProjectionMatrix()
      render()
    },
    setShot(next: Shot): void {
      drawn.keepOnly(next)
      shot = next
      setBackdrop(backdrop, next.stage.backdrop)
      setFloor(floor, BACKDROPS[next.stage.backdrop]?.light ? colours.lineOnLight : colours.line)
      sun.position.copy(towardsLight(next.stage.light).multiplyScalar(20))
      sun.intensity = 2.6 * next.stage.light.strength
      draw()
    },
    /** Looks as the shot's camera does. */
    setCamera({ position, target, fieldOfView }: Shot['stage']['camera']): void {
      camera.position.set(...position)
      camera.fov = fieldOfView
      controls.target.set(...target)
      camera.updateProjectionMatrix()
      controls.update()
      draw()
    },
    cameraNow(): Shot['stage']['camera'] {
      const round = (v: Vector3): [number, number, number] =>
        [v.x, v.y, v.z].map((x) => Math.round(x * 1000) / 1000) as [number, number, number]
      return { position: round(camera.position), target: round(controls.target), fieldOfView: camera.fov }
    },
    frameAll,
    /** Does the same for a mesh as soon as it is there. */
    frameNew(id: string): void {
      drawn.frameNew(id)
      draw()
    },
    /** Looks along an axis, keeping the distance. */
    lookAlong(direction: [number, number, number]): void {
      const distance = camera.position.distanceTo(controls.target)
      camera.position.copy(controls.target).addScaledVector(new Vector3(...direction).normalize(), distance)
      controls.update()
      draw()
    },
    /** Selects a mesh and shows its handles, or takes them away. */
    select(id: string | null, mode: HandleMode | null, onPlaced: (id: string, place: Placed) => void): void {
      selectedMesh = id
      marked = mode === null ? null : id
      placed = onPlaced
      const mesh = shot?.meshes.find((one) => one.id === id)
      if (!mesh || mode === null) handle.detach()
      else {
        const [x, y, z] = vectorAt(mesh.place.rotation, engine.frame).map((d) => (d * Math.PI) / 180) as [
          number,
          number,
          number,
        ]
        grip.position.set(...vectorAt(mesh.place.position, engine.frame))
        grip.rotation.set(x, y, z, 'ZYX')
        grip.scale.set(...vectorAt(mesh.place.scale, engine.frame))
        handle.setMode(mode === 'move' ? 'translate' : mode === 'turn' ? 'rotate' : 'scale')
        handle.attach(grip)
      }
      draw()
    },
    /** Hides the particles, where meshes are what matters. */
    hideParticles(on: boolean): void {
      quiet = on
      clouds.visible = !on
      draw()
    },
    /** Colours particles by their phase instead of by their look. */
    colourByPhase(on: boolean): void {
      byPhase = on
      draw()
    },
    /** Shows ways to goals and radii of a population; null shows none. */
    guide(next: Guided | null): void {
      guided = next
      draw()
    },
    /** Marks a particle, which may not be there. */
    mark(picked: Picked | null): void {
      markedParticle = picked
      draw()
    },
    pick: (x: number, y: number): Picked | null =>
      pickParticle(engine.populations(), camera, { x, y }, canvas.getBoundingClientRect()),
    /** Lets the pointer paint on a mesh; null gives it back to the camera. */
    brush,
    /** The box around all meshes: its middle, half its longest side and its top, metres. */
    extent(): { centre: [number, number, number]; reach: number; top: number } {
      const box = new Box3().setFromObject(bodies)
      if (box.isEmpty()) box.set(new Vector3(-1, 0, -1), new Vector3(1, 2, 1))
      const size = box.getSize(new Vector3())
      return {
        centre: box.getCenter(new Vector3()).toArray(),
        reach: Math.max(size.x, size.y, size.z) / 2,
        top: box.max.y,
      }
    },
    showBirths(sample: BirthSample | null): void {
      births.show(sample)
      clouds.visible = sample === null && !quiet
      draw()
    },
    picture(): Promise<Blob | null> {
      const small = document.createElement('canvas')
      small.width = 480
      small.height = 300
      // without what only helps to work
      const help = guided
      guided = null
      render()
      guided = help
      draw()
      // the middle of the picture, in the card's proportions
      const { width, height } = canvas
      const part = Math.min(width / small.width, height / small.height)
      const [w, h] = [small.width * part, small.height * part]
      small
        .getContext('2d')
        ?.drawImage(canvas, (width - w) / 2, (height - h) / 2, w, h, 0, 0, small.width, small.height)
      return new Promise((resolve) => small.toBlob(resolve, 'image/png'))
    },
    dispose(): void {
      controls.dispose()
      handle.dispose()
      particles.dispose()
      renderer.dispose()
    },
  }
}

function placeOf(grip: Group): Placed {
  const round = (x: number): number => Math.round(x * 10000) / 10000
  const { position, rotation, scale } = grip
  return {
    position: [round(position.x), round(position.y), round(position.z)],
    rotation: [rotation.x, rotation.y, rotation.z].map((r) => round((r * 180) / Math.PI)) as [
      number,
      number,
      number,
    ],
    scale: [round(scale.x), round(scale.y), round(scale.z)],
  }
}

/** Direction towards the light; bearing clockwise from the north as seen from above, degrees. */
function towardsLight({ bearing, height }: Shot['stage']['light']): Vector3 {
  const [b, h] = [(bearing * Math.PI) / 180, (height * Math.PI) / 180]
  return new Vector3(Math.sin(b) * Math.cos(h), Math.sin(h), Math.cos(b) * Math.cos(h))
}
