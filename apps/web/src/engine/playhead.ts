/** The playhead and its clock. */
export interface Played {
  /** The frames that can be shown, and how many of them make a second. */
  frames(): { first: number; last: number; rate: number }
  /** The last frame that is there. */
  computedTo(): number | null
  /** Whether a frame is there to show; where not, it is asked for. */
  isThere(frame: number, direction: 1 | -1): boolean
  changed(): void
}

export function createPlayhead(played: Played) {
  let clock = 0
  const playhead = {
    frame: 1,
    playing: false,
    direction: 1 as 1 | -1,
    loop: true,
    play(direction: 1 | -1 = 1): void {
      const { first, last } = played.frames()
      playhead.direction = direction
      if (direction === 1 && playhead.frame >= last) playhead.frame = first
      if (direction === -1 && playhead.frame <= first) playhead.frame = last
      playhead.playing = true
      clock = performance.now()
      requestAnimationFrame(tick)
      played.changed()
    },
    pause(): void {
      playhead.playing = false
      played.changed()
    },
    seek(frame: number): void {
      const { first, last } = played.frames()
      playhead.frame = Math.min(Math.max(Math.round(frame), first), last)
      played.changed()
    },
  }

  function tick(now: number): void {
    if (!playhead.playing) return
    const step = 1000 / played.frames().rate
    const due = Math.floor((now - clock) / step)
    if (due > 0) {
      clock += due * step
      advance(due)
    }
    requestAnimationFrame(tick)
  }

  /** Moves the playhead, no farther than what is there to show. */
  function advance(frames: number): void {
    const { first, last } = played.frames()
    const { frame, direction, loop } = playhead
    let next = frame + frames * direction
    if (next > last || next < first) {
      if (!loop) {
        playhead.frame = next > last ? last : first
        return playhead.pause()
      }
      next = direction === 1 ? first : last
    }
    const reach = played.computedTo() ?? first
    if (next > reach) next = Math.max(frame, reach)
    if (next === frame || !played.isThere(next, direction)) return
    playhead.frame = next
    played.changed()
  }
  return playhead
}
