import { Button, Typography } from '@mui/material'
import { EXPORTS } from '@tangle/formats'
import { useEffect } from 'react'
import { engine } from '../engine/engine.ts'
import { api, type Take } from '../store/api.ts'
import { useAct, useStore } from '../store/index.ts'
import { Choices, Row } from '../fields/Choices.tsx'
import { selected, shownAs } from '../store/session.ts'
import { Empty, Panel } from './Panel.tsx'
import { TakeCard } from './TakeCard.tsx'

/** The frozen results: computed on the server, played from there, written for a renderer. */
export function TakesStep({ onTake }: { onTake(): void }) {
  const act = useAct()
  const shotId = useStore((state) => state.session.shotId)!
  const chosen = useStore((state) => state.session.selected.take)
  const { data: takes } = api.useTakesQuery(shotId, { pollingInterval: 1000 })
  const take = takes?.find((one) => one.id === chosen)
  const { backward, format } = useStore((state) => state.session)
  usePlayedTake(take)
  return (
    <Panel
      title="Takes"
      help="A take is this shot, frozen and computed whole on the server."
      actions={<Button onClick={onTake}>Make a take</Button>}
    >
      {takes !== undefined && takes.length > 0 && (
        <>
          <Row
            label="Direction"
            help="Backward plays and writes the last frame first, velocities turned round"
          >
            <Choices
              name="Direction"
              value={backward ? 'backward' : 'forward'}
              options={{ forward: 'forward', backward: 'backward' }}
              onChange={(next) => act(shownAs({ backward: next === 'backward' }))}
            />
          </Row>
          <Row label="Files" help={EXPORTS.find(({ kind }) => kind === format)?.help ?? ''}>
            <Choices
              name="Format of the files"
              value={format}
              options={Object.fromEntries(EXPORTS.map(({ kind, label }) => [kind, label]))}
              onChange={(next) => act(shownAs({ format: next }))}
            />
          </Row>
          <Typography sx={{ fontSize: 12, color: 'text.secondary', mb: 1 }}>
            {EXPORTS.find(({ kind }) => kind === format)?.help}
          </Typography>
        </>
      )}
      {takes?.length === 0 && (
        <Empty text="No take yet. Make one when the preview looks right: it computes every particle, and a renderer can read it." />
      )}
      {takes?.map((one) => (
        <TakeCard
          key={one.id}
          take={one}
          chosen={one.id === chosen}
          onChoose={() => act(selected({ take: one.id === chosen ? null : one.id }))}
        />
      ))}
    </Panel>
  )
}

/** Puts the chosen take on the stage, once it is done. */
function usePlayedTake(take: Take | undefined): void {
  const ready = take?.status === 'done' ? take.id : null
  const { data } = api.useTakeQuery(ready ?? '', { skip: ready === null })
  const backward = useStore((state) => state.session.backward)
  useEffect(() => {
    if (ready === null) engine.showTake(null)
    else if (data?.id === ready) {
      engine.showTake({
        id: ready,
        shot: data.document,
        measures: new Map(data.facts.map((f) => [f.frame, f.measures])),
        backward,
      })
    }
  }, [ready, data, backward])
  useEffect(() => () => engine.showTake(null), [])
}
