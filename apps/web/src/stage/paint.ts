/** Meshes in the colours and pictures of the materials that their file has. */
import type { Mesh as CoreMesh } from '@tangle/core'
import type { FileMaterial } from '@tangle/runtime/browser'
import {
  BufferAttribute,
  DataArrayTexture,
  LinearMipmapLinearFilter,
  RepeatWrapping,
  RGBAFormat,
  SRGBColorSpace,
  type BufferGeometry,
  type Material,
  type MeshStandardMaterial,
} from 'three'
import type { LoadedMesh } from '../engine/library.ts'

/** Sides of a picture, pixels: the longest, and what all of a mesh have together. */
const [LONGEST, MOST] = [2048, 2 ** 26]
/** Pictures that graphics hold at least (OpenGL ES 3.0). */
const LAYERS = 256

export interface Paint {
  /** Of each corner: u, v and which picture. */
  layered: BufferAttribute
  tint: BufferAttribute
  texture: DataArrayTexture
  cutOut: boolean
}

const made = new WeakMap<CoreMesh, Paint | null>()
/**
 * The pictures that a mesh is painted with, and where on them and in which tint each corner is; null where its file has no materials.
 * @param came is called when pictures are there
 */
export function paintOf(loaded: LoadedMesh, came: () => void): Paint | null {
  if (!made.has(loaded.mesh)) made.set(loaded.mesh, makePaint(loaded, came))
  return made.get(loaded.mesh)!
}

function makePaint({ mesh, materials: files = [] }: LoadedMesh, came: () => void): Paint | null {
  const { materials, uvs, triangles } = mesh
  if (!materials || files.length === 0) return null
  const pictures = [...new Set(files.flatMap(({ picture }) => picture?.bytes ?? []))].slice(0, LAYERS - 1)
  const layerOf = files.map(({ picture }) => (picture && uvs ? pictures.indexOf(picture.bytes) + 1 : 0))
  const layered = new Float32Array(triangles.length * 3)
  const tint = new Float32Array(triangles.length * 3)
  for (let c = 0; c < triangles.length; c++) {
    const one = materials[Math.floor(c / 3)]!
    const { colour, transform } = files[one]!
    const [u, v] = uvs ? [uvs[c * 2]!, 1 - uvs[c * 2 + 1]!] : [0, 0]
    const [x, y] = [0, 3].map((row) => transform[row]! * u + transform[row + 1]! * v + transform[row + 2]!)
    layered.set([x!, y!, layerOf[one]!], c * 3)
    tint.set(colour, c * 3)
  }
  return {
    layered: new BufferAttribute(layered, 3),
    tint: new BufferAttribute(tint, 3),
    texture: textureOf(files, pictures, came),
    cutOut: files.some(({ cutOut, picture }) => cutOut && picture),
  }
}

/** White until they are there. */
function textureOf(
  files: FileMaterial[],
  pictures: Uint8Array<ArrayBuffer>[],
  came: () => void,
): DataArrayTexture {
  const texture = arrayOf(
    1,
    [...pictures, null].map(() => WHITE),
  )
  if (pictures.length === 0) return texture
  const types = new Map(files.flatMap(({ picture }) => (picture ? [[picture.bytes, picture.type]] : [])))
  void decoded(pictures.map((bytes) => new Blob([bytes], { type: types.get(bytes)! }))).then(
    ({ size, layers }) => {
      texture.dispose()
      texture.image = { data: together(size, layers), width: size, height: size, depth: layers.length }
      texture.needsUpdate = true
      came()
    },
  )
  return texture
}

type Pixels = Uint8ClampedArray | Uint8Array
const WHITE = new Uint8Array(4).fill(255)

function arrayOf(size: number, layers: Pixels[]): DataArrayTexture {
  const texture = new DataArrayTexture(together(size, layers), size, size, layers.length)
  return Object.assign(texture, {
    format: RGBAFormat,
    colorSpace: SRGBColorSpace,
    wrapS: RepeatWrapping,
    wrapT: RepeatWrapping,
    minFilter: LinearMipmapLinearFilter,
    generateMipmaps: true,
    anisotropy: 4,
    needsUpdate: true,
  })
}

function together(size: number, layers: Pixels[]): Uint8Array<ArrayBuffer> {
  const all = new Uint8Array(size * size * 4 * layers.length)
  layers.forEach((pixels, n) => all.set(pixels, n * size * size * 4))
  return all
}

/** White, and pictures at one size; one that cannot be read is white, too. */
async function decoded(files: Blob[]): Promise<{ size: number; layers: Pixels[] }> {
  const bitmaps = await Promise.all(files.map((file) => createImageBitmap(file).catch(() => null)))
  const widest = Math.max(1, ...bitmaps.map((one) => Math.max(one?.width ?? 1, one?.height ?? 1)))
  const fits = Math.floor(Math.log2(Math.sqrt(MOST / (files.length + 1))))
  const size = 2 ** Math.min(Math.ceil(Math.log2(Math.min(widest, LONGEST))), fits)
  const context = new OffscreenCanvas(size, size).getContext('2d', { willReadFrequently: true })!
  const layers = [null, ...bitmaps].map((bitmap) => {
    context.clearRect(0, 0, size, size)
    if (bitmap) context.drawImage(bitmap, 0, 0, size, size)
    else {
      context.fillStyle = '#fff'
      context.fillRect(0, 0, size, size)
    }
    bitmap?.close()
    return context.getImageData(0, 0, size, size).data
  })
  return { size, layers }
}

/** What a material knows of its paint. */
export interface Painted {
  cutOut: boolean
  /** 1: it shows it. */
  painted: { value: number }
  texture: DataArrayTexture
}
/** The paint of a material, where it has some. */
export const paintIn = ({ userData }: Material): Painted | undefined => userData.paint as Painted | undefined

/** Gives a geometry whose triangles have corners of their own its paint, and lets its material show it where `painted` is 1. */
export function takePaint(geometry: BufferGeometry, material: MeshStandardMaterial, paint: Paint): void {
  geometry.setAttribute('layered', paint.layered)
  geometry.setAttribute('tint', paint.tint)
  if (paintIn(material)) return
  const painted = { value: 0 }
  material.userData.paint = { cutOut: paint.cutOut, painted, texture: paint.texture } satisfies Painted
  const { onBeforeCompile } = material
  const before = material.customProgramCacheKey()
  material.onBeforeCompile = (shader, renderer) => {
    onBeforeCompile.call(material, shader, renderer)
    Object.assign(shader.uniforms, { painted, pictures: { value: paint.texture } })
    const varyings = 'varying vec3 vLayered; varying vec3 vTint;'
    shader.vertexShader = shader.vertexShader
      .replace(
        '#include <common>',
        `#include <common>\nattribute vec3 layered; attribute vec3 tint; ${varyings}`,
      )
      .replace('#include <begin_vertex>', '#include <begin_vertex>\nvLayered = layered; vTint = tint;')
    shader.fragmentShader = shader.fragmentShader
      .replace(
        '#include <common>',
        `#include <common>\nuniform mediump sampler2DArray pictures; uniform float painted; ${varyings}`,
      )
      .replace(
        '#include <map_fragment>',
        'if (painted > 0.5) diffuseColor *= texture(pictures, vLayered) * vec4(vTint, 1.0);',
      )
  }
  // another program than that of who has none
  material.customProgramCacheKey = () => `painted ${before}`
  material.needsUpdate = true
}
