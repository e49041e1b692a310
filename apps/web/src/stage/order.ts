/** Layers of depth that are told apart. */
const LAYERS = 4096

/**
 * Which particles are drawn one after the other, so that nearer ones come over farther ones: by layers of depth, for a
 * million are put in order within a picture. Within a layer they keep their order.
 * @param positions x, y, z of each
 * @param ahead where one looks, a unit vector
 */
export function farFirst(positions: ArrayLike<number>, count: number, ahead: ArrayLike<number>): Uint32Array {
  const [x, y, z] = [ahead[0]!, ahead[1]!, ahead[2]!]
  const depths = new Float32Array(count)
  let [near, far] = [Infinity, -Infinity]
  for (let i = 0, k = 0; i < count; i++, k += 3) {
    const depth = positions[k]! * x + positions[k + 1]! * y + positions[k + 2]! * z
    depths[i] = depth
    if (depth < near) near = depth
    if (depth > far) far = depth
  }
  const scale = far > near ? (LAYERS - 1) / (far - near) : 0
  const layers = new Uint16Array(count)
  const starts = new Uint32Array(LAYERS + 1)
  for (let i = 0; i < count; i++) {
    layers[i] = (far - depths[i]!) * scale
    starts[layers[i]! + 1]!++
  }
  for (let layer = 0; layer < LAYERS; layer++) starts[layer + 1]! += starts[layer]!
  const order = new Uint32Array(count)
  for (let i = 0; i < count; i++) order[starts[layers[i]!]!++] = i
  return order
}
