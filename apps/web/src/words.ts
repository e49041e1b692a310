/** Numbers in words. */
export const count = (n: number): string =>
  Math.round(n)
    .toString()
    .replace(/\B(?=(\d{3})+(?!\d))/g, '\u202f')

export function megabytes(bytes: number): string {
  if (bytes >= 2 ** 30) return `${(bytes / 2 ** 30).toFixed(1)} GB`
  return `${bytes >= 10 * 2 ** 20 ? Math.round(bytes / 2 ** 20) : (bytes / 2 ** 20).toFixed(1)} MB`
}

export function duration(seconds: number): string {
  if (seconds < 60) return `${Math.max(1, Math.round(seconds))} s`
  if (seconds < 3600) return `${Math.round(seconds / 60)} min`
  return `${(seconds / 3600).toFixed(1)} h`
}

export const clockTime = (time: number | string): string =>
  new Date(time).toLocaleTimeString('en-GB', { hour: '2-digit', minute: '2-digit' })

/** Pictures of a shot in the list of shots, which move while the pointer is on them. */
export const STRIP_PICTURES = 12
