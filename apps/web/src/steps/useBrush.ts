import { inverse, placeAt, transform, type Stroke, type Vector } from '@tangle/core'
import { useEffect } from 'react'
import { engine } from '../engine/engine.ts'
import { stage } from '../stage/Stage.tsx'
import { store, useAct } from '../store/index.ts'
import { set, type Path } from '../store/shot.ts'

let strokes = 0

/** Lets the pointer brush the mesh of a layer; its strokes are kept at `path`, each one step of undo. Null: it does not. */
export function useBrush(
  layer: { mesh?: unknown; id: string } | null,
  path: Path,
  { brush, radius, strength, mirror, lift }: Omit<Stroke, 'points'>,
): void {
  const act = useAct()
  const active = layer !== null
  const meshId = layer?.mesh
  const [list, index] = path as ['masks' | 'combings', number]
  useEffect(() => {
    const brushes = stage.world?.brush
    if (!active || !brushes) return
    let gesture = ''
    let before: Stroke[] = []
    brushes.set({
      radius,
      onStroke(points, pressures, done) {
        const { present } = store.getState().shot
        const mesh = present.meshes.find((one) => one.id === meshId)
        const current = present[list][index]
        if (!mesh || !current) return
        if (gesture === '') {
          gesture = `stroke${++strokes}`
          before = current.strokes as Stroke[]
        }
        // the places where the brush went, as the mesh itself sees them
        const back = inverse(placeAt(mesh.place, engine.frame))
        const own = points.map(
          (point) => transform(back, point).map((x) => Number(x.toPrecision(6))) as Vector,
        )
        const stroke: Stroke = {
          brush,
          radius,
          strength,
          points: own,
          ...(pressures.some((one) => one < 1) && { pressures: pressures.slice() }),
          ...(mirror !== undefined && { mirror }),
          ...(lift !== undefined && { lift }),
        }
        act(set({ path: [list, index, 'strokes'], value: [...before, stroke], gesture }))
        if (done) gesture = ''
      },
    })
    return () => brushes.set(null)
  }, [active, brush, radius, strength, mirror, lift, list, index, meshId, act])
}
