/** Names and ids of what is added to a shot. */

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
