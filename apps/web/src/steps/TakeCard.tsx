import DeleteOutlined from '@mui/icons-material/DeleteOutlined'
import { Box, Button, IconButton, LinearProgress, Typography } from '@mui/material'
import { engine } from '../engine/engine.ts'
import { api, faultOf, type Take } from '../store/api.ts'
import { useAct, useStore } from '../store/index.ts'
import { noticed } from '../store/session.ts'
import { MONO } from '../theme.ts'
import { clockTime, duration, megabytes } from '../words.ts'

interface TakeCardProps {
  take: Take
  chosen: boolean
  onChoose(): void
}

/** One take: how far it is, and what can be done with it. */
export function TakeCard({ take, chosen, onChoose }: TakeCardProps) {
  const { settled, note, fault } = take
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
      <Heading take={take} />
      {isRunning(take) && <Progress take={take} />}
      {settled && (
        <Typography sx={{ fontSize: 12, color: 'text.secondary' }}>
          {settled === 'stored' ? 'Starts as an earlier take has settled' : 'Settles first'}
        </Typography>
      )}
      {note && <Typography sx={{ fontSize: 12, color: 'text.secondary' }}>{note}</Typography>}
      {fault && (
        <Typography role="alert" sx={{ fontSize: 12.5, color: 'error.main' }}>
          {fault}
        </Typography>
      )}
      <Actions take={take} chosen={chosen} onChoose={onChoose} />
    </Box>
  )
}

const isRunning = ({ status }: Take): boolean => status === 'waiting' || status === 'computing'
const framesOf = ({ frames }: Take): number => frames.last - frames.first + 1

function Heading({ take }: { take: Take }) {
  const act = useAct()
  const [remove] = api.useDeleteTakeMutation()
  const drop = async (): Promise<void> => {
    const { error } = await remove(take.id)
    if (error) return void act(noticed({ text: faultOf(error), tone: 'error' }))
    const undo = { kind: 'take', id: take.id } as const
    act(noticed({ text: `Take ${take.number} is deleted`, tone: 'info', undo }))
  }
  return (
    <>
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
    </>
  )
}

function Progress({ take }: { take: Take }) {
  return (
    <>
      <LinearProgress
        variant="determinate"
        value={(take.framesDone / framesOf(take)) * 100}
        aria-label={`Progress of take ${take.number}`}
        sx={{ my: 0.75 }}
      />
      <Typography sx={{ fontFamily: MONO, fontSize: 12, color: 'text.secondary' }}>
        {progressOf(take)}
      </Typography>
    </>
  )
}

function progressOf(take: Take): string {
  const all = framesOf(take)
  if (take.status === 'waiting') return 'waits for a worker'
  const seconds = (Date.now() - new Date(take.startedAt ?? take.createdAt).getTime()) / 1000
  const left =
    take.framesDone > 2 ? ` · ${duration((seconds / take.framesDone) * (all - take.framesDone))} left` : ''
  return `${take.framesDone} of ${all} frames${left}`
}

function Actions({ take, chosen, onChoose }: TakeCardProps) {
  const act = useAct()
  const [action] = api.useTakeActionMutation()
  const run = async (name: 'cancel' | 'retry'): Promise<void> => {
    const result = await action({ id: take.id, action: name })
    if (result.error) act(noticed({ text: faultOf(result.error), tone: 'error' }))
  }
  const play = (): void => {
    onChoose()
    if (!chosen) engine.play()
  }
  return (
    <Box sx={{ display: 'flex', gap: 1, mt: 0.75, flexWrap: 'wrap' }}>
      {take.status === 'done' && (
        <>
          <Button variant={chosen ? 'contained' : 'outlined'} onClick={play}>
            {chosen ? 'Back to the preview' : 'Play'}
          </Button>
          <Download take={take} />
        </>
      )}
      {isRunning(take) && (
        <Button
          variant="outlined"
          color="inherit"
          onClick={() => void run('cancel')}
          sx={{ borderColor: 'divider' }}
        >
          Cancel
        </Button>
      )}
      {(take.status === 'failed' || take.status === 'cancelled') && (
        <Button variant="outlined" onClick={() => void run('retry')}>
          Try again
        </Button>
      )}
    </Box>
  )
}

/** The files of a finished take, in the format and the direction that are chosen above. */
function Download({ take }: { take: Take }) {
  const { backward, format } = useStore((state) => state.session)
  return (
    <Button
      variant="outlined"
      component="a"
      href={`/api/takes/${take.id}/export?format=${format}${backward ? '&backward=1' : ''}`}
      download
    >
      Download
    </Button>
  )
}
