import DeleteOutlined from '@mui/icons-material/DeleteOutlined'
import LockOpenOutlined from '@mui/icons-material/LockOpenOutlined'
import LockOutlined from '@mui/icons-material/LockOutlined'
import { Box, Button, IconButton, LinearProgress, Typography } from '@mui/material'
import { Choices, Row } from '../fields/Choices.tsx'
import { engine } from '../engine/engine.ts'
import { api, faultOf, type Take, type TakeAction } from '../store/api.ts'
import { useAct, useStore } from '../store/index.ts'
import { noticed, shownAs } from '../store/session.ts'
import { MONO } from '../theme.ts'
import { askedFor } from './FileChoices.tsx'
import { framesOf, isUnderWay, progressOf } from '../sweeps/takeWords.ts'
import { clockTime, megabytes } from '../words.ts'

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
      {(isUnderWay(take) || take.status === 'paused') && <Progress take={take} />}
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
      {take.status === 'done' && <Direction />}
      <Actions take={take} chosen={chosen} onChoose={onChoose} />
    </Box>
  )
}

/** Which way takes are played and written. */
function Direction() {
  const act = useAct()
  const backward = useStore((state) => state.session.backward)
  return (
    <Row label="Direction" help="Backward plays and writes the last frame first, velocities turned round">
      <Choices
        name="Direction"
        value={backward ? 'backward' : 'forward'}
        options={{ forward: 'forward', backward: 'backward' }}
        onChange={(next) => act(shownAs({ backward: next === 'backward' }))}
      />
    </Row>
  )
}

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
        <Protection take={take} />
        <IconButton
          size="small"
          disabled={take.protected}
          aria-label={`Delete take ${take.number}`}
          onClick={() => void drop()}
        >
          <DeleteOutlined sx={{ fontSize: 16 }} />
        </IconButton>
      </Box>
      <Typography sx={{ fontFamily: MONO, fontSize: 12, color: 'text.secondary' }}>
        {take.frames.first}–{take.frames.last} · {megabytes(take.bytes)} · {clockTime(take.createdAt)}
      </Typography>
    </>
  )
}

/** A take that is protected is neither deleted nor cleared away. */
function Protection({ take }: { take: Take }) {
  const act = useAct()
  const [action] = api.useTakeActionMutation()
  const turn = async (): Promise<void> => {
    const { error } = await action({ id: take.id, action: take.protected ? 'unprotect' : 'protect' })
    if (error) act(noticed({ text: faultOf(error), tone: 'error' }))
  }
  const Glyph = take.protected ? LockOutlined : LockOpenOutlined
  return (
    <IconButton
      size="small"
      aria-pressed={take.protected}
      aria-label={`Protect take ${take.number}`}
      title={take.protected ? 'Protected: it can’t be deleted' : 'Protect it from being deleted'}
      color={take.protected ? 'primary' : 'default'}
      onClick={() => void turn()}
    >
      <Glyph sx={{ fontSize: 16 }} />
    </IconButton>
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

/** What can be done with a take of a status: what the button says, what it asks for, what that means. */
const CANCEL = ['Cancel', 'cancel', 'Ends it; its frames go'] as const
const PAUSE = ['Pause', 'pause', 'It stays as far as it is; others come first'] as const
const AGAIN = ['Try again', 'retry', 'Computes it anew'] as const
const TURNS: Record<Take['status'], (readonly [string, TakeAction, string])[]> = {
  waiting: [['Compute next', 'first', 'Before all others that wait'], PAUSE, CANCEL],
  computing: [PAUSE, CANCEL],
  paused: [['Go on', 'resume', 'From where it was paused'], CANCEL],
  failed: [AGAIN],
  cancelled: [AGAIN],
  done: [],
}

function Actions({ take, chosen, onChoose }: TakeCardProps) {
  const act = useAct()
  const [action] = api.useTakeActionMutation()
  const run = async (name: TakeAction): Promise<void> => {
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
            {chosen ? 'Back to the preview' : `Play take ${take.number}`}
          </Button>
          <Compare take={take} chosen={chosen} />
          <Download take={take} />
          <ToFolder take={take} />
        </>
      )}
      {TURNS[take.status].map(([label, name, hint]) => (
        <Button
          key={name}
          variant="outlined"
          color={name === 'cancel' ? 'inherit' : 'primary'}
          title={hint}
          onClick={() => void run(name)}
          sx={name === 'cancel' ? { borderColor: 'divider' } : {}}
        >
          {label}
        </Button>
      ))}
    </Box>
  )
}

/** Writes the files of a finished take on the server, where it has a folder for them. */
function ToFolder({ take }: { take: Take }) {
  const act = useAct()
  const session = useStore((state) => state.session)
  const { data: space } = api.useSpaceQuery()
  const [write, { isLoading }] = api.useWriteTakeMutation()
  if (!space?.folder) return null
  const run = async (): Promise<void> => {
    const { data, error } = await write({ id: take.id, asked: askedFor(session) })
    const text = error ? faultOf(error) : `${data?.folder} has the take, in ${data?.files} files`
    act(noticed({ text, tone: error ? 'error' : 'info' }))
  }
  return (
    <Button
      variant="outlined"
      disabled={isLoading}
      title={`Into ${space.folder}, where a renderer finds it`}
      onClick={() => void run()}
    >
      {isLoading ? 'Writing…' : 'Write on the server'}
    </Button>
  )
}

/** Puts a take beside what is on the stage. */
function Compare({ take, chosen }: Pick<TakeCardProps, 'take' | 'chosen'>) {
  const act = useAct()
  const isOn = useStore((state) => state.session.compared === take.id)
  return (
    <Button
      variant="outlined"
      disabled={chosen && !isOn}
      aria-pressed={isOn}
      title={
        chosen
          ? 'It is on the stage: compare another with it'
          : 'Beside what is on the stage, at the same frame'
      }
      onClick={() => act(shownAs({ compared: isOn ? null : take.id, split: 0.5 }))}
    >
      {isOn ? 'Stop comparing' : 'Compare'}
    </Button>
  )
}

/** The files of a finished take, as chosen above. */
function Download({ take }: { take: Take }) {
  const session = useStore((state) => state.session)
  const asked = new URLSearchParams(askedFor(session)).toString()
  return (
    <Button variant="outlined" component="a" href={`/api/takes/${take.id}/export?${asked}`} download>
      Download
    </Button>
  )
}
