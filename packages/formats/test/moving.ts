/** GLB files in which something moves. */
import { Document, WebIO } from '@gltf-transform/core'

/** A document with one animation; what moves is added by tests. */
export function begun() {
  const document = new Document()
  const buffer = document.createBuffer()
  const scene = document.createScene()
  document.getRoot().setDefaultScene(scene)
  const animation = document.createAnimation('move')
  const accessor = (
    type: 'SCALAR' | 'VEC3' | 'VEC4' | 'MAT4',
    array: Float32Array | Uint16Array | Uint32Array,
  ) =>
    document
      .createAccessor()
      .setType(type)
      .setArray(array as never)
      .setBuffer(buffer)
  const animate = (
    node: never,
    path: string,
    times: number[],
    values: number[],
    interpolation = 'LINEAR',
    type: 'SCALAR' | 'VEC3' | 'VEC4' = path === 'rotation' ? 'VEC4' : path === 'weights' ? 'SCALAR' : 'VEC3',
  ) => {
    const sampler = document
      .createAnimationSampler()
      .setInput(accessor('SCALAR', Float32Array.from(times)))
      .setOutput(accessor(type, Float32Array.from(values)))
      .setInterpolation(interpolation as 'LINEAR')
    animation.addSampler(sampler).addChannel(
      document
        .createAnimationChannel()
        .setTargetNode(node)
        .setTargetPath(path as 'rotation')
        .setSampler(sampler),
    )
  }
  return { document, scene, accessor, animate, bytes: () => new WebIO().writeBinary(document) }
}
// a strip of quads along y, so that a skin can bend it
const HEIGHT = 8
export const strip = {
  positions: Float32Array.from(
    { length: (HEIGHT + 1) * 6 },
    (_, k) => [(Math.floor(k / 3) % 2) - 0.5, Math.floor(k / 6) / HEIGHT, 0.1 * Math.floor(k / 6)][k % 3]!,
  ),
  indices: Uint32Array.from(
    { length: HEIGHT * 6 },
    (_, k) => 2 * Math.floor(k / 6) + [0, 1, 2, 1, 3, 2][k % 6]!,
  ),
}
const half = Math.SQRT1_2

/** The strip as a mesh of the document. */
export const stripMesh = (document: Document, accessor: ReturnType<typeof begun>['accessor']) =>
  document
    .createMesh()
    .addPrimitive(
      document
        .createPrimitive()
        .setAttribute('POSITION', accessor('VEC3', strip.positions))
        .setIndices(accessor('SCALAR', strip.indices)),
    )

export const files: Record<string, () => Promise<Uint8Array>> = {
  'nodes that hang on one another, moved, turned and scaled'() {
    const { document, scene, accessor, animate, bytes } = begun()
    const mesh = stripMesh(document, accessor)
    const child = document.createNode('child').setMesh(mesh).setTranslation([0, 1, 0]).setScale([1, 2, 1])
    const parent = document.createNode('parent').addChild(child).setTranslation([1, 0, 0])
    scene.addChild(parent)
    animate(parent as never, 'rotation', [0, 0.5, 1.5], [0, 0, 0, 1, 0, half, 0, half, 0, 0, half, half])
    animate(parent as never, 'translation', [0, 1], [1, 0, 0, 4, 2, 0])
    animate(child as never, 'scale', [0.2, 1.2], [1, 2, 1, 3, 1, 1])
    return bytes()
  },
  'steps and cubic splines'() {
    const { document, scene, accessor, animate, bytes } = begun()
    const mesh = stripMesh(document, accessor)
    const node = document.createNode('node').setMesh(mesh)
    scene.addChild(node)
    animate(
      node as never,
      'translation',
      [0, 1, 2],
      [0, 0, 0, 0, 0, 0, 3, 0, 0, 1, 1, 0, 1, 2, 0, -2, 0, 1, 0, 1, 0, 2, 0, 0, 0, 0, 0],
      'CUBICSPLINE',
    )
    animate(node as never, 'scale', [0, 0.75, 1.5], [1, 1, 1, 2, 2, 2, 1, 3, 1], 'STEP')
    return bytes()
  },
  'a skin with two joints, weights over both'() {
    const { document, scene, accessor, animate, bytes } = begun()
    const count = strip.positions.length / 3
    const joints = Uint16Array.from({ length: count * 4 }, (_, k) => [0, 1, 0, 0][k % 4]!)
    const weights = Float32Array.from({ length: count * 4 }, (_, k) => {
      const up = Math.floor(k / 8) / HEIGHT
      return [1 - up, up, 0, 0][k % 4]!
    })
    const primitive = document
      .createPrimitive()
      .setAttribute('POSITION', accessor('VEC3', strip.positions))
      .setAttribute('JOINTS_0', accessor('VEC4', joints))
      .setAttribute('WEIGHTS_0', accessor('VEC4', weights))
      .setIndices(accessor('SCALAR', strip.indices))
    const tip = document.createNode('tip').setTranslation([0, 0.5, 0])
    const root = document.createNode('root').addChild(tip).setTranslation([0, 0, 0.3])
    const skin = document.createSkin().addJoint(root).addJoint(tip).setSkeleton(root)
    skin.setInverseBindMatrices(
      accessor(
        'MAT4',
        Float32Array.from([
          1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, -0.3, 1, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, -0.5,
          -0.3, 1,
        ]),
      ),
    )
    // the node of a skinned mesh has no say in where it is
    const node = document
      .createNode('body')
      .setMesh(document.createMesh().addPrimitive(primitive))
      .setSkin(skin)
    scene.addChild(root).addChild(node)
    animate(tip as never, 'rotation', [0, 1, 2], [0, 0, 0, 1, 0, 0, half, half, half, 0, 0, half])
    animate(root as never, 'translation', [0, 2], [0, 0, 0.3, 1, 0, 0.3])
    return bytes()
  },
  'morph targets on a node that moves'() {
    const { document, scene, accessor, animate, bytes } = begun()
    const target = (way: number[]) =>
      document.createPrimitiveTarget().setAttribute(
        'POSITION',
        accessor(
          'VEC3',
          Float32Array.from(strip.positions, (y, k) => way[k % 3]! * (k % 2) + y * 0.1),
        ),
      )
    const primitive = document
      .createPrimitive()
      .setAttribute('POSITION', accessor('VEC3', strip.positions))
      .setIndices(accessor('SCALAR', strip.indices))
      .addTarget(target([0, 0, 1]))
      .addTarget(target([0.5, 0.2, 0]))
    const node = document
      .createNode('face')
      .setMesh(document.createMesh().addPrimitive(primitive).setWeights([0, 0]))
    scene.addChild(node)
    animate(node as never, 'weights', [0, 0.5, 2], [0, 0.2, 1, 0, 0.3, 0.9])
    animate(node as never, 'translation', [0, 2], [0, 0, 0, 0, 3, 0])
    return bytes()
  },
}
