import {
  derivedFrom,
  massOfTriangles,
  placeAt,
  rootOf,
  sourceKey,
  standing,
  type Mesh as CoreMesh,
  type Shot,
  type ShotMesh,
} from '@tangle/core'
import {
  type BatchedMesh,
  BufferAttribute,
  BufferGeometry,
  DoubleSide,
  FrontSide,
  Mesh,
  MeshStandardMaterial,
  Points,
  PointsMaterial,
  type Group,
  type Material,
  type Matrix4,
} from 'three'
import { toCreasedNormals } from 'three/addons/utils/BufferGeometryUtils.js'
import type { Engine } from '../engine/engine.ts'
import type { LoadedMesh } from '../engine/library.ts'
import type { HeatColours } from './heat.ts'
import { spreadPieces } from './pieces.ts'
import { drawLiveMeshes } from './liveMeshes.ts'
import { dress } from './meshLook.ts'
import { paintIn, paintOf, takePaint } from './paint.ts'

/** Edges sharper than this (radians) stay edges in the shading. */
const CREASE = 0.6
/** Of what has no look. */
const TONE = 0xb79a80
/** Meshes above this many triangles are shaded flat: finding their edges would take too long. */
const MOST_CREASED = 300_000

/** A mesh as it is drawn; a broken one can be pulled apart. */
export interface DrawnBody {
  object: Mesh | Points | BatchedMesh
  asset: string
  spread?(share: number, selected: boolean): void
}

/** The meshes of a shot: at rest where only their place moves, else as the engine has them at the moment. */
export function drawBodies(
  group: Group,
  engine: Engine,
  colours: { selected: string; heat: HeatColours },
  onNew: () => void,
  redraw: () => void,
) {
  const meshes = new Map<string, DrawnBody>()
  const live = drawLiveMeshes(group, engine, colours.heat, TONE, redraw)
  let toFrame: string | null = null

  function bodyOf(shot: Shot, mesh: ShotMesh): DrawnBody | undefined {
    const asset = sourceKey(mesh.source, shot)
    const known = meshes.get(mesh.id)
    if (known?.asset === asset) return known
    const loaded = engine.meshOf(mesh.source, shot)
    if (!loaded) return undefined
    known?.object.removeFromParent()
    const spread = loaded.mesh.pieces && spreadPieces(loaded.mesh, [1, 1, 1])
    const object =
      spread?.object ?? (loaded.mesh.triangles.length === 0 ? pointsOf(loaded.mesh) : solidOf(loaded, redraw))
    object.matrixAutoUpdate = false
    group.add(object)
    meshes.set(mesh.id, { object, asset, ...(spread ? { spread: spread.spread } : {}) })
    if (mesh.id === toFrame) {
      toFrame = null
      onNew()
    }
    return meshes.get(mesh.id)
  }

  return {
    meshes,
    /** Puts every mesh where it is; the one that is dragged by its handles is left alone. */
    place(shot: Shot, dragged: string | null, marked: string | null, apart: number): void {
      live.place(shot)
      const chosen = shot.meshes.find(({ id }) => id === marked)
      // what is made of a mesh is looked at in its place
      const behind = chosen && derivedFrom(chosen.source) ? rootOf(shot, chosen)?.id : undefined
      for (const mesh of shot.meshes) {
        const body = bodyOf(shot, mesh)
        if (!body) continue
        const isSeen = mesh.id === marked && behind !== undefined ? true : mesh.visible && mesh.id !== behind
        body.object.visible = isSeen && !live.has(mesh.id)
        body.spread?.(mesh.id === marked ? apart : 0, mesh.id === marked)
        if (mesh.id !== dragged)
          setMatrix(body.object.matrix, placeAt(standing(shot, mesh).place, engine.shownFrame))
        if (body.object instanceof Points) continue
        if (!body.spread) dress(body.object, mesh.look)
        const material = body.object.material as MeshStandardMaterial
        material.emissive.set(mesh.id === marked ? colours.selected : '#000000')
        material.emissiveIntensity = 0.05
      }
    },
    keepOnly(shot: Shot): void {
      for (const [id, body] of meshes) {
        if (shot.meshes.some((mesh) => mesh.id === id)) continue
        body.object.removeFromParent()
        // it is sent again where the mesh comes back
        paintIn(body.object.material as Material)?.texture.dispose()
        meshes.delete(id)
      }
    },
    /** Says so as soon as this mesh is there. */
    frameNew(id: string): void {
      toFrame = id
    },
  }
}

/** A set of points, in pixels. */
function pointsOf({ positions }: CoreMesh): Points {
  const geometry = new BufferGeometry().setAttribute('position', new BufferAttribute(positions, 3))
  return new Points(geometry, new PointsMaterial({ color: TONE, size: 3, sizeAttenuation: false }))
}

function solidOf(loaded: LoadedMesh, came: () => void): Mesh {
  const { mesh, facts } = loaded
  const { positions, triangles } = mesh
  const flat = triangles.length / 3 > MOST_CREASED
  let geometry = new BufferGeometry()
  geometry.setAttribute('position', new BufferAttribute(positions, 3))
  geometry.setIndex(new BufferAttribute(triangles, 1))
  const colours = mesh.data?.colour
  if (colours?.width === 3) geometry.setAttribute('color', new BufferAttribute(colours.values, 3))
  if (!flat) geometry = toCreasedNormals(geometry, CREASE)
  else if (mesh.materials) geometry = geometry.toNonIndexed()
  const material = new MeshStandardMaterial({
    color: TONE,
    roughness: 0.85,
    flatShading: flat,
    // along its outline the far side of a closed one would shine through, for what is steep is pushed back below
    side: facts.openEdges === 0 && isOutward(mesh) ? FrontSide : DoubleSide,
    // what lies on the surface, such as points to be born, is drawn before it
    polygonOffset: true,
    polygonOffsetFactor: 2,
    polygonOffsetUnits: 2,
  })
  const paint = paintOf(loaded, came)
  if (paint) takePaint(geometry, material, paint)
  return new Mesh(geometry, material)
}

/** Whether the faces of a closed mesh look outward. */
const isOutward = (mesh: CoreMesh): boolean =>
  massOfTriangles(mesh, [1, 1, 1], 0, mesh.triangles.length / 3).volume > 0

function setMatrix(matrix: Matrix4, m: Float64Array): void {
  matrix.set(m[0]!, m[1]!, m[2]!, m[3]!, m[4]!, m[5]!, m[6]!, m[7]!, m[8]!, m[9]!, m[10]!, m[11]!, 0, 0, 0, 1)
}
