/** Meshes that change their shape: they and what lies on them, as the engine has them at the moment. */
import {
  coverId,
  INFLUENCES,
  rampTable,
  skinId,
  turnedCorners,
  type Look,
  type Population,
  type Shot,
  type ShotMesh,
} from '@tangle/core'
import type { PackedMesh } from '@tangle/runtime/browser'
import { BufferAttribute, BufferGeometry, Mesh, type Group, type MeshStandardMaterial } from 'three'
import type { Engine } from '../engine/engine.ts'
import { fillLive, liveMaterial, type HeatColours } from './heat.ts'
import type { LoadedMesh } from '../engine/library.ts'
import { dress } from './meshLook.ts'
import { paintOf, takePaint } from './paint.ts'
import { colourSkin, skinMaterial } from './skins.ts'

type RGB = [number, number, number]
/** Of what lies on meshes, linear RGB. */
const SNOW: RGB = [0.78, 0.82, 0.88]

const CUT_PART = ' cut'

const split = new WeakMap<PackedMesh, PackedMesh[]>()
/** A mesh and the faces of its cut, which are drawn in a tone of their own; under a mask it stays one. */
function partsOf(mesh: PackedMesh): PackedMesh[] {
  const { inner, triangles, values } = mesh
  if (inner === undefined || values) return [mesh]
  const known = split.get(mesh) ?? [
    { ...mesh, triangles: triangles.subarray(0, inner * 3) },
    { ...mesh, id: `${mesh.id}${CUT_PART}`, triangles: triangles.subarray(inner * 3) },
  ]
  split.set(mesh, known)
  return known
}

interface Live {
  object: Mesh<BufferGeometry, MeshStandardMaterial>
  shown: PackedMesh
  /** Of a skin. */
  look: Look | undefined
}

/** @param tone of bare meshes */
export function drawLiveMeshes(
  group: Group,
  engine: Engine,
  colours: HeatColours,
  tone: number,
  redraw: () => void,
) {
  const live = new Map<string, Live>()

  function keepOnly(stays: (id: string) => boolean): void {
    for (const [id, { object }] of live) {
      if (stays(id)) continue
      object.removeFromParent()
      object.geometry.dispose()
      live.delete(id)
    }
  }
  function show(
    mesh: PackedMesh,
    ownTone: RGB | undefined,
    skinned: Population | undefined,
    source: ShotMesh | undefined,
  ): void {
    const dressed = source?.look
    const known = live.get(mesh.id)
    if (known && dressed) dress(known.object, dressed, mesh.id.endsWith(CUT_PART))
    if (known?.shown === mesh && known.look === skinned?.look) return
    const material = (): MeshStandardMaterial => (skinned ? skinMaterial() : liveMaterial(colours, tone))
    const object = known?.object ?? new Mesh(new BufferGeometry(), material())
    if (ownTone) {
      object.material.color.setRGB(...ownTone)
      // before the mesh that it lies on
      object.material.polygonOffset = false
    }
    object.frustumCulled = false
    fillLive(object, mesh)
    const loaded = source && engine.meshOf(source.source)
    if (loaded) paintLive(object, mesh, loaded, redraw)
    if (dressed) dress(object, dressed, mesh.id.endsWith(CUT_PART))
    if (skinned) {
      const coloured = colourSkin(object.geometry, mesh, skinned)
      if (coloured) object.material.color.set('white')
      if (skinned.look.skin) object.material.opacity = skinned.look.skin.opacity
      if (object.material.vertexColors !== coloured) object.material.needsUpdate = true
      object.material.vertexColors = coloured
    }
    if (!known) group.add(object)
    live.set(mesh.id, { object, shown: mesh, look: skinned?.look })
  }

  return {
    has: (id: string): boolean => live.has(id),
    place(shot: Shot): void {
      const covers = coverTones(shot)
      const skins = skinTones(shot)
      const isShown = (id: string): boolean =>
        covers.has(id) || skins.has(id) || shot.meshes.some((mesh) => mesh.id === id && mesh.visible)
      const now = engine
        .liveMeshes()
        .filter(({ id }) => isShown(id))
        .flatMap(partsOf)
      keepOnly((id) => now.some((mesh) => mesh.id === id))
      for (const mesh of now) {
        const own = covers.get(mesh.id) ?? skins.get(mesh.id)
        const skinned = shot.populations.find(({ id }) => skinId(id) === mesh.id)
        const source = shot.meshes.find(({ id }) => id === mesh.id.replace(CUT_PART, ''))
        show(mesh, own, skinned, source)
      }
    },
  }
}

/** What only moves keeps the colours of its vertices and what its triangles are painted with; what is cut or made finer has its own colour. */
function paintLive(
  object: Mesh<BufferGeometry, MeshStandardMaterial>,
  { positions, triangles }: PackedMesh,
  loaded: LoadedMesh,
  redraw: () => void,
): void {
  const { mesh } = loaded
  if (mesh.triangles.length !== triangles.length || mesh.positions.length !== positions.length) return
  const colour = mesh.data?.colour
  if (colour?.width === 3) object.geometry.setAttribute('color', new BufferAttribute(colour.values, 3))
  const paint = paintOf(loaded, redraw)
  if (!paint) return
  object.geometry = object.geometry.toNonIndexed()
  // the corners of a mirrored one come in the other order
  const isTurned = triangles.some((v, c) => v !== mesh.triangles[c])
  const inOrder = (of: BufferAttribute) =>
    isTurned ? new BufferAttribute(turnedCorners(of.array as Float32Array, 3), 3) : of
  takePaint(object.geometry, object.material, {
    ...paint,
    layered: inOrder(paint.layered),
    tint: inOrder(paint.tint),
  })
}

/** Kinds of influences that cover a mesh. */
const COVERING = new Set(INFLUENCES.filter(({ cover }) => cover).map(({ kind }) => kind))

/** Of the covers of a shot, by their id: the middle of the ramp of those that lie there, or snow. */
function coverTones(shot: Shot): Map<string, RGB> {
  const tones = new Map<string, RGB>()
  for (const { influences, look } of shot.populations) {
    for (const { kind, mesh } of influences) {
      if (!COVERING.has(kind)) continue
      tones.set(coverId(mesh as string), look.colour.from === 'own' ? SNOW : middleOf(look))
    }
  }
  return tones
}

/** Of skins, by their id. */
const skinTones = (shot: Shot): Map<string, RGB> =>
  new Map(
    shot.populations.flatMap(({ id, look }) => (look.skin ? [[skinId(id), middleOf(look)] as const] : [])),
  )

function middleOf({ colour }: Look): RGB {
  const [r, g, b] = rampTable(colour.ramp).subarray(384, 387)
  return [r!, g!, b!]
}
