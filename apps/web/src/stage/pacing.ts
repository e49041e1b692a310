/**
 * When the stage is drawn, and how well. One picture is under way at a time, and between two of them the page has as long for itself
 * as the last one took. Where a picture takes too long, those in motion lose shadows, then are coarser, then show a part of the particles;
 * when nothing moves, one comes with all there is.
 */

import type { StageQuality } from '../store/session.ts'

/** Milliseconds: what a picture in motion may take; how long nothing has moved at rest, longer where a fine picture takes long; between looks whether one is there. */
const WANTED = 40
const REST = 350
const LONGEST_REST = 2000
const LOOK = 4
/** So many particles are always drawn: fewer are not what takes long. */
const LEAST = 5000
/** Pixels of a coarse picture along a side, as a part of those of a fine one. */
export const COARSE = 0.5

/** How well a picture is drawn: pixels along a side, and particles, as parts of all there are, and its light. */
export interface Fineness {
  pixels: number
  particles: number
  light: Grade
}
/** Of the light: none is kept off anything; shadows; and what lies close dims one another, too. */
export type Grade = 0 | 1 | 2
/** The light that pictures in motion may have at the most, and that those at rest have; whether it is kept whatever it costs. */
export interface Grades {
  motion: Grade
  rest: Grade
  held: boolean
}
const PLAIN: Grades = { motion: 0, rest: 0, held: true }

/** What the light of pictures may cost: drawn by the processor, nothing while something moves, and shadows when it rests. */
export function gradesOf(quality: StageQuality, software: boolean): Grades {
  if (quality === 'plain') return { motion: 0, rest: 0, held: true }
  if (quality === 'shadows') return { motion: 1, rest: 1, held: true }
  if (quality === 'full') return { motion: 2, rest: 2, held: true }
  return software ? { motion: 0, rest: 1, held: false } : { motion: 2, rest: 2, held: false }
}

/** What keeps the pace in motion after a picture of so many milliseconds. `least` particles are drawn, as a part of all. */
export function nextFineness(
  { pixels, particles, light }: Fineness,
  cost: number,
  least: number,
  { motion, held }: Grades = PLAIN,
): Fineness {
  if (cost > WANTED) {
    if (light > 0 && !held)
      return { pixels, particles, light: cost > 2 * WANTED ? 0 : ((light - 1) as Grade) }
    if (pixels > COARSE) return { pixels: COARSE, particles, light }
    // half of the way to what would fit: one slow moment is not all there is
    const fit = (particles + (particles * WANTED) / cost) / 2
    return { pixels, particles: Math.max(Math.min(1, least), fit), light }
  }
  if (particles < 1)
    return { pixels, particles: cost < 0.7 * WANTED ? Math.min(1, particles * 1.25) : particles, light }
  if (pixels < 1) return { pixels: cost < COARSE ** 2 * 0.7 * WANTED ? 1 : pixels, particles, light }
  return { pixels, particles, light: light < motion && cost < 0.2 * WANTED ? ((light + 1) as Grade) : light }
}

/** What is drawn. */
export interface Drawn {
  /** How many particles there are. */
  particles(): number
  render(fineness: Fineness): void
  /** Hears when the fineness has become another. */
  changed(): void
  grades(): Grades
}

export interface Pacing {
  /** Asks for a picture. */
  draw(): void
  /** How well the last picture was drawn. */
  readonly fineness: Fineness
  /** Milliseconds that it took until it was there. */
  readonly cost: number
  dispose(): void
}

export function createPacing(
  gl: WebGL2RenderingContext,
  { particles, render, changed, grades }: Drawn,
): Pacing {
  let asked = false
  let underWay: { fence: WebGLSync; from: number } | null = null
  let waits = false
  const finest = (): Fineness => ({ pixels: 1, particles: 1, light: grades().rest })
  let inMotion: Fineness = { pixels: 1, particles: 1, light: grades().motion }
  let fineness = inMotion
  let cost = 0
  let costOfFinest = 0
  let atRest: ReturnType<typeof setTimeout> | undefined
  let ended = false

  function draw(): void {
    asked = true
    clearTimeout(atRest)
    const { motion, rest, held } = grades()
    // it may have been chosen anew
    if (inMotion.light > motion || (held && inMotion.light < motion))
      inMotion = { ...inMotion, light: motion }
    if (inMotion.pixels < 1 || inMotion.particles < 1 || inMotion.light < rest) {
      const wait = Math.min(LONGEST_REST, Math.max(REST, 3 * costOfFinest))
      atRest = setTimeout(() => picture(finest()), wait)
    }
    if (underWay || waits) return
    waits = true
    requestAnimationFrame(() => {
      waits = false
      if (asked && !underWay) picture(inMotion)
    })
  }

  function picture(wanted: Fineness): void {
    if (ended) return
    if (underWay) return void (atRest = setTimeout(picture, LOOK, wanted))
    asked = false
    const isOther = wanted.pixels !== fineness.pixels || wanted.particles !== fineness.particles
    fineness = wanted
    const from = performance.now()
    render(fineness)
    if (isOther) changed()
    const fence = gl.fenceSync(gl.SYNC_GPU_COMMANDS_COMPLETE, 0)
    gl.flush()
    if (!fence) return
    underWay = { fence, from }
    setTimeout(look, LOOK)
  }

  /** Looks whether the picture is there; then the next may come. */
  function look(): void {
    if (!underWay || ended) return
    const { fence, from } = underWay
    if (!gl.isContextLost() && gl.getSyncParameter(fence, gl.SYNC_STATUS) !== gl.SIGNALED)
      return void setTimeout(look, LOOK)
    gl.deleteSync(fence)
    cost = performance.now() - from
    if (fineness.particles === 1 && fineness.pixels === 1) costOfFinest = cost
    const next = nextFineness(fineness, cost, LEAST / Math.max(1, particles()), grades())
    // a picture at rest may take its time: it says only that motion is to be coarser
    if (fineness === inMotion || cost > WANTED)
      inMotion = fineness === inMotion ? next : coarser(inMotion, next)
    setTimeout(
      () => {
        underWay = null
        if (asked) draw()
      },
      cost > WANTED / 2 ? Math.min(cost, 4 * WANTED) : 0,
    )
  }

  return {
    draw,
    get fineness() {
      return fineness
    },
    get cost() {
      return cost
    },
    dispose() {
      ended = true
      clearTimeout(atRest)
    },
  }
}

const coarser = (a: Fineness, b: Fineness): Fineness => ({
  ...(a.pixels * a.particles <= b.pixels * b.particles ? a : b),
  light: Math.min(a.light, b.light) as Grade,
})
