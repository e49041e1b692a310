import { Button, Typography } from '@mui/material'
import { INFLUENCES, valuesAt } from '@tangle/core'
import { engine } from '../engine/engine.ts'
import { useEngineSlowly } from '../engine/useEngine.ts'
import { shown } from '../fields/formula.ts'
import { useInfluence, usePopulation } from '../steps/usePopulation.ts'
import { useAct, useStore } from '../store/index.ts'
import { shownAs } from '../store/session.ts'

const ABOUT = {
  particles: 'around some of its particles',
  goals: 'around some of its places',
  point: 'around its point',
}

/** What the rings on the stage are, while an influence that has some is selected; a click takes them away. */
export function RingLegend() {
  const act = useAct()
  const on = useStore((state) => state.session.rings)
  const { population } = usePopulation()
  const influence = useInfluence(population)
  useEngineSlowly((e) => e.shownFrame, 400)
  const kind = INFLUENCES.find((one) => one.kind === influence?.kind)
  if (!influence || !kind?.radii) return null
  const values = valuesAt(kind.parameters, influence, engine.shownFrame) as Record<string, unknown>
  const name = influence.name ?? kind.label
  const rings = kind.radii
    .filter(({ about }) => about !== 'point' || values.to === undefined || values.to === 'point')
    .map(({ of, about }) => `${kind.parameters[of]!.label} ${shown(values[of] as number)} m ${ABOUT[about]}`)
  if (rings.length === 0) return null
  return (
    <Typography component="div" sx={{ fontSize: 12, pointerEvents: 'auto' }}>
      {on && `Rings of ${name}: ${rings.join(', ')} `}
      <Button
        color="inherit"
        size="small"
        onClick={() => act(shownAs({ rings: !on }))}
        sx={{ fontSize: 12, py: 0 }}
      >
        {on ? 'Hide them' : 'Show its rings'}
      </Button>
    </Typography>
  )
}
