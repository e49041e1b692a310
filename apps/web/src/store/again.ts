import { useEffect } from 'react'

/** Milliseconds until what could not be loaded is asked for again. */
const AGAIN = 3000

/** Asks again, for as long as there is an error: a server or a database that was away comes back by itself. */
export function useAgain(error: unknown, ask: () => unknown): void {
  useEffect(() => {
    if (!error) return
    const timer = setInterval(() => void ask(), AGAIN)
    return () => clearInterval(timer)
  }, [error, ask])
}
