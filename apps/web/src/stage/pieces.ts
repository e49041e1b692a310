import {
  massProperties,
  meshOfPiece,
  numberOfPiece,
  pieceCount,
  pieceTriangles,
  standing,
  vectorAt,
  type Mesh as CoreMesh,
  type MeshLook,
  type MeshSource,
  type Shot,
  type Vector,
} from '@tangle/core'
import {
  BatchedMesh,
  BufferAttribute,
  BufferGeometry,
  Color,
  Group,
  Matrix4,
  MeshStandardMaterial,
  Quaternion,
  Points,
  PointsMaterial,
  Vector3,
  Vector4,
} from 'three'
import { fade, fadingShadow, shine } from './fading.ts'
import { colourOf, isAsItsMesh, sameShown, type ShownParticles } from './instances.ts'

/** Faces along which it broke are this much darker than their outside, where what colours particles colours both. */
const INNER = 0.62

/** Shares of the distance from the camera: a pixel is about a thousandth. */
const OVERLAP = 5e-5
const BEHIND = 5e-4

/** Of the places where cells were sown; so many are drawn fine. */
const MANY = 150
const SEED = 0xfff2d8
/** The fourth number of the colour of a piece. */
const SOLID: [declared: string, solid: string] = ['', 'getBatchingColor(getIndirectIndex(gl_DrawID)).a']

/**
 * Lets pieces that touch overlap by a few hundredths of a pixel, so that nothing shines through where their corners are rounded apart.
 * Faces along which they broke are drawn as if they lay a little farther off: they stay behind the outside of the next piece.
 */
function overlap(material: MeshStandardMaterial): void {
  const { onBeforeCompile } = material
  const tints: Tints = { outside: { value: new Color(1, 1, 1) }, inside: { value: new Color(INNER, INNER, INNER) } } // prettier-ignore
  material.userData.tints = tints
  material.onBeforeCompile = (shader, renderer) => {
    onBeforeCompile(shader, renderer)
    Object.assign(shader.uniforms, tints)
    shader.vertexShader = shader.vertexShader
      .replace(
        '#include <common>',
        '#include <common>\nattribute float inner; uniform vec3 outside; uniform vec3 inside;',
      )
      .replace(
        '#include <color_vertex>',
        '#include <color_vertex>\nvColor.rgb *= inner > 0.5 ? inside : outside;',
      )
      .replace(
        '#include <project_vertex>',
        `float pieceAway = length((modelViewMatrix * batchingMatrix * vec4(0.0, 0.0, 0.0, 1.0)).xyz);
        transformed += normalize(transformed + 1e-9) * ${OVERLAP} * pieceAway;
        #include <project_vertex>
        if (inner > 0.5) {
          vec4 behind = projectionMatrix * vec4(mvPosition.xyz * ${1 + BEHIND}, 1.0);
          gl_Position.z = behind.z / behind.w * gl_Position.w;
        }`,
      )
  }
}

interface Tints {
  outside: { value: Color }
  inside: { value: Color }
}
/** Pieces are of what their mesh is made of; what colours particles colours them instead. */
function tintPieces(material: MeshStandardMaterial, look: MeshLook, isOwn: boolean): void {
  const { outside, inside } = material.userData.tints as Tints
  const { roughness, metalness } = look
  Object.assign(material, { roughness, metalness })
  outside.value.set(isOwn ? look.colour : '#ffffff')
  if (isOwn) inside.value.set(look.inner)
  else inside.value.setRGB(INNER, INNER, INNER)
}

/** All pieces of a broken mesh, each to be put where it is. */
export function batchOfPieces(mesh: CoreMesh, size: Vector): BatchedMesh {
  const count = pieceCount(mesh)
  const corners = mesh.triangles.length
  const material = new MeshStandardMaterial({ roughness: 0.7 })
  fade(material, ...SOLID)
  overlap(material)
  const batch = new BatchedMesh(count, corners, 0, material)
  batch.customDepthMaterial = fadingShadow(...SOLID)
  batch.frustumCulled = false
  for (let k = 0; k < count; k++) {
    const { positions, normals, inner } = pieceTriangles(mesh, size, k)
    const broken = Float32Array.from({ length: positions.length / 3 }, (_, c) =>
      Number(inner[Math.floor(c / 3)]),
    )
    const geometry = new BufferGeometry()
    geometry.setAttribute('position', new BufferAttribute(positions, 3))
    geometry.setAttribute('normal', new BufferAttribute(normals, 3))
    geometry.setAttribute('inner', new BufferAttribute(broken, 1))
    batch.addInstance(batch.addGeometry(geometry))
  }
  return batch
}

/** The particles of one population, each drawn as its piece. */
export function drawPieces(meshOf: (source: MeshSource) => { mesh: CoreMesh } | undefined) {
  const object = new Group()
  /** By the number of the mesh in the shot. */
  const batches = new Map<number, { mesh: CoreMesh; size: Vector; batch: BatchedMesh }>()
  let shown: ShownParticles | null = null

  function batchFor(shot: Shot, n: number): BatchedMesh | null {
    const shotMesh = shot.meshes[n]
    const mesh = shotMesh && meshOf(shotMesh.source)?.mesh
    if (!shotMesh || !mesh?.pieces) return null
    const size = vectorAt(standing(shot, shotMesh).place.scale, shot.frames.first)
    const known = batches.get(n)
    if (known?.mesh === mesh && known.size.join() === size.join()) return known.batch
    remove(n)
    const batch = batchOfPieces(mesh, size)
    batches.set(n, { mesh, size, batch })
    object.add(batch)
    return batch
  }
  function remove(n: number): void {
    const known = batches.get(n)
    known?.batch.removeFromParent()
    known?.batch.dispose()
    batches.delete(n)
  }

  return {
    object,
    /** Shows them; false where their meshes are not here yet. */
    show(asked: ShownParticles): boolean {
      const { shot, population } = asked
      object.visible = false
      const { pieces } = population
      if (!pieces) return false
      const numbers = [...new Set(pieces)].filter((piece) => piece > 0).map(meshOfPiece)
      const ready = new Map([...new Set(numbers)].map((n) => [n, batchFor(shot, n)]))
      if (ready.size === 0 || [...ready.values()].includes(null)) return false
      object.visible = true
      if (sameShown(asked, shown)) return true
      shown = asked
      for (const batch of ready.values())
        for (let k = 0; k < batch!.instanceCount; k++) batch!.setVisibleAt(k, false)
      const isOwn = isAsItsMesh(asked)
      for (const [n, batch] of ready) {
        shine(batch!.material, asked.phases ? 0 : (asked.look.glow?.strength ?? 0))
        tintPieces(batch!.material as MeshStandardMaterial, shot.meshes[n]!.look, isOwn)
      }
      const colour = colourOf(asked)
      const [matrix, place, turn, one, tint] = [
        new Matrix4(),
        new Vector3(),
        new Quaternion(),
        new Vector3(1, 1, 1),
        new Vector4(),
      ]
      pieces.forEach((piece, i) => {
        if (piece === 0) return
        const batch = ready.get(meshOfPiece(piece))!
        const k = numberOfPiece(piece)
        place.fromArray(population.positions, i * 3)
        if (population.turns) turn.fromArray(population.turns, i * 4).normalize()
        batch.setMatrixAt(k, matrix.compose(place, turn, one))
        const [r, g, b] = [0, 1, 2].map((channel) => colour(i)[channel]!) as [number, number, number]
        batch.setColorAt(k, tint.set(r, g, b, population.traits[i * 4 + 1]! / 255))
        batch.setVisibleAt(k, true)
      })
      return true
    },
    dispose(): void {
      for (const n of [...batches.keys()]) remove(n)
    },
  }
}

/** A broken mesh in the Meshes step: pieces in tones of their own, pulled apart from its middle by a share of their distance. */
export function spreadPieces(mesh: CoreMesh, size: Vector) {
  const batch = batchOfPieces(mesh, size)
  const centres = massProperties(mesh, size).map(({ centre }) => centre)
  const middle = [0, 1, 2].map(
    (axis) => centres.reduce((sum, c) => sum + c[axis]!, 0) / Math.max(1, centres.length),
  )
  const tint = new Color()
  centres.forEach((_, k) =>
    batch.setColorAt(
      k,
      tint.setHSL(0.04 + 0.1 * ((k * 0.618034) % 1), 0.35, 0.5 + 0.22 * ((k * 0.754878) % 1)),
    ),
  )
  const seeds = new Points(
    new BufferGeometry().setAttribute('position', new BufferAttribute(mesh.pieces!.seeds, 3)),
    new PointsMaterial({
      color: SEED,
      // hundreds would hide the pieces
      size: centres.length > MANY ? 1.5 : 3,
      sizeAttenuation: false,
      depthTest: false,
      transparent: true,
      opacity: 0.6,
    }),
  )
  seeds.renderOrder = 2
  batch.add(seeds)
  let apart = NaN
  return {
    object: batch,
    /** @param selected whether its seeds are shown, too */
    spread(share: number, selected: boolean): void {
      seeds.visible = selected
      if (share === apart) return
      apart = share
      const matrix = new Matrix4()
      centres.forEach((c, k) => {
        const [x, y, z] = [0, 1, 2].map((axis) => c[axis]! + share * (c[axis]! - middle[axis]!)) as Vector
        batch.setMatrixAt(k, matrix.makeTranslation(x, y, z))
      })
    },
  }
}
