/** What meshes are made of, on the stage. */
import type { MeshLook } from '@tangle/core'
import {
  Color,
  DoubleSide,
  MeshPhysicalMaterial,
  MeshStandardMaterial,
  type Mesh,
  type Object3D,
} from 'three'
import { paintIn } from './paint.ts'

/** Drawn before all else that has depth: what lies behind is hidden, and nothing of it is seen. */
const FIRST = -8

/** Refraction of glass. */
const GLASS = 1.5

/** Gives a mesh the look that its document has. `inside` are the faces of a cut. */
export function dress(object: Object3D, look: MeshLook, inside = false): void {
  const mesh = object as Mesh<Mesh['geometry'], MeshStandardMaterial>
  const known = mesh.userData as { dressed?: MeshLook; drawn?: MeshLook['drawn'] }
  mesh.userData.drawn = look.drawn
  if (known.dressed === look) return
  known.dressed = look
  mesh.material = suited(mesh.material, look)
  const { material } = mesh
  const alone = look.drawn !== 'seen'
  // another look was seen through by itself
  delete material.userData.solid
  Object.assign(material, {
    ...coloursOf(mesh, look),
    ...(inside && { color: new Color(look.inner) }),
    roughness: look.roughness,
    metalness: look.metalness,
    opacity: look.opacity,
    transparent: look.opacity < 1,
    // what faces the sun throws it: the other side would leave light where a mesh touches the ground
    shadowSide: DoubleSide,
    colorWrite: !alone,
    depthWrite: look.drawn === 'holdout' || (!alone && look.opacity === 1),
    needsUpdate: true,
  })
  if (material instanceof MeshPhysicalMaterial)
    Object.assign(material, { transmission: look.glass, ior: GLASS })
  mesh.renderOrder = look.drawn === 'holdout' ? FIRST : 0
}

/** Which colours its material takes: one, those of its vertices or those of its file. */
function coloursOf({ geometry, material }: Mesh<Mesh['geometry'], MeshStandardMaterial>, look: MeshLook) {
  const vertexColors = look.colours !== 'own' && geometry.getAttribute('color') !== undefined
  const paint = paintIn(material)
  const isPainted = look.colours === 'materials' && paint !== undefined
  if (paint) paint.painted.value = isPainted ? 1 : 0
  return {
    color: new Color(vertexColors || isPainted ? '#ffffff' : look.colour),
    vertexColors,
    // what is cut out of a picture is not there
    alphaTest: isPainted && paint.cutOut ? 0.5 : 0,
  }
}

const PLAIN = { color: new Color('#ffffff'), vertexColors: false, alphaTest: 0 }
/** Gives what is drawn of particles what its mesh is made of, and its colours, unless something colours particles. */
export function dressInstances(
  object: Mesh<Mesh['geometry'], MeshStandardMaterial>,
  look: MeshLook,
  isColoured: boolean,
): void {
  const { material } = object
  const { roughness, metalness } = look
  const paint = paintIn(material)
  const colours = isColoured ? PLAIN : coloursOf(object, look)
  if (paint && isColoured) paint.painted.value = 0
  material.needsUpdate =
    material.vertexColors !== colours.vertexColors || material.alphaTest !== colours.alphaTest
  Object.assign(material, { roughness, metalness, ...colours })
}

/** Glass is another material, with what the one before had of the program. */
function suited(material: MeshStandardMaterial, { glass }: MeshLook): MeshStandardMaterial {
  if (glass > 0 === material instanceof MeshPhysicalMaterial) return material
  const next = glass > 0 ? new MeshPhysicalMaterial() : new MeshStandardMaterial()
  const { defines } = next
  MeshStandardMaterial.prototype.copy.call(next, material)
  // copied as a standard material it would have the program of one, which knows no refraction
  next.defines = defines
  next.onBeforeCompile = material.onBeforeCompile
  next.userData = material.userData
  next.customProgramCacheKey = material.customProgramCacheKey
  material.dispose()
  return next
}

/** What throws shadows and takes them, of all that stands in a group. */
export function castShadows(group: Object3D, on: boolean, ghosted: boolean): void {
  group.traverse((object) => {
    const { drawn } = object.userData as { drawn?: MeshLook['drawn'] }
    object.castShadow = on && !ghosted && drawn !== 'holdout'
    object.receiveShadow = on
  })
}
