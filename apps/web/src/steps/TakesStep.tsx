import DeleteOutlined from '@mui/icons-material/DeleteOutlined'
import { Box, Button, IconButton, LinearProgress, Link, Typography } from '@mui/material'
import { EXPORTS } from '@tangle/formats'
import { useEffect } from 'react'
import { engine } from '../engine/engine.ts'
import { api, faultOf, type Take } from '../store/api.ts'
import { useAct, useStore } from '../store/index.ts'
import { Choices, Row } from '../fields/Choices.tsx'
import { noticed, selected, shownAs } from '../store/session.ts'
import { MONO } from '../theme.ts'
import { clockTime, duration, megabytes } from '../words.ts'
import { Empty, Panel } from './Panel.tsx'

/** The frozen results: computed on the server, played from there, written for a renderer. */
export function TakesStep({ onTake }: { onTake(): void }) {
  const act = useAct()
  const shotId = useStore((state) => state.session.shotId)!
  const chosen = useStore((state) => state.session.selected.take)
  const { data: takes } = api.useTakesQuery(shotId, { pollingInterval: 1000 })
  const take = takes?.find((one) => one.id === chosen)
  const backward = useStore((state) => state.session.backward)
  usePlayedTake(take)
  return (
    <Panel
      title="Takes"
      help="A take is this shot, frozen and computed whole on the server."
      actions={<Button onClick={onTake}>Make a take</Button>}
    >
      {takes !== undefined && takes.length > 0 && (
        <Row label="Direction" help="Backward plays and writes the last frame first, velocities turned round">
          <Choices
            name="Direction"
            value={backward ? 'backward' : 'forward'}
            options={{ forward: 'forward', backward: 'backward' }}
            onChange={(next) => act(shownAs({ backward: next === 'backward' }))}
          />
        </Row>
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

function TakeCard({ take, chosen, onChoose }: { take: Take; chosen: boolean; onChoose(): void }) {
  const act = useAct()
  const backward = useStore((state) => state.session.backward)
  const [action] = api.useTakeActionMutation()
  const [remove] = api.useDeleteTakeMutation()
  const all = take.frames.last - take.frames.first + 1
  const running = take.status === 'waiting' || take.status === 'computing'
  const run = (name: 'cancel' | 'retry') => async () => {
    const result = await action({ id: take.id, action: name })
    if (result.error) act(noticed({ text: faultOf(result.error), tone: 'error' }))
  }
  const drop = async (): Promise<void> => {
    await remove(take.id)
    act(
      noticed({ text: `Take ${take.number} is deleted`, tone: 'info', undo: { kind: 'take', id: take.id } }),
    )
  }
  return (
    <Box
      data-testid="take"
      sx={{
        border: 1,
        borderColor: chosen ? 'primary.main' : 'divider',
        borderRadius: 1,
        p: 1.25,
        mb: 1,
        bgcolor: 'background.raised',
      }}
    >
      <Box sx={{ display: 'flex', alignItems: 'center' }}>
        <Typography sx={{ fontWeight: 600, flex: 1 }}>Take {take.number}</Typography>
        <Typography
          data-testid="take-status"
          sx={{ fontSize: 12.5, color: take.status === 'failed' ? 'error.main' : 'text.secondary' }}
        >
          {take.status}
        </Typography>
        <IconButton size="small" aria-label={`Delete take ${take.number}`} onClick={() => void drop()}>
          <DeleteOutlined sx={{ fontSize: 16 }} />
        </IconButton>
      </Box>
      <Typography sx={{ fontFamily: MONO, fontSize: 12, color: 'text.secondary' }}>
        {take.frames.first}–{take.frames.last} · {megabytes(take.bytes)} · {clockTime(take.createdAt)}
      </Typography>
      {running && (
        <>
          <LinearProgress
            variant="determinate"
            value={(take.framesDone / all) * 100}
            aria-label={`Progress of take ${take.number}`}
            sx={{ my: 0.75 }}
          />
          <Typography sx={{ fontFamily: MONO, fontSize: 12, color: 'text.secondary' }}>
            {progress(take, all)}
          </Typography>
        </>
      )}
      {take.settled && (
        <Typography sx={{ fontSize: 12, color: 'text.secondary' }}>
          {take.settled === 'stored' ? 'Starts as an earlier take has settled' : 'Settles first'}
        </Typography>
      )}
      {take.fault && (
        <Typography role="alert" sx={{ fontSize: 12.5, color: 'error.main' }}>
          {take.fault}
        </Typography>
      )}
      <Box sx={{ display: 'flex', gap: 1, mt: 0.75, flexWrap: 'wrap' }}>
        {take.status === 'done' && (
          <Button
            variant={chosen ? 'contained' : 'outlined'}
            onClick={() => {
              onChoose()
              if (!chosen) engine.play()
            }}
          >
            {chosen ? 'Back to the preview' : 'Play'}
          </Button>
        )}
        {running && (
          <Button
            variant="outlined"
            color="inherit"
            onClick={() => void run('cancel')()}
            sx={{ borderColor: 'divider' }}
          >
            Cancel
          </Button>
        )}
        {(take.status === 'failed' || take.status === 'cancelled') && (
          <Button variant="outlined" onClick={() => void run('retry')()}>
            Try again
          </Button>
        )}
      </Box>
      {take.status === 'done' && (
        <Box sx={{ mt: 0.75 }}>
          {EXPORTS.map(({ kind, label, help }) => (
            <Typography key={kind} sx={{ fontSize: 12.5, lineHeight: '22px' }}>
              <Link
                href={`/api/takes/${take.id}/export?format=${kind}${backward ? '&backward=1' : ''}`}
                download
              >
                {label}
              </Link>
              <Box component="span" sx={{ color: 'text.secondary' }}>
                {' '}
                {help}
              </Box>
            </Typography>
          ))}
        </Box>
      )}
    </Box>
  )
}

function progress(take: Take, all: number): string {
  if (take.status === 'waiting') return 'waits for a worker'
  const seconds = (Date.now() - new Date(take.startedAt ?? take.createdAt).getTime()) / 1000
  const left =
    take.framesDone > 2 ? ` · ${duration((seconds / take.framesDone) * (all - take.framesDone))} left` : ''
  return `${take.framesDone} of ${all} frames${left}`
}
