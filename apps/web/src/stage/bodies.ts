import {
  coverId,
  placeAt,
  rampTable,
  sourceKey,
  type Mesh as CoreMesh,
  type Shot,
  type ShotMesh,
} from '@tangle/core'
import type { PackedMesh } from '@tangle/runtime/browser'
import {
  BufferAttribute,
  BufferGeometry,
  DoubleSide,
  Mesh,
  MeshStandardMaterial,
  Points,
  PointsMaterial,
  type Group,
  type Matrix4,
} from 'three'
import { toCreasedNormals } from 'three/addons/utils/BufferGeometryUtils.js'
import type { Engine } from '../engine/engine.ts'
import { fillLive, liveMaterial, type HeatColours } from './heat.ts'

/** Edges sharper than this (radians) stay edges in the shading. */
const CREASE = 0.6
/** Of meshes: bare wood. */
const TONE = 0xb79a80
/** Of what lies on meshes, linear RGB. */
const SNOW = [0.78, 0.82, 0.88]
/** Meshes above this many triangles are shaded flat: finding their edges would take too long. */
const MOST_CREASED = 300_000

type LiveMesh = Mesh<BufferGeometry, MeshStandardMaterial>

/** The meshes of a shot: at rest where only their place moves, else as the engine has them at the moment. */
export function drawBodies(
  group: Group,
  engine: Engine,
  colours: { selected: string; heat: HeatColours },
  onNew: () => void,
) {
  const meshes = new Map<string, { object: Mesh | Points; asset: string }>()
  const live = new Map<string, { object: LiveMesh; shown: PackedMesh }>()
  let toFrame: string | null = null

  function placeLive(shot: Shot): void {
    const now = engine.liveMeshes()
    const tones = coverTones(shot)
    const visible = new Set([
      ...tones.keys(),
      ...shot.meshes.flatMap(({ id, visible }) => (visible ? [id] : [])),
    ])
    for (const [id, { object }] of live) {
      if (now.some((mesh) => mesh.id === id) && visible.has(id)) continue
      object.removeFromParent()
      object.geometry.dispose()
      live.delete(id)
    }
    for (const mesh of now) {
      if (!visible.has(mesh.id)) continue
      const known = live.get(mesh.id)
      if (known?.shown === mesh) continue
      const object = known?.object ?? new Mesh(new BufferGeometry(), liveMaterial(colours.heat, TONE))
      const tone = tones.get(mesh.id)
      if (tone) {
        object.material.color.setRGB(...tone)
        // before the mesh that it lies on
        object.material.polygonOffset = false
      }
      object.frustumCulled = false
      fillLive(object, mesh)
      if (!known) group.add(object)
      live.set(mesh.id, { object, shown: mesh })
    }
  }

  function bodyOf(mesh: ShotMesh): { object: Mesh | Points; asset: string } | undefined {
    const asset = sourceKey(mesh.source)
    const known = meshes.get(mesh.id)
    if (known?.asset === asset) return known
    const loaded = engine.meshOf(mesh.source)
    if (!loaded) return undefined
    known?.object.removeFromParent()
    const object = loaded.mesh.triangles.length === 0 ? pointsOf(loaded.mesh) : solidOf(loaded.mesh)
    object.matrixAutoUpdate = false
    group.add(object)
    meshes.set(mesh.id, { object, asset })
    if (mesh.id === toFrame) {
      toFrame = null
      onNew()
    }
    return meshes.get(mesh.id)
  }

  return {
    meshes,
    /** Puts every mesh where it is; the one that is dragged by its handles is left alone. */
    place(shot: Shot, dragged: string | null, marked: string | null): void {
      placeLive(shot)
      for (const mesh of shot.meshes) {
        const body = bodyOf(mesh)
        if (!body) continue
        body.object.visible = mesh.visible && !live.has(mesh.id)
        if (mesh.id !== dragged) setMatrix(body.object.matrix, placeAt(mesh.place, engine.shownFrame))
        if (body.object instanceof Points) continue
        const material = body.object.material as MeshStandardMaterial
        material.emissive.set(mesh.id === marked ? colours.selected : '#000000')
        material.emissiveIntensity = 0.05
      }
    },
    keepOnly(shot: Shot): void {
      for (const [id, body] of meshes) {
        if (shot.meshes.some((mesh) => mesh.id === id)) continue
        body.object.removeFromParent()
        meshes.delete(id)
      }
    },
    /** Says so as soon as this mesh is there. */
    frameNew(id: string): void {
      toFrame = id
    },
  }
}

/** Linear RGB of the covers of a shot, by their id: the middle of the ramp of those that lie there, or snow. */
function coverTones(shot: Shot): Map<string, [number, number, number]> {
  const tones = new Map<string, [number, number, number]>()
  for (const { influences, look } of shot.populations) {
    for (const { kind, mesh } of influences) {
      if (kind !== 'cover') continue
      const [r, g, b] = look.colour.from === 'own' ? SNOW : rampTable(look.colour.ramp).subarray(384, 387)
      tones.set(coverId(mesh as string), [r!, g!, b!])
    }
  }
  return tones
}

/** A set of points, in pixels. */
function pointsOf({ positions }: CoreMesh): Points {
  const geometry = new BufferGeometry().setAttribute('position', new BufferAttribute(positions, 3))
  return new Points(geometry, new PointsMaterial({ color: TONE, size: 3, sizeAttenuation: false }))
}

function solidOf({ positions, triangles }: CoreMesh): Mesh {
  const flat = triangles.length / 3 > MOST_CREASED
  let geometry = new BufferGeometry()
  geometry.setAttribute('position', new BufferAttribute(positions, 3))
  geometry.setIndex(new BufferAttribute(triangles, 1))
  if (!flat) geometry = toCreasedNormals(geometry, CREASE)
  return new Mesh(
    geometry,
    new MeshStandardMaterial({
      color: TONE,
      roughness: 0.85,
      flatShading: flat,
      side: DoubleSide,
      // what lies on the surface, such as points to be born, is drawn before it
      polygonOffset: true,
      polygonOffsetFactor: 2,
      polygonOffsetUnits: 2,
    }),
  )
}

function setMatrix(matrix: Matrix4, m: Float64Array): void {
  matrix.set(m[0]!, m[1]!, m[2]!, m[3]!, m[4]!, m[5]!, m[6]!, m[7]!, m[8]!, m[9]!, m[10]!, m[11]!, 0, 0, 0, 1)
}
