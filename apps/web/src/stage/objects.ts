/** All that stands in the scene of the stage, put where it is at the engine's frame. */
import { BACKDROPS, cameraAt, type Look, type Shot } from '@tangle/core'
import { Box3, Color, FogExp2, Group, Scene, Vector3, type WebGLRenderer } from 'three'
import type { Engine } from '../engine/engine.ts'
import { makeArrows } from './arrows.ts'
import { makeBirthPoints } from './birthPoints.ts'
import { drawBodies } from './bodies.ts'
import { drawBonds } from './bonds.ts'
import { drawClouds } from './clouds.ts'
import { ghost } from './ghosting.ts'
import { groundLevel, makeGround } from './ground.ts'
import { makeGuides } from './guides.ts'
import { makeHeatPlane } from './heat.ts'
import { createLighting, towardsLight, type Lit } from './lighting.ts'
import { castShadows } from './meshLook.ts'
import type { Fineness } from './pacing.ts'
import { makePlanes } from './planes.ts'
import { makeBackdrop, makeFloor, setBackdrop, setFloor } from './surroundings.ts'
import type { View } from './view.ts'
import type { Shown, WorldColours } from './world.ts'

/** So many particles of a population say where it is. */
const SAMPLED = 4000

/** @param framed is called when a mesh that was waited for is there; redraw when a picture of one is */
export function createStageObjects(
  renderer: WebGLRenderer,
  engine: Engine,
  colours: WorldColours,
  framed: () => void,
  redraw: () => void,
) {
  const scene = new Scene()
  const [backdrop, floor, ground] = [makeBackdrop(), makeFloor(), makeGround()]
  const [bodiesGroup, cloudsGroup] = [new Group(), new Group()]
  const heatPlane = makeHeatPlane(colours.heat)
  const births = makeBirthPoints(colours.births)
  const guides = makeGuides(colours.selected, colours.births)
  const arrows = makeArrows(colours.selected)
  const planes = makePlanes(colours.axes[2])
  const bonds = drawBonds(engine.meshOf, colours.bonds)
  // what only helps to work
  const helpers = new Group().add(
    births.object,
    guides.object,
    bonds.object,
    heatPlane.object,
    arrows.object,
    planes.object,
  )
  scene.add(backdrop, ground.object, floor, bodiesGroup, cloudsGroup, helpers)
  const lighting = createLighting(renderer, scene)
  const bodies = { group: bodiesGroup, ...drawBodies(bodiesGroup, engine, colours, framed, redraw) }
  const clouds = { group: cloudsGroup, ...drawClouds(cloudsGroup, engine, redraw) }
  const fog = new FogExp2(0, 0)
  return {
    scene,
    backdrop,
    floor,
    ground,
    fog,
    lighting,
    helpers,
    heatPlane,
    arrows,
    planes,
    births,
    guides,
    bonds,
    bodies,
    clouds,
    setShot(shot: Shot): void {
      const { backdrop: sort, surroundings } = shot.stage
      bodies.keepOnly(shot)
      setBackdrop(backdrop, sort)
      setFloor(floor, BACKDROPS[sort]?.light ? colours.lineOnLight : colours.line)
      fog.color = new Color(BACKDROPS[sort]?.horizon)
      fog.density = surroundings.fog > 0 ? Math.sqrt(Math.LN2) / surroundings.fog : 0
      scene.fog = surroundings.fog > 0 ? fog : null
    },
  }
}
export type StageObjects = ReturnType<typeof createStageObjects>

export interface Picture {
  shot: Shot
  shown: Shown
  /** The mesh that the handles hold now. */
  dragged: string | null
  colours: WorldColours
  /** Pixels of the picture. */
  canvas: { width: number; height: number }
  fineness: Fineness
}

/** Puts everything where it is. */
export function place(objects: StageObjects, view: View, engine: Engine, picture: Picture): void {
  const { shot, shown, dragged, fineness } = picture
  const camera = shot.cameras.find(({ id }) => id === shown.camera)
  const seenBy = camera ? cameraAt(shot, camera, engine.shownFrame) : null
  view.through(seenBy)
  if (seenBy && shown.filmed) view.throughLens(seenBy, shown.filmed.lens)
  const seen = engine.takeShot ?? shot
  objects.bodies.place(seen, dragged, shown.outlined, shown.apart)
  const { group } = objects.bodies
  ghost(group, shown.ghosted)
  castShadows(group, fineness.light > 0, shown.ghosted)
  placeLight(objects, view, engine, picture)
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
  objects.helpers.visible = !shown.filmed
  objects.backdrop.visible = isAround(shown)
  objects.floor.visible = isAround(shown) && shot.stage.surroundings.floor !== 'none'
}

/** Whether the backdrop, the ground and the rings are in the picture. */
const isAround = ({ filmed }: Shown): boolean => filmed?.background ?? true

/** The sun, what is around, and the ground. The light is that of the open shot, so that a take can be looked at in another. */
function placeLight(
  objects: StageObjects,
  { camera, controls }: View,
  engine: Engine,
  picture: Picture,
): void {
  const { shot, shown, fineness } = picture
  const { lighting, ground, bodies } = objects
  const target = controls.target
  const distance = camera.position.distanceTo(target)
  const lit = (): Lit => ({ box: boxOfAll(bodies.group, engine), target, distance })
  const mirrors = shot.meshes.some(({ look }) => look.metalness > 0 || look.glass > 0)
  lighting.place(shot.stage, fineness.light, lit, mirrors)
  const { floor } = shot.stage.surroundings
  ground.object.visible = floor === 'ground' && fineness.light > 0 && isAround(shown)
  const level = groundLevel(engine.takeShot ?? shot, engine.shownFrame)
  ground.show(shot.stage.backdrop, lighting.onGround(shot.stage), level, { target, distance })
}

/** The box around all meshes that are seen and all particles. */
function boxOfAll(meshes: Group, engine: Engine): Box3 {
  const box = new Box3().expandByObject(meshes)
  const place = new Vector3()
  for (const { positions, count } of engine.populations()) {
    const step = 3 * Math.max(1, Math.floor(count / SAMPLED))
    for (let i = 0; i < count * 3; i += step) box.expandByPoint(place.fromArray(positions, i))
  }
  return box
}

function placeClouds(
  { clouds, lighting }: StageObjects,
  { camera, controls, pixels }: View,
  seen: Shot,
  { shot, shown, colours, fineness, canvas: { width, height } }: Picture,
): void {
  const { light, surroundings } = shot.stage
  // the look of the shot that is open, so that a take can be looked at in another light
  const looks = new Map<string, Look>([...seen.populations, ...shot.populations].map((p) => [p.id, p.look]))
  const towards = towardsLight(light)
  clouds.place(seen, looks, {
    light: {
      towards,
      seen: towards.clone().transformDirection(camera.matrixWorldInverse),
      strength: light.strength,
      around: surroundings.brightness,
      texels: fineness.light > 0 ? lighting.texels() : 0,
      shade: light.shade,
    },
    width,
    height,
    pixels: pixels(height),
    phases: shown.byPhase ? colours.phases : null,
    byDistance: shown.byDistance,
    marked: shown.marked,
    part: fineness.particles,
    middle: camera.position.distanceTo(controls.target),
    ahead: camera.getWorldDirection(new Vector3()),
  })
}

/** The box around all meshes: its middle, half its longest side and its top, metres. */
export function extentOf(bodies: Group): { centre: [number, number, number]; reach: number; top: number } {
  const box = orAround(new Box3().setFromObject(bodies))
  const size = box.getSize(new Vector3())
  const reach = Math.max(size.x, size.y, size.z) / 2
  return { centre: box.getCenter(new Vector3()).toArray(), reach, top: box.max.y }
}

/** The box around a mesh, or around all that are visible: as they came, however much of them is left. */
export function boxOf({ bodies }: StageObjects, shot: Shot | undefined, chosen: string | null): Box3 {
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
