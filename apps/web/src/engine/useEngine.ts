import { useEffect, useState, useSyncExternalStore } from 'react'
import { engine, type Engine } from './engine.ts'

/** A value read from the engine, anew after every change; it must be a number, text or a kept object. */
export function useEngine<T>(read: (engine: Engine) => T): T {
  return useSyncExternalStore(engine.subscribe, () => read(engine))
}

/** The same at most a few times a second, for readouts; `about` names what is read, where that changes. */
export function useEngineSlowly<T>(read: (engine: Engine) => T, milliseconds = 120, about = ''): T {
  const [value, setValue] = useState(() => read(engine))
  useEffect(() => {
    let timer: ReturnType<typeof setTimeout> | undefined
    const update = (): void => {
      timer ??= setTimeout(() => {
        timer = undefined
        setValue(read(engine))
      }, milliseconds)
    }
    update()
    const stop = engine.subscribe(update)
    return () => {
      stop()
      clearTimeout(timer)
    }
    // eslint-disable-next-line react-hooks/exhaustive-deps -- `read` is a new function each time
  }, [milliseconds, about])
  return value
}
