/** Meshes that were made of others, kept in the browser by what they follow from: a shot that is opened again has its pieces at once. */
import { createStore, del, entries, get, set, type UseStore } from 'idb-keyval'
import type { MadeMesh } from '../shared/derived.ts'

/** So many are kept at the most, those that were asked for last. */
const MOST = 24

interface Kept {
  made: MadeMesh
  /** Milliseconds since 1970 when it was last asked for. */
  asked: number
}

/** What can't be kept is made anew: a browser may have no room, or keep nothing for this page. */
async function orElse<T>(otherwise: T, work: () => Promise<T>): Promise<T> {
  try {
    return await work()
  } catch {
    return otherwise
  }
}

/** @param maker names the program that makes them: what another one made is thrown away */
export function madeMeshes(maker: string, now = Date.now) {
  let opened: UseStore | undefined
  const store = (): UseStore => (opened ??= createStore('tangle-made-meshes', 'meshes'))
  const nameOf = (key: string): string => `${maker} ${key}`
  return {
    find: (key: string): Promise<MadeMesh | undefined> =>
      orElse(undefined, async () => {
        const found = await get<Kept>(nameOf(key), store())
        if (found) await set(nameOf(key), { ...found, asked: now() }, store())
        return found?.made
      }),
    keep: (made: MadeMesh): Promise<void> =>
      orElse(undefined, async () => {
        await set(nameOf(made.key), { made, asked: now() } satisfies Kept, store())
        const all = (await entries<string, Kept>(store())).sort(([, a], [, b]) => b.asked - a.asked)
        const old = all.filter(([name], n) => n >= MOST || !name.startsWith(`${maker} `))
        for (const [name] of old) await del(name, store())
      }),
  }
}
