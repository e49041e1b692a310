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

/** Most letters that a name has; and an id, with room for a number behind it (a document takes 200 and 80). */
export const [NAME_LETTERS, ID_LETTERS] = [200, 60]

/** An id from a name, unlike those in use. */
export function freshId(name: string, taken: string[]): string {
  const base =
    name
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, '-')
      .slice(0, ID_LETTERS)
      .replace(/^-|-$/g, '') || 'one'
  if (!taken.includes(base)) return base
  for (let n = 2; ; n++) if (!taken.includes(`${base}-${n}`)) return `${base}-${n}`
}

/** A name unlike those in use. */
export function freshName(name: string, taken: string[]): string {
  const first = name.slice(0, NAME_LETTERS)
  if (!taken.includes(first)) return first
  for (let n = 2; ; n++) {
    const next = `${name.slice(0, NAME_LETTERS - 6)} ${n}`
    if (!taken.includes(next)) return next
  }
}
