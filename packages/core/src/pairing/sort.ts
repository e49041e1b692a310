/** Indices of `keys` in rising order; equal keys keep theirs. Radix sort, linear in their number. */
export function orderOf(keys: Float32Array): Uint32Array {
  const words = new Uint32Array(keys.length)
  const raw = new Uint32Array(keys.buffer, keys.byteOffset, keys.length)
  // the bits of floats rise with them once negative ones are turned over
  for (let i = 0; i < words.length; i++) words[i] = raw[i]! & 0x80000000 ? ~raw[i]! : raw[i]! | 0x80000000
  return orderOfWords(words)
}

/** The same for whole numbers. */
export function orderOfWords(words: Uint32Array): Uint32Array {
  const n = words.length
  let order = Uint32Array.from({ length: n }, (_, i) => i)
  let next = new Uint32Array(n)
  const first = new Uint32Array(2049)
  for (let shift = 0; shift < 32; shift += 11) {
    first.fill(0)
    for (let i = 0; i < n; i++) first[((words[i]! >>> shift) & 2047) + 1]!++
    if (first.includes(n)) continue
    for (let b = 0; b < 2048; b++) first[b + 1]! += first[b]!
    for (let k = 0; k < n; k++) {
      const i = order[k]!
      next[first[(words[i]! >>> shift) & 2047]!++] = i
    }
    ;[order, next] = [next, order]
  }
  return order
}

/** The same to one part in 65 536 of the span of the keys, in one pass; equal keys keep their order. */
export function roughOrderOf(keys: Float32Array): Uint32Array {
  let low = Infinity
  let high = -Infinity
  for (const key of keys) {
    if (key < low) low = key
    if (key > high) high = key
  }
  const scale = 65535 / (high - low || 1)
  const places = new Uint16Array(keys.length)
  for (let i = 0; i < keys.length; i++) places[i] = (keys[i]! - low) * scale
  const first = new Uint32Array(65537)
  for (const place of places) first[place + 1]!++
  for (let b = 0; b < 65536; b++) first[b + 1]! += first[b]!
  const order = new Uint32Array(keys.length)
  for (let i = 0; i < keys.length; i++) order[first[places[i]!]!++] = i
  return order
}
