/**
 * The plain object behind the stage: playhead, clock, frames and meshes. The store holds only the
 * document; what changes many times a second lives here and is read when a frame is drawn.
 */
import { sourceKey, type Measures, type MeshFrame, type MeshSource, type Shot } from '@tangle/core'
import {
  createPreview,
  createTakePlayer,
  packMesh,
  type PackedMesh,
  type PackedPopulation,
  type SurfaceAnswer,
} from '@tangle/runtime/browser'
import { createLibrary, NO_SHOT } from './library.ts'
import { createMoments, type Heat } from './moments.ts'
import { movedOn } from './movedOn.ts'
import { createPlayhead } from './playhead.ts'
import { NOBODY, shown, type PlayedTake, type ShownTake } from './shown.ts'

export type { Heat } from './moments.ts'
export type { ShownTake } from './shown.ts'

const MEGABYTE = 2 ** 20
/** Bytes of preview frames: a share of the device's memory, within bounds. */
const frameBudget = (): number => {
  const device = (navigator as { deviceMemory?: number }).deviceMemory ?? 8
  return Math.min(3000, Math.max(400, device * 200)) * MEGABYTE
}
const threads = (): number => Math.max(1, Math.min(8, navigator.hardwareConcurrency - 1 || 1))

const listeners = new Set<() => void>()
const library = createLibrary(() => {
  draw()
  changed()
})
const moments = createMoments(library, changed)
const playhead = createPlayhead({
  frames: framesShown,
  computedTo,
  changed,
  isThere(frame, direction) {
    const { take } = shown
    if (!take || take.player.has(frame)) return true
    take.player.frame(frame, direction)
    return false
  },
})
let draw = (): void => undefined
let takePicture: () => Promise<Blob | null> = () => Promise.resolve(null)
let told = false

const shotShown = (): Shot => shown.take?.shot ?? shown.shot ?? NO_SHOT

function framesShown(): { first: number; last: number; rate: number } {
  return shotShown().frames
}
function computedTo(): number | null {
  return shown.take ? shown.take.shot.frames.last : (shown.preview?.state.computedTo ?? null)
}

/** What the last picture was of. */
let pictured: unknown[] = []
/** Draws if there is something else to see, and tells the listeners. */
function changed(): void {
  const populations = engine.populations()
  if (populations.length > 0) shown.lastDrawn = populations
  const seen = [playhead.frame, populations, moments.latest, shown.heat, shown.combing, shown.take]
  // of a take, what lies behind the particles comes frame by frame, too
  if (shown.take || shown.compared || seen.some((one, k) => one !== pictured[k])) draw()
  pictured = seen
  tell()
}

/** Tells the listeners, at most once per drawn frame. */
function tell(): void {
  if (told) return
  told = true
  requestAnimationFrame(() => {
    told = false
    for (const listener of listeners) listener()
  })
}

/** Hands a shot to the preview once its meshes are here; a later shot overtakes it. */
async function supplyPreview(next: Shot): Promise<void> {
  await library.loadAll(next)
  if (next !== shown.shot) return
  if (!shown.preview) {
    shown.preview = createPreview({ threads: threads(), budget: frameBudget() })
    shown.preview.subscribe(changed)
  }
  shown.preview.setShot(next, library.meshesOf(next), playhead.frame)
}

/** A take whose frames are asked for as they are wanted. */
function played(take: ShownTake): PlayedTake {
  const player = createTakePlayer(`/api/takes/${take.id}`, take.shot.frames, frameBudget() / 2, take.backward)
  player.subscribe(changed)
  return { ...take, player }
}

/** Frames count from the end where a take runs backward. */
const turnedRound = (frame: number): number => {
  const { take } = shown
  return take?.backward ? take.shot.frames.first + take.shot.frames.last - frame : frame
}

const lengthOf = ({ frames: { first, last } }: Shot): number => last - first

/** Opening and closing shots and takes. */
const opening = {
  /** The shot to preview, as the document says it, with solo and the like applied. */
  setShot(next: Shot): void {
    const { shot: before } = shown
    shown.shot = next
    if (!before) playhead.frame = next.frames.first
    // one that is renumbered is looked at where it was
    else if (lengthOf(next) === lengthOf(before)) playhead.frame += next.frames.first - before.frames.first
    playhead.frame = Math.min(Math.max(playhead.frame, next.frames.first), next.frames.last)
    void supplyPreview(next)
    changed()
  },
  /** Forgets the shot and its frames. */
  close(): void {
    playhead.pause()
    shown.preview?.dispose()
    moments.dispose()
    Object.assign(shown, { preview: undefined, heat: null, combing: null })
    opening.showTake(null)
    opening.compareWith(null)
    shown.shot = undefined
  },
  /** Plays a take from the server instead of the preview; null goes back. */
  showTake(next: ShownTake | null): void {
    const { take } = shown
    if (next?.id === take?.id && next?.backward === take?.backward) return
    take?.player.dispose()
    shown.take = next ? played(next) : undefined
    playhead.seek(playhead.frame)
  },
  /** Compares what is shown with a take, at the same frame; null compares with nothing. */
  compareWith(next: ShownTake | null): void {
    if (next?.id === shown.compared?.id && next?.backward === shown.compared?.backward) return
    shown.compared?.player.dispose()
    shown.compared = next ? played(next) : undefined
    changed()
    draw()
  },
  /** Reads what is compared in place of what is shown. */
  beside(read: () => void): void {
    const { take } = shown
    if (!shown.compared) return
    Object.assign(shown, { take: shown.compared, own: take, isBeside: true })
    try {
      read()
    } finally {
      Object.assign(shown, { take, own: undefined, isBeside: false })
    }
  },
  /** Reads what is there a part of a frame after the playhead's, or below 0 before it: particles and whatever is placed by keys. */
  atPart(after: number, read: () => void): void {
    shown.after = after
    try {
      read()
    } finally {
      shown.after = 0
    }
  },
  /** Shows a mask on meshes and in a plane; null shows meshes as they are. */
  showHeat(next: Heat | null): void {
    shown.heat = next
    changed()
  },
  /** Shows the directions of a combing; null shows none. */
  showCombing(next: string | null): void {
    shown.combing = next
    changed()
  },
}

function populationsNow(): PackedPopulation[] {
  const { take, preview, lastDrawn } = shown
  const { frame, direction, playing } = playhead
  if (take) return take.player.frame(frame, direction) ?? (shown.isBeside ? NOBODY : lastDrawn)
  return preview?.shown(frame)?.populations ?? (playing ? lastDrawn : NOBODY)
}

/** What there is to draw and to read at a frame. */
const reading = {
  /** Particles at the playhead; the frame before, while it is not computed yet. */
  populations(): PackedPopulation[] {
    const { frame } = playhead
    const now = populationsNow()
    if (shown.after === 0) return now
    const [before, after] = [frame - 1, frame + 1].map((of) => reading.populationsAt(of))
    return now.map((one) => movedOn(one, shown.after, before, after))
  },
  /** Particles at another frame, where they are there; a take asks for them. */
  populationsAt(frame: number): PackedPopulation[] | undefined {
    const { first, last } = framesShown()
    if (frame < first || frame > last) return undefined
    if (!shown.take) return shown.preview?.frame(frame)?.populations
    return shown.take.player.frame(frame, 1)
  },
  /** What the side that is read is compared with, at the same frame; undefined where it is not here. */
  opposite(): PackedPopulation[] | undefined {
    const { compared, isBeside, own, preview } = shown
    const { frame, direction } = playhead
    const other = isBeside ? own : compared
    if (!compared) return undefined
    return other ? other.player.frame(frame, direction) : preview?.shown(frame)?.populations
  },
  measures: (): Measures | undefined => reading.measuresAt(playhead.frame),
  measuresAt(frame: number): Measures | undefined {
    const { take, preview } = shown
    return take ? take.measures.get(turnedRound(frame)) : preview?.frame(frame)?.measures
  },
  milliseconds: (): number | undefined => shown.preview?.frame(playhead.frame)?.milliseconds,
  computedTo,
  /** Meshes as they are at the playhead: eaten, rippling, or with a mask on them. */
  liveMeshes(): PackedMesh[] {
    const { take, preview, heat, combing } = shown
    // meshes that a moment has are asked for of what is shown alone
    if (shown.isBeside && take) return take.player.meshes(playhead.frame)
    const seen = take ? null : (preview?.seenUntil(playhead.frame) ?? [])
    moments.ask(take?.shot ?? shown.shot, turnedRound(playhead.frame), heat, combing, seen)
    const asked = moments.latest?.meshes ?? []
    if (heat !== null) return asked
    if (!take) return [...asked, ...(preview?.shown(playhead.frame)?.covers ?? []).map(packed)]
    // until those of the moment are here, which are shaded as they came, what the take has stored is shown
    const stored = take.player.meshes(playhead.frame)
    const [shownFirst, others] =
      moments.latest?.frame === turnedRound(playhead.frame) ? [asked, stored] : [stored, asked]
    return [...shownFirst, ...others.filter(({ id }) => !shownFirst.some((one) => one.id === id))]
  },
  /** Whether all of the playhead's frame is here: particles, and meshes as they are then. */
  isWhole(): boolean {
    const { take, preview } = shown
    const { frame, direction } = playhead
    reading.liveMeshes()
    const particles = take ? take.player.frame(frame, direction) : preview?.frame(frame)
    const besides = shown.compared?.player.frame(frame, direction)
    return particles !== undefined && !moments.waits && (!shown.compared || besides !== undefined)
  },
  surface: (): SurfaceAnswer | null => moments.latest,
  /** Directions of the combing that is shown. */
  arrows: (): Float32Array | null => (shown.combing === null ? null : (moments.latest?.arrows ?? null)),
}

/** Accessors of what changes; the playhead's own are its. */
const state = {
  get frame() {
    return playhead.frame
  },
  get playing() {
    return playhead.playing
  },
  get direction() {
    return playhead.direction
  },
  get loop() {
    return playhead.loop
  },
  set loop(on: boolean) {
    playhead.loop = on
  },
  get frames() {
    return framesShown()
  },
  /** The frame of the shot that the playhead shows: counted from the end where a take runs backward. */
  get shownFrame() {
    return turnedRound(playhead.frame + shown.after)
  },
  get preview() {
    return shown.preview
  },
  /** Whether frames are being played or computed. */
  get busy() {
    return playhead.playing || (shown.preview?.state.busy ?? false)
  },
  get takeId() {
    return shown.take?.id ?? null
  },
  /** The shot of the take that is compared. */
  get comparedShot() {
    return shown.compared?.shot
  },
  get takeShot() {
    return shown.take?.shot
  },
  get heat() {
    return shown.heat
  },
  get fault(): string | null {
    return shown.take?.player.fault ?? shown.preview?.state.fault ?? moments.latest?.fault ?? null
  },
}

const actions = {
  ...opening,
  ...reading,
  play: playhead.play,
  pause: playhead.pause,
  seek: playhead.seek,
  meshOf: (source: MeshSource, shot = shotShown()) => library.get(source, shot),
  /** A mesh, once it is read or made; fails with why it can't be had. */
  loadMesh: (source: MeshSource, shot = shotShown()) => library.load(source, shot),
  /** Why a mesh can't be had. */
  meshFault: (source: MeshSource, shot = shotShown()) => library.fault(source, shot),
  /** What share of a mesh has been made, and how to stop that. */
  making: (source: MeshSource, shot = shotShown()) => library.making(source, shot),
  /** Tries again to make a mesh. */
  remake(source: MeshSource): void {
    const shot = shotShown()
    library.retry(source, shot)
    void supplyPreview(shot)
  },
  addMesh: library.add,
  /** Calls the listener at most once per drawn frame. */
  subscribe(listener: () => void): () => void {
    listeners.add(listener)
    return () => listeners.delete(listener)
  },
  /** Tells the listeners that the stage draws another part of the particles. */
  noteDrawn: (): void => tell(),
  onDraw: (next: () => void): void => void (draw = next),
  onPicture: (next: () => Promise<Blob | null>): void => void (takePicture = next),
  picture: (): Promise<Blob | null> => takePicture(),
}

export type Engine = typeof state & typeof actions
/** Accessors stay accessors: they are copied as they are, not as what they read now. */
export const engine: Engine = Object.defineProperties(
  { ...actions },
  Object.getOwnPropertyDescriptors(state),
) as Engine

/** Meshes of frames with their normals, made when they are first shown. */
const packedMeshes = new WeakMap<MeshFrame, PackedMesh>()
function packed(mesh: MeshFrame): PackedMesh {
  if (!packedMeshes.has(mesh)) packedMeshes.set(mesh, packMesh(mesh))
  return packedMeshes.get(mesh)!
}

// for the console and for tests
Object.assign(globalThis, { tangle: { engine, createPreview, sourceKey } })
