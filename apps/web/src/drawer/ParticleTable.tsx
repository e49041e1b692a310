import { Typography } from '@mui/material'
import { useMemo } from 'react'
import { useEngineSlowly } from '../engine/useEngine.ts'
import { usePopulation } from '../steps/usePopulation.ts'
import { useAct, useStore } from '../store/index.ts'
import { selected } from '../store/session.ts'
import { particleColumns } from './particleColumns.ts'
import { RowTable } from './RowTable.tsx'

/** Every particle of the frame, one of them marked on the stage. */
export function ParticleTable() {
  const act = useAct()
  const { population: rules } = usePopulation()
  const packed = useEngineSlowly((e) => e.populations().find((one) => one.id === rules?.id), 250)
  const chosen = useStore((state) => state.session.selected.particle)
  const columns = useMemo(() => (packed && rules ? particleColumns(packed, rules) : {}), [packed, rules])
  if (!packed || !rules)
    return (
      <Typography sx={{ p: 2, fontSize: 13, color: 'text.secondary' }}>
        No particles at this frame.
      </Typography>
    )
  const marked = chosen?.population === packed.id ? packed.ids.indexOf(chosen.id) : -1
  return (
    <RowTable
      label="Particles"
      columns={columns}
      count={packed.count}
      example="speed > 2, phase = Loose"
      marked={marked}
      onMark={(row) => act(selected({ particle: { population: packed.id, id: packed.ids[row]! } }))}
    >
      {chosen && marked < 0 && (
        <Typography sx={{ fontSize: 12, color: 'text.secondary' }}>
          {chosen.id} is not alive at this frame
        </Typography>
      )}
    </RowTable>
  )
}
