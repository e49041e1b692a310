/** Sets of numbers that are joined, each known by its lowest (union–find: Tarjan, "Efficiency of a good but not linear set union algorithm", 1975). */
export interface DisjointSets {
  /** The lowest number of the set that one is in. */
  rootOf(i: number): number
  join(a: number, b: number): void
}

/** @param count numbers from 0, each at first a set of its own */
export function disjointSets(count: number): DisjointSets {
  const roots = Int32Array.from({ length: count }, (_, i) => i)
  const rootOf = (i: number): number => {
    while (roots[i] !== i) i = roots[i] = roots[roots[i]!]!
    return i
  }
  return {
    rootOf,
    join(a, b) {
      const [x, y] = [rootOf(a), rootOf(b)]
      roots[Math.max(x, y)] = Math.min(x, y)
    },
  }
}
