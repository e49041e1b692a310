import type { Take } from './take.ts'

/**
 * Hears of the takes of a shot as they go on, while the page is seen: a browser has six connections to a server for all of its pages, and
 * each that listens holds one. Returns what ends it.
 */
export function watchTakes(shot: string, heard: (takes: Take[]) => void): () => void {
  if (typeof EventSource === 'undefined') return () => undefined
  let events: EventSource | null = null
  const close = (): void => {
    events?.close()
    events = null
  }
  const turn = (): void => {
    if (document.hidden) return close()
    // one that was refused does not try again by itself
    if (events && events.readyState !== EventSource.CLOSED) return
    events = new EventSource(`/api/shots/${shot}/takes/events`)
    events.onmessage = ({ data }: MessageEvent<string>) => heard(JSON.parse(data) as Take[])
  }
  turn()
  const again = setInterval(turn, 5000)
  document.addEventListener('visibilitychange', turn)
  return () => {
    clearInterval(again)
    document.removeEventListener('visibilitychange', turn)
    close()
  }
}
