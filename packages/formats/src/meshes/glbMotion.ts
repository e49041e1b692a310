/**
 * The motion of a GLB: nodes that are animated, skins and morph targets, brought to one form, joints that vertices follow (a node without a skin is the
 * joint of its meshes). Animations that move different things run together; of several for the same thing the first counts.
 * Source: glTF 2.0, §3.7.3 (skins), §3.7.2.2 (morph targets), §3.11 and appendix C (animations).
 */
import type { Animation, AnimationSampler, Document, Node, Primitive } from '@gltf-transform/core'
import type { MeshMotion } from '@tangle/core'
import { FormatFault } from '../fault.ts'

/** Samples a second: what turns once a second, a metre across, is off by less than 0.2 mm between them. */
const RATE = 120
const LEAST_RATE = 24
/** Bytes of maps and amounts at most; what is longer has fewer samples. */
const MOST_BYTES = 2 ** 28

/** Bytes of the ways to morph targets at most. */
const MOST_TARGET_BYTES = 2 ** 30

type Matrix = number[] // 16, column by column

/** What one primitive has, vertex by vertex. */
export interface MovedPart {
  node: Node
  primitive: Primitive
}

/** Null where nothing is animated. @throws FormatFault */
export function motionOfGlb(document: Document, parts: MovedPart[]): MeshMotion | null {
  const channels = channelsOf(document.getRoot().listAnimations())
  const seconds = Math.max(0, ...[...channels.values()].map(({ times }) => times.at(-1)!))
  if (seconds === 0) return null
  const skinning = skinningOf(parts)
  const numbers = 12 * skinning.joints.length + skinning.targets.length
  const most = Math.min(RATE, Math.floor(MOST_BYTES / 4 / numbers / (seconds + 1)))
  if (most < LEAST_RATE)
    throw new FormatFault(
      'animation',
      `takes ${Math.round(seconds)} s, too long for what moves in it: cut it into pieces`,
    )
  // whole samples, so that what begins again does so where it ends
  const count = Math.max(2, Math.ceil(seconds * most - 1e-6) + 1)
  const rate = (count - 1) / seconds
  const maps = new Float32Array(count * skinning.joints.length * 12)
  const amounts = new Float32Array(count * skinning.targets.length)
  for (let sample = 0; sample < count; sample++) {
    const pose = poseAt(channels, Math.min(seconds, sample / rate))
    skinning.joints.forEach(({ node, inverse }, j) => {
      const m = inverse ? times(pose.world(node), inverse) : pose.world(node)
      for (let row = 0; row < 3; row++)
        for (let column = 0; column < 4; column++)
          maps[(sample * skinning.joints.length + j) * 12 + row * 4 + column] = m[column * 4 + row]!
    })
    skinning.targets.forEach(({ node, target }, k) => {
      amounts[sample * skinning.targets.length + k] = pose.weights(node)[target] ?? 0
    })
  }
  if (!maps.every(Number.isFinite) || !amounts.every(Number.isFinite))
    throw new FormatFault('animation', 'has values that are no numbers')
  const { base, width, indices, weights } = skinning
  return {
    rate,
    count,
    middles: new Uint32Array(0),
    by: {
      base,
      width,
      joints: indices,
      weights,
      maps,
      targets: skinning.targets.map(({ deltas }) => deltas),
      amounts,
    },
  }
}

// ---- animations

interface Channel {
  times: ArrayLike<number> & { at(index: number): number | undefined }
  values: number[][]
  interpolation: string
  rotates: boolean
}
type Path = 'translation' | 'rotation' | 'scale' | 'weights'
type Channels = Map<string, Channel>

const numbers = new WeakMap<Node, number>()
let numbered = 0
function keyOf(node: Node, path: Path): string {
  if (!numbers.has(node)) numbers.set(node, numbered++)
  return `${numbers.get(node)} ${path}`
}

function channelsOf(animations: Animation[]): Channels {
  const all: Channels = new Map()
  for (const animation of animations) {
    const own: [string, Channel][] = []
    for (const channel of animation.listChannels()) {
      const [node, path, sampler] = [channel.getTargetNode(), channel.getTargetPath(), channel.getSampler()]
      if (!node || !path || !sampler) continue
      own.push([keyOf(node, path), readChannel(sampler, path, animation.getName() || 'an animation')])
    }
    if (own.some(([key]) => all.has(key))) continue
    for (const [key, channel] of own) all.set(key, channel)
  }
  return all
}

function readChannel(sampler: AnimationSampler, path: Path, name: string): Channel {
  const [input, output] = [sampler.getInput(), sampler.getOutput()]
  const times = Float64Array.from(input?.getArray() ?? [])
  if (!output || times.length === 0) throw new FormatFault(name, `has no values for ${path}`)
  if (!times.every((time, k) => Number.isFinite(time) && time >= 0 && (k === 0 || time > times[k - 1]!)))
    throw new FormatFault(name, `has times for ${path} that do not rise`)
  const interpolation = sampler.getInterpolation()
  const perTime = output.getCount() / times.length
  if (!Number.isInteger(perTime))
    throw new FormatFault(name, `has ${output.getCount()} values of ${path} for ${times.length} times`)
  const element: number[] = []
  const flat = Array.from({ length: output.getCount() }, (_, k) => [...output.getElement(k, element)])
  // weights have one number an element, as many elements a time as there are targets
  const spline = interpolation === 'CUBICSPLINE'
  const perValue = spline ? perTime / 3 : perTime
  const values = Array.from({ length: flat.length / perValue }, (_, k) =>
    flat.slice(k * perValue, (k + 1) * perValue).flat(),
  )
  return { times, values, interpolation, rotates: path === 'rotation' }
}

function valueAt({ times, values, interpolation, rotates }: Channel, time: number): number[] {
  const spline = interpolation === 'CUBICSPLINE'
  const value = (k: number): number[] => values[spline ? 3 * k + 1 : k]!
  // the last key that is not later
  let [k, above] = [0, times.length]
  while (above - k > 1) {
    const middle = (k + above) >> 1
    if (times[middle]! <= time) k = middle
    else above = middle
  }
  if (time <= times[0]! || k + 1 >= times.length || interpolation === 'STEP') return value(k)
  const span = times[k + 1]! - times[k]!
  const t = (time - times[k]!) / span
  const [a, b] = [value(k), value(k + 1)]
  if (spline) {
    const [out, into] = [values[3 * k + 2]!, values[3 * (k + 1)]!]
    const [t2, t3] = [t * t, t * t * t]
    const found = a.map(
      (x, n) =>
        (2 * t3 - 3 * t2 + 1) * x +
        span * (t3 - 2 * t2 + t) * out[n]! +
        (3 * t2 - 2 * t3) * b[n]! +
        span * (t3 - t2) * into[n]!,
    )
    return rotates ? unit(found) : found
  }
  return rotates ? slerp(a, b, t) : a.map((x, n) => x + (b[n]! - x) * t)
}

const unit = (q: number[]): number[] => {
  const length = Math.hypot(...q) || 1
  return q.map((x) => x / length)
}

function slerp(a: number[], b: number[], t: number): number[] {
  const dot = a.reduce((sum, x, n) => sum + x * b[n]!, 0)
  const to = dot < 0 ? b.map((x) => -x) : b
  const cosine = Math.min(1, Math.abs(dot))
  const angle = Math.acos(cosine)
  if (angle < 1e-6) return unit(a.map((x, n) => x + (to[n]! - x) * t))
  const [p, q] = [Math.sin((1 - t) * angle) / Math.sin(angle), Math.sin(t * angle) / Math.sin(angle)]
  return a.map((x, n) => p * x + q * to[n]!)
}

/** Where nodes are at a time, and how far their targets are gone. */
function poseAt(channels: Channels, time: number) {
  const known = new Map<Node, Matrix>()
  const of = (node: Node, path: Path, otherwise: number[]): number[] => {
    const channel = channels.get(keyOf(node, path))
    return channel ? valueAt(channel, time) : otherwise
  }
  function world(node: Node): Matrix {
    const found = known.get(node)
    if (found) return found
    const local = composed(
      of(node, 'translation', node.getTranslation()),
      of(node, 'rotation', node.getRotation()),
      of(node, 'scale', node.getScale()),
    )
    const parent = node.getParentNode()
    const made = parent ? times(world(parent), local) : local
    known.set(node, made)
    return made
  }
  const weights = (node: Node): number[] => {
    const own = node.getWeights()
    return of(node, 'weights', own.length > 0 ? own : (node.getMesh()?.getWeights() ?? []))
  }
  return { world, weights }
}

function composed([tx, ty, tz]: number[], [x, y, z, w]: number[], [sx, sy, sz]: number[]): Matrix {
  const q = [x!, y!, z!, w!] as const
  const [a, b, c, d] = q
  return [
    (1 - 2 * (b * b + c * c)) * sx!, 2 * (a * b + c * d) * sx!, 2 * (a * c - b * d) * sx!, 0,
    2 * (a * b - c * d) * sy!, (1 - 2 * (a * a + c * c)) * sy!, 2 * (b * c + a * d) * sy!, 0,
    2 * (a * c + b * d) * sz!, 2 * (b * c - a * d) * sz!, (1 - 2 * (a * a + b * b)) * sz!, 0,
    tx!, ty!, tz!, 1,
  ] // prettier-ignore
}

const times = (a: Matrix, b: Matrix): Matrix =>
  Array.from({ length: 16 }, (_, n) => {
    const [column, row] = [n >> 2, n & 3]
    return [0, 1, 2, 3].reduce((sum, k) => sum + a[k * 4 + row]! * b[column * 4 + k]!, 0)
  })

// ---- vertices

interface Skinning {
  base: Float32Array
  width: number
  indices: Uint32Array
  weights: Float32Array
  joints: { node: Node; inverse: Matrix | null }[]
  targets: { node: Node; target: number; deltas: Float32Array }[]
}

/** All vertices of the parts, in their order. */
function skinningOf(parts: MovedPart[]): Skinning {
  const counts = parts.map(({ primitive }) => primitive.getAttribute('POSITION')!.getCount())
  const total = counts.reduce((sum, count) => sum + count, 0)
  const targets = parts.reduce((sum, { primitive }) => sum + primitive.listTargets().length, 0)
  if (targets * total * 12 > MOST_TARGET_BYTES)
    throw new FormatFault(
      'GLB',
      `has ${targets} morph targets of ${total} vertices in all, more than there is memory for: leave some out`,
    )
  const width = Math.max(
    1,
    ...parts.map(({ node, primitive }) => (node.getSkin() ? 4 * setsOf(primitive) : 1)),
  )
  const out: Skinning = {
    base: new Float32Array(total * 3),
    width,
    indices: new Uint32Array(total * width),
    weights: new Float32Array(total * width),
    joints: [],
    targets: [],
  }
  let first = 0
  parts.forEach((part, n) => {
    addBase(out, part, first)
    addJoints(out, part, first)
    addTargets(out, part, first)
    first += counts[n]!
  })
  return out
}

const setsOf = (primitive: Primitive): number => {
  let sets = 0
  while (primitive.getAttribute(`JOINTS_${sets}`) && primitive.getAttribute(`WEIGHTS_${sets}`)) sets++
  return sets
}

function addBase({ base }: Skinning, { primitive }: MovedPart, first: number): void {
  const accessor = primitive.getAttribute('POSITION')!
  const p: number[] = []
  for (let i = 0; i < accessor.getCount(); i++) base.set(accessor.getElement(i, p), (first + i) * 3)
}

function addJoints(
  { joints, indices, weights, width }: Skinning,
  { node, primitive }: MovedPart,
  first: number,
): void {
  const count = primitive.getAttribute('POSITION')!.getCount()
  const skin = node.getSkin()
  const from = joints.length
  if (!skin || setsOf(primitive) === 0) {
    joints.push({ node, inverse: null })
    for (let i = 0; i < count; i++) {
      indices[(first + i) * width] = from
      weights[(first + i) * width] = 1
    }
    return
  }
  const binds = skin.getInverseBindMatrices()
  skin
    .listJoints()
    .forEach((joint, k) => joints.push({ node: joint, inverse: binds ? [...binds.getElement(k, [])] : null }))
  for (let set = 0; set < setsOf(primitive); set++) {
    const [which, much] = [
      primitive.getAttribute(`JOINTS_${set}`)!,
      primitive.getAttribute(`WEIGHTS_${set}`)!,
    ]
    const [j, w]: [number[], number[]] = [[], []]
    for (let i = 0; i < count; i++) {
      which.getElement(i, j)
      much.getElement(i, w)
      for (let k = 0; k < 4; k++) {
        if (w[k] === 0) continue
        if (!(j[k]! < joints.length - from))
          throw new FormatFault(
            `vertex ${i} of "${node.getName()}"`,
            `follows joint ${j[k]}, but there are ${joints.length - from}`,
          )
        indices[(first + i) * width + set * 4 + k] = from + j[k]!
        weights[(first + i) * width + set * 4 + k] = w[k]!
      }
    }
  }
  normalise(weights, first, count, width)
}

/** Weights of a vertex sum to 1; in files that holds nearly. */
function normalise(weights: Float32Array, first: number, count: number, width: number): void {
  for (let v = first; v < first + count; v++) {
    const own = weights.subarray(v * width, (v + 1) * width)
    const sum = own.reduce((all, one) => all + one, 0)
    if (sum > 0) own.forEach((weight, k) => (own[k] = weight / sum))
    else own[0] = 1
  }
}

function addTargets({ targets, base }: Skinning, { node, primitive }: MovedPart, first: number): void {
  primitive.listTargets().forEach((target, k) => {
    const accessor = target.getAttribute('POSITION')
    if (!accessor) return
    const deltas = new Float32Array(base.length)
    const d: number[] = []
    for (let i = 0; i < accessor.getCount(); i++) deltas.set(accessor.getElement(i, d), (first + i) * 3)
    targets.push({ node, target: k, deltas })
  })
}
