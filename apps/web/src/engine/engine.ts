/**
 * The plain object behind the stage: playhead, clock, frames and meshes. The store holds only the
 * document; what changes many times a second lives here and is read when a frame is drawn.
 */
import { sourceKey, type Measures, type MeshFrame, type Shot } from '@tangle/core'
import {
  createPreview,
  createSurfaces,
  createTakePlayer,
  packMesh,
  type CutPlane,
  type PackedMesh,
  type PackedPopulation,
  type Preview,
  type SurfaceAnswer,
  type Surfaces,
  type TakePlayer,
} from '@tangle/runtime/browser'
import { createLibrary } from './library.ts'

const MEGABYTE = 2 ** 20
/** Share of the device's memory that preview frames may take, and the least and most of it. */
const frameBudget = (): number => {
  const device = (navigator as { deviceMemory?: number }).deviceMemory ?? 8
  return Math.min(3000, Math.max(400, device * 200)) * MEGABYTE
}
/** A mask to show on meshes, with the shot in which one of its inputs is off, and a plane to show it in. */
export interface Heat {
  mask: string
  variant: Shot | null
  plane: CutPlane | null
}

const threads = (): number => Math.max(1, Math.min(8, navigator.hardwareConcurrency - 1 || 1))

interface ShownTake {
  id: string
  shot: Shot
  measures: Map<number, Measures>
  backward: boolean
}

function createEngine() {
  const listeners = new Set<() => void>()
  const library = createLibrary(() => changed())
  let preview: Preview | undefined
  let surfaces: Surfaces | undefined
  let heat: Heat | null = null
  let askedFor = ''
  let take: (ShownTake & { player: TakePlayer }) | undefined
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
      surfaces?.dispose()
      surfaces = undefined
      heat = null
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

    meshOf: library.get,
    /** Why a mesh can't be had. */
    meshFault: library.fault,
    addMesh: library.add,

    // playing

    get frames(): { first: number; last: number; rate: number } {
      return (take?.shot ?? shot)?.frames ?? { first: 1, last: 1, rate: 24 }
    },
    /** Particles at the playhead; the frame before, while it is not computed yet. */
    populations(): PackedPopulation[] {
      if (take) return take.player.frame(engine.frame, engine.direction) ?? lastDrawn
      return preview?.frame(engine.frame)?.populations ?? (engine.playing ? lastDrawn : [])
    },
    /** Particles at another frame, where they are there; a take asks for them. */
    populationsAt(frame: number): PackedPopulation[] | undefined {
      const { first, last } = engine.frames
      if (frame < first || frame > last) return undefined
      if (!take) return preview?.frame(frame)?.populations
      return take.player.frame(frame, 1)
    },
    measures: (): Measures | undefined => engine.measuresAt(engine.frame),
    measuresAt(frame: number): Measures | undefined {
      if (!take) return preview?.frame(frame)?.measures
      const { first, last } = take.shot.frames
      return take.measures.get(take.backward ? first + last - frame : frame)
    },
    /** The frame of the shot that the playhead shows: counted from the end where a take runs backward. */
    get shownFrame(): number {
      return take?.backward ? take.shot.frames.first + take.shot.frames.last - engine.frame : engine.frame
    },
    /** Meshes as they are at the playhead: eaten, rippling, or with a mask on them. */
    liveMeshes(): PackedMesh[] {
      askSurfaces()
      const asked = surfaces?.latest?.meshes ?? []
      if (heat !== null) return asked
      if (!take) return [...asked, ...(preview?.frame(engine.frame)?.covers ?? []).map(packed)]
      // a take has its eaten meshes in its frames
      const stored = take.player.meshes(engine.frame)
      return [
        ...stored,
        ...asked.filter((mesh) => !take!.shot.meshes.find((one) => one.id === mesh.id)?.eaten),
      ]
    },
    surface(): SurfaceAnswer | null {
      return surfaces?.latest ?? null
    },
    /** Shows a mask on meshes and in a plane; null shows meshes as they are. */
    showHeat(next: Heat | null): void {
      heat = next
      changed()
    },
    get heat() {
      return heat
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
    showTake(next: ShownTake | null): void {
      if (next?.id === take?.id && next?.backward === take?.backward) return
      take?.player.dispose()
      if (!next) take = undefined
      else {
        const address = `/api/takes/${next.id}`
        const player = createTakePlayer(address, next.shot.frames, frameBudget() / 2, next.backward)
        take = { ...next, player }
      }
      take?.player.subscribe(changed)
      engine.seek(engine.frame)
    },
    get takeShot() {
      return take?.shot
    },
    get fault(): string | null {
      return take?.player.fault ?? preview?.state.fault ?? surfaces?.latest?.fault ?? null
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

  /** Asks for meshes of the playhead's moment, if something about them changes and has not been asked for. */
  function askSurfaces(): void {
    const of = take?.shot ?? shot
    if (!of) return
    const lively = heat !== null || of.meshes.some((mesh) => mesh.eaten || mesh.deform.length > 0)
    if (!lively) {
      askedFor = ''
      return surfaces?.forget()
    }
    const found = library.meshesOf(of)
    if (found.size < new Set(of.meshes.map((mesh) => sourceKey(mesh.source))).size) return
    const frame = engine.shownFrame
    const key = `${frame} ${stamp(of)} ${heat ? JSON.stringify([heat.mask, heat.plane]) + stamp(heat.variant) : ''}`
    if (key === askedFor) return
    askedFor = key
    if (!surfaces) {
      surfaces = createSurfaces()
      surfaces.subscribe(changed)
    }
    surfaces.ask({ shot: of, frame, heat }, found)
  }

  /** Hands a shot to the preview once its meshes are here; a later shot overtakes it. */
  async function supplyPreview(next: Shot): Promise<void> {
    await library.loadAll(next)
    if (next !== shot) return
    if (!preview) {
      preview = createPreview({ threads: threads(), budget: frameBudget() })
      preview.subscribe(changed)
    }
    preview.setShot(next, library.meshesOf(next))
  }

  return engine
}

/** Meshes of frames with their normals, made when they are first shown. */
const packedMeshes = new WeakMap<MeshFrame, PackedMesh>()
function packed(mesh: MeshFrame): PackedMesh {
  if (!packedMeshes.has(mesh)) packedMeshes.set(mesh, packMesh(mesh))
  return packedMeshes.get(mesh)!
}

/** A number for each document that was seen: documents are never changed, so it says which one it is. */
const stamps = new WeakMap<object, number>()
let stamped = 0
function stamp(document: object | null): number {
  if (!document) return 0
  if (!stamps.has(document)) stamps.set(document, ++stamped)
  return stamps.get(document)!
}

export type Engine = ReturnType<typeof createEngine>
export const engine = createEngine()

// for the console and for tests
Object.assign(globalThis, { tangle: { engine, createPreview } })
