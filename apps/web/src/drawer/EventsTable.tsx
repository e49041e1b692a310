import { Typography } from '@mui/material'
import { EVENT_KINDS } from '@tangle/core'
import { useMemo, useState } from 'react'
import { useEngineSlowly } from '../engine/useEngine.ts'
import { usePopulation } from '../steps/usePopulation.ts'
import { useAct, useShot } from '../store/index.ts'
import { selected } from '../store/session.ts'
import { count } from '../words.ts'
import { eventColumns } from './eventColumns.ts'
import { RowTable } from './RowTable.tsx'

/** What happened to the particles of a population in the frame; a click marks the particle on the stage. */
export function EventsTable() {
  const act = useAct()
  const { meshes, populations } = useShot()
  const { population: rules } = usePopulation()
  const { table, counts, take } = useEngineSlowly(
    (e) => ({
      table: e.populations().find((one) => one.id === rules?.id)?.events ?? null,
      counts: e.measures()?.populations.find((one) => one.id === rules?.id)?.events,
      take: e.takeId !== null,
    }),
    250,
    rules?.id,
  )
  const [marked, setMarked] = useState({ table, row: -1 })
  const columns = useMemo(() => {
    const nameOf = (id: string) => [...meshes, ...populations].find((one) => one.id === id)?.name ?? id
    return table && rules ? eventColumns(table, rules, nameOf) : {}
  }, [table, rules, meshes, populations])
  if (!table || !rules)
    return (
      <Typography sx={{ p: 2, fontSize: 13, color: 'text.secondary' }}>
        {take
          ? 'Takes keep how many events there were, in the charts; the preview has each of them.'
          : 'No events at this frame: nothing was born, died, touched, broke or changed phase.'}
      </Typography>
    )
  const all = counts ? EVENT_KINDS.reduce((sum, kind) => sum + counts[kind], 0) : table.rows
  return (
    <RowTable
      label="Events"
      columns={columns}
      count={table.rows}
      example="what = born, particle = 5"
      marked={marked.table === table ? marked.row : -1}
      onMark={(row) => {
        setMarked({ table, row })
        act(selected({ particle: { population: rules.id, id: table.particles[row]! } }))
      }}
    >
      {all > table.rows && (
        <Typography sx={{ fontSize: 12, color: 'text.secondary' }}>
          the first of {count(all)} in this frame
        </Typography>
      )}
    </RowTable>
  )
}
