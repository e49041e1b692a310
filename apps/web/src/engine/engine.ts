/**
 * The plain object behind the stage: playhead, clock, frames and meshes. The store holds only the
 * document; what changes many times a second lives here and is read when a frame is drawn.
 */
import type { Measures, Mesh, MeshFacts, Shot } from '@tangle/core'
import {
  createPreview,
  createTakePlayer,
  readMeshAside,
  type PackedPopulation,
  type Preview,
  type TakePlayer,
} from '@tangle/runtime/browser'

export interface LoadedMesh {
  mesh: Mesh
  facts: MeshFacts
}

const MEGABYTE = 2 ** 20
/** Share of the device's memory that preview frames may take, and the least and most of it. */
const frameBudget = (): number => {
  const device = (navigator as { deviceMemory?: number }).deviceMemory ?? 8
  return Math.min(3000, Math.max(400, device * 200)) * MEGABYTE
}
const threads = (): number => Math.max(1, Math.min(8, navigator.hardwareConcurrency - 1 || 1))

function createEngine() {
  const listeners = new Set<() => void>()
  const meshes = new Map<string, LoadedMesh | Promise<LoadedMesh> | Error>()
  let preview: Preview | undefined
  let take: { player: TakePlayer; id: string; shot: Shot; measures: Map<number, Measures> } | undefined
  let shot: Shot | undefined
  let draw = (): void => undefined
  let takePicture: () => Promise<Blob | null> = () => Promise.resolve(null)
  let told = false

  const engine = {
    frame: 1,
    playing: false,
    direction: 1 as 1 | -1,
    loop: true,

    /** Calls the listener at most once per drawn frame. */
    subscribe(listener: () => void): () => void {
      listeners.add(listener)
      return () => listeners.delete(listener)
    },

    // the shot

    /** The shot to preview, as the document says it, with solo and the like applied. */
    setShot(next: Shot): void {
      const fresh = shot === undefined
      shot = next
      if (fresh) engine.frame = next.frames.first
      engine.frame = Math.min(Math.max(engine.frame, next.frames.first), next.frames.last)
      void supplyPreview(next)
      changed()
    },
    /** Forgets the shot and its frames. */
    close(): void {
      engine.pause()
      preview?.dispose()
      preview = undefined
      engine.showTake(null)
      shot = undefined
    },
    get preview() {
      return preview
    },
    get takeId() {
      return take?.id ?? null
    },

    // meshes

    mesh(asset: string): LoadedMesh | undefined {
      const known = meshes.get(asset)
      if (known === undefined) void load(asset).catch(() => undefined)
      return known && 'mesh' in known ? known : undefined
    },
    addMesh(asset: string, loaded: LoadedMesh): void {
      meshes.set(asset, loaded)
      changed()
    },

    // playing

    get frames(): { first: number; last: number; rate: number } {
      return (take?.shot ?? shot)?.frames ?? { first: 1, last: 1, rate: 24 }
    },
    /** Particles at the playhead; the frame before, while it is not computed yet. */
    populations(): PackedPopulation[] {
      if (take) return take.player.frame(engine.frame, engine.direction) ?? lastDrawn
      return preview?.frame(engine.frame)?.populations ?? (engine.playing ? lastDrawn : [])
    },
    measures(): Measures | undefined {
      return take ? take.measures.get(engine.frame) : preview?.frame(engine.frame)?.measures
    },
    milliseconds: (): number | undefined => preview?.frame(engine.frame)?.milliseconds,
    computedTo: (): number | null => (take ? take.shot.frames.last : (preview?.state.computedTo ?? null)),
    play(direction: 1 | -1 = 1): void {
      const { first, last } = engine.frames
      engine.direction = direction
      if (direction === 1 && engine.frame >= last) engine.frame = first
      if (direction === -1 && engine.frame <= first) engine.frame = last
      engine.playing = true
      clock = performance.now()
      requestAnimationFrame(tick)
      changed()
    },
    pause(): void {
      engine.playing = false
      changed()
    },
    seek(frame: number): void {
      const { first, last } = engine.frames
      engine.frame = Math.min(Math.max(Math.round(frame), first), last)
      changed()
    },
    /** Plays a take from the server instead of the preview; null goes back. */
    showTake(next: { id: string; shot: Shot; measures: Map<number, Measures> } | null): void {
      if (next?.id === take?.id) return
      take?.player.dispose()
      take = next
        ? { ...next, player: createTakePlayer(`/api/takes/${next.id}`, next.shot.frames, frameBudget() / 2) }
        : undefined
      take?.player.subscribe(changed)
      engine.seek(engine.frame)
    },
    get takeShot() {
      return take?.shot
    },
    get fault(): string | null {
      return take?.player.fault ?? preview?.state.fault ?? null
    },

    // the stage

    onDraw(next: () => void): void {
      draw = next
    },
    onPicture(next: () => Promise<Blob | null>): void {
      takePicture = next
    },
    picture: (): Promise<Blob | null> => takePicture(),
  }

  let lastDrawn: PackedPopulation[] = []
  let clock = 0

  function tick(now: number): void {
    if (!engine.playing) return
    const step = 1000 / engine.frames.rate
    const due = Math.floor((now - clock) / step)
    if (due > 0) {
      clock += due * step
      advance(due)
    }
    requestAnimationFrame(tick)
  }

  /** Moves the playhead, no farther than what is there to show. */
  function advance(frames: number): void {
    const { first, last } = engine.frames
    const reach = engine.computedTo() ?? first
    let next = engine.frame + frames * engine.direction
    if (next > last || next < first) {
      if (!engine.loop) return stopAt(next > last ? last : first)
      next = engine.direction === 1 ? first : last
    }
    if (take && !take.player.has(next)) {
      take.player.frame(next, engine.direction)
      return
    }
    if (!take && next > reach) next = Math.max(engine.frame, reach)
    if (next === engine.frame) return
    engine.frame = next
    changed()
  }
  function stopAt(frame: number): void {
    engine.frame = frame
    engine.pause()
  }

  function changed(): void {
    const populations = engine.populations()
    if (populations.length > 0) lastDrawn = populations
    draw()
    if (told) return
    told = true
    requestAnimationFrame(() => {
      told = false
      for (const listener of listeners) listener()
    })
  }

  function load(asset: string): Promise<LoadedMesh> {
    const known = meshes.get(asset)
    if (known instanceof Error) return Promise.reject(known)
    if (known) return Promise.resolve(known)
    const loading = (async () => {
      const response = await fetch(`/api/meshes/${asset.replace('sha256:', '')}`)
      if (!response.ok) throw new Error('A mesh of this shot is not stored any more: add its file again')
      const name =
        /filename\*=UTF-8''(.+)$/.exec(response.headers.get('content-disposition') ?? '')?.[1] ?? 'mesh.obj'
      return readMeshAside(decodeURIComponent(name), new Uint8Array(await response.arrayBuffer()))
    })()
    meshes.set(asset, loading)
    loading.then(
      (loaded) => engine.addMesh(asset, loaded),
      (error: Error) => meshes.set(asset, error),
    )
    return loading
  }

  /** Hands a shot to the preview once its meshes are here; a later shot overtakes it. */
  async function supplyPreview(next: Shot): Promise<void> {
    const assets = next.meshes.flatMap((mesh) => ('asset' in mesh.source ? [mesh.source.asset] : []))
    const loaded = new Map<string, Mesh>()
    for (const asset of assets) {
      const entry = meshes.get(asset)
      const mesh = entry && 'mesh' in entry ? entry : await load(asset).catch(() => undefined)
      if (mesh) loaded.set(asset, mesh.mesh)
    }
    if (next !== shot) return
    if (!preview) {
      preview = createPreview({ threads: threads(), budget: frameBudget() })
      preview.subscribe(changed)
    }
    preview.setShot(next, loaded)
  }

  return engine
}

export type Engine = ReturnType<typeof createEngine>
export const engine = createEngine()

// for the console and for tests
Object.assign(globalThis, { tangle: { engine, createPreview } })
