import { Box, Button, Typography } from '@mui/material'
import { useEffect, useState } from 'react'
import { engine, type ShownTake } from '../engine/engine.ts'
import { Deleted } from '../frame/Deleted.tsx'
import { makeSweep } from '../store/makeTakes.ts'
import { api, faultOf, type SweepAxis, type Take } from '../store/api.ts'
import { useAct, useStore } from '../store/index.ts'
import { movieOpened, noticed, selected } from '../store/session.ts'
import { SweepCard } from '../sweeps/SweepCard.tsx'
import { SweepDialog } from '../sweeps/SweepDialog.tsx'
import { useEstimate } from '../sweeps/useEstimate.ts'
import { clockTime, duration, megabytes } from '../words.ts'
import { FileChoices } from './FileChoices.tsx'
import { Empty, Panel } from './Panel.tsx'
import { TakeCard } from './TakeCard.tsx'

/** The frozen results: computed on the server, played from there, written for a renderer. */
export function TakesStep({ onTake }: { onTake(): void }) {
  const act = useAct()
  const shotId = useStore((state) => state.session.shotId)!
  const chosen = useStore((state) => state.session.selected.take)
  const { data: takes } = api.useTakesQuery(shotId)
  const take = takes?.find((one) => one.id === chosen)
  usePlayedTake(take)
  useComparedTake(takes)
  return (
    <Panel
      title="Takes"
      help="A take is this shot, frozen and computed whole on the server."
      actions={<Button onClick={onTake}>Make a take</Button>}
    >
      <Before />
      {takes !== undefined && takes.length > 0 && <FileChoices />}
      {takes?.length === 0 && (
        <Empty text="No take yet. Make one when the preview looks right: it computes every particle, and a renderer can read it." />
      )}
      {grouped(takes ?? []).map((some) =>
        some[0]!.sweep ? (
          <SweepCard
            key={some[0]!.sweep}
            takes={some.toReversed()}
            chosen={chosen}
            onChoose={(take) => act(selected({ take }))}
          />
        ) : (
          <TakeCard
            key={some[0]!.id}
            take={some[0]!}
            chosen={some[0]!.id === chosen}
            onChoose={() => act(selected({ take: some[0]!.id === chosen ? null : some[0]!.id }))}
          />
        ),
      )}
      <Older takes={takes ?? []} />
      <DeletedTakes shotId={shotId} />
    </Panel>
  )
}

/** Takes one by one, those of a sweep together where its newest is. */
function grouped(takes: Take[]): Take[][] {
  const groups = new Map<string, Take[]>()
  for (const take of takes) {
    const key = take.sweep ?? take.id
    groups.set(key, [...(groups.get(key) ?? []), take])
  }
  return [...groups.values()]
}

/** What a take will be, before it is made, and the way to many. */
function Before() {
  const act = useAct()
  const estimate = useEstimate()
  const [isOpen, setOpen] = useState(false)
  const make = async (axes: SweepAxis[]): Promise<void> => {
    setOpen(false)
    const fault = await makeSweep(axes)
    if (fault) act(noticed({ text: fault, tone: 'error' }))
  }
  return (
    <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, mb: 1 }}>
      <Typography sx={{ fontSize: 12, color: 'text.secondary', flex: 1 }}>
        {estimate &&
          `About ${estimate.frames} frames, ${megabytes(estimate.bytes)}, ${duration(estimate.seconds)}.`}
      </Typography>
      <Button onClick={() => setOpen(true)}>Sweep…</Button>
      <Button onClick={() => act(movieOpened(true))}>Movie…</Button>
      {isOpen && <SweepDialog close={() => setOpen(false)} make={(axes) => void make(axes)} />}
    </Box>
  )
}

/** Finished takes that stay when older ones are cleared away. */
const KEPT = 3

/** Clears away what is older than the last few finished takes, where there is such. */
function Older({ takes }: { takes: Take[] }) {
  const act = useAct()
  const [clear] = api.useClearTakesMutation()
  const newest = takes.filter(({ status }) => status === 'done').slice(0, KEPT)
  const older = takes.filter((take) => !take.protected && !newest.includes(take) && isEnded(take))
  if (newest.length < KEPT || older.length === 0) return null
  const bytes = older.reduce((sum, take) => sum + take.bytes, 0)
  const run = async (): Promise<void> => {
    const { data, error } = await clear({ id: older[0]!.shotId, keep: KEPT })
    const gone = data?.takes.length
    const text = error ? faultOf(error) : gone === 1 ? '1 take is deleted' : `${gone} takes are deleted`
    act(noticed({ text, tone: error ? 'error' : 'info', ...(data ? { undo: { kind: 'takes', ids: data.takes } as const } : {}) })) // prettier-ignore
  }
  return (
    <Button
      color="inherit"
      onClick={() => void run()}
      title={`Keeps the newest ${KEPT}, and those that are protected`}
    >
      Delete {older.length} older ({megabytes(bytes)})
    </Button>
  )
}
/** Takes that were deleted, until their room is needed. */
function DeletedTakes({ shotId }: { shotId: string }) {
  const act = useAct()
  const { data } = api.useDeletedTakesQuery(shotId)
  const [action] = api.useTakeActionMutation()
  const restore = async (id: string): Promise<void> => {
    const { error } = await action({ id, action: 'restore' })
    if (error) act(noticed({ text: faultOf(error), tone: 'error' }))
  }
  const items = (data ?? []).map(({ id, number, bytes, createdAt }) => ({
    id,
    label: `take ${number} (${megabytes(bytes)}, ${clockTime(createdAt)})`,
  }))
  return <Deleted words={['take', 'takes']} items={items} onRestore={(id) => void restore(id)} />
}

const isEnded = ({ status }: Take): boolean => ['done', 'failed', 'cancelled'].includes(status)

/** Puts the chosen take on the stage, once it is done. */
function usePlayedTake(take: Take | undefined): void {
  useOnStage(take, engine.showTake)
}

/** Puts the take beside it that it is compared with. */
function useComparedTake(takes: Take[] | undefined): void {
  const compared = useStore((state) => state.session.compared)
  useOnStage(
    takes?.find(({ id }) => id === compared),
    engine.compareWith,
  )
}

/** Gives the stage a take once it is done; null where there is none, and when the step is left. */
function useOnStage(take: Take | undefined, put: (take: ShownTake | null) => void): void {
  const ready = take?.status === 'done' ? take.id : null
  const { data } = api.useTakeQuery(ready ?? '', { skip: ready === null })
  const backward = useStore((state) => state.session.backward)
  useEffect(() => {
    if (ready === null) put(null)
    else if (data?.id === ready) {
      put({
        id: ready,
        shot: data.document,
        measures: new Map(data.facts.map((f) => [f.frame, f.measures])),
        backward,
      })
    }
  }, [ready, data, backward, put])
  useEffect(() => () => put(null), [put])
}
