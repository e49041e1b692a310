import { Box, Button, LinearProgress, Typography } from '@mui/material'
import { useState } from 'react'
import { api, faultOf, type Take } from '../store/api.ts'
import { useAct } from '../store/index.ts'
import { noticed } from '../store/session.ts'
import { megabytes } from '../words.ts'
import { ContactSheet } from './ContactSheet.tsx'
import { framesOf, isUnderWay, shortName } from './takeWords.ts'

interface SweepCardProps {
  /** All takes of the sweep that are left, in the order of their numbers. */
  takes: Take[]
  chosen: string | null
  onChoose(take: string | null): void
}

/** The takes of a sweep as one: how far they are, and the way to see them side by side. */
export function SweepCard({ takes, chosen, onChoose }: SweepCardProps) {
  const done = takes.filter(({ status }) => status === 'done')
  const underWay = takes.filter(isUnderWay)
  const all = takes.reduce((sum, take) => sum + framesOf(take), 0)
  const computed = takes.reduce((sum, take) => sum + take.framesDone, 0)
  const failed = takes.find(({ fault }) => fault)
  return (
    <Box
      data-testid="sweep"
      sx={{
        border: 1,
        borderColor: takes.some(({ id }) => id === chosen) ? 'primary.main' : 'divider',
        borderRadius: 1,
        p: 1.25,
        mb: 1,
        bgcolor: 'background.raised',
      }}
    >
      <Typography sx={{ fontWeight: 600 }}>Sweep of {takes.length}</Typography>
      <Typography sx={{ fontSize: 12.5, color: 'text.secondary' }}>
        {takes[0]!.varied!.map(({ name }) => shortName(name)).join(' × ')} ·{' '}
        {megabytes(takes.reduce((sum, { bytes }) => sum + bytes, 0))}
      </Typography>
      {underWay.length > 0 && (
        <LinearProgress
          variant="determinate"
          value={(computed / all) * 100}
          aria-label="Progress of the sweep"
          sx={{ my: 0.75 }}
        />
      )}
      <Typography sx={{ fontSize: 12, color: 'text.secondary' }}>
        {done.length} of {takes.length} done
      </Typography>
      {failed && (
        <Typography role="alert" sx={{ fontSize: 12.5, color: 'error.main' }}>
          Take {failed.number}: {failed.fault}
        </Typography>
      )}
      <Actions takes={takes} chosen={chosen} onChoose={onChoose} />
    </Box>
  )
}

function Actions({ takes, chosen, onChoose }: SweepCardProps) {
  const act = useAct()
  const [isOpen, setOpen] = useState(false)
  const [remove] = api.useDeleteTakeMutation()
  const [turn] = api.useTakeActionMutation()
  const done = takes.filter(({ status }) => status === 'done')
  const underWay = takes.filter(isUnderWay)
  /** Does it with one after the other; true when nothing was refused. */
  const each = async (some: Take[], work: (take: Take) => Promise<{ error?: unknown }>): Promise<boolean> => {
    for (const take of some) {
      const { error } = await work(take)
      if (!error) continue
      act(noticed({ text: faultOf(error), tone: 'error' }))
      return false
    }
    return true
  }
  const drop = async (): Promise<void> => {
    if (!(await each(takes, ({ id }) => remove(id)))) return
    const undo = { kind: 'takes', ids: takes.map(({ id }) => id) } as const
    act(noticed({ text: `The sweep of ${takes.length} is deleted`, tone: 'info', undo }))
  }
  return (
    <>
      <Box sx={{ display: 'flex', gap: 1, mt: 0.75, flexWrap: 'wrap' }}>
        <Button variant="outlined" disabled={done.length === 0} onClick={() => setOpen(true)}>
          Side by side
        </Button>
        {takes.some(({ id }) => id === chosen) && (
          <Button variant="contained" onClick={() => onChoose(null)}>
            Back to the preview
          </Button>
        )}
        {underWay.length > 0 ? (
          <Button
            variant="outlined"
            color="inherit"
            sx={{ borderColor: 'divider' }}
            onClick={() => void each(underWay, ({ id }) => turn({ id, action: 'cancel' }))}
          >
            Cancel
          </Button>
        ) : (
          <Button
            variant="outlined"
            color="inherit"
            sx={{ borderColor: 'divider' }}
            onClick={() => void drop()}
          >
            Delete
          </Button>
        )}
      </Box>
      {isOpen && (
        <ContactSheet
          takes={done}
          close={() => setOpen(false)}
          onPlay={(take) => {
            setOpen(false)
            onChoose(take)
          }}
        />
      )}
    </>
  )
}
