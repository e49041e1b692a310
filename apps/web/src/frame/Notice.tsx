import { Alert, Button, Snackbar } from '@mui/material'
import { ActionCreators } from 'redux-undo'
import { api, faultOf } from '../store/api.ts'
import { useAct, useStore } from '../store/index.ts'
import { noticed, type Session } from '../store/session.ts'

/** The one line that tells what has just happened, with its undo. Errors stay until they are closed. */
export function Notice() {
  const act = useAct()
  const notice = useStore((state) => state.session.notice)
  const [restoreShot] = api.useRestoreShotMutation()
  const [takeAction] = api.useTakeActionMutation()
  if (!notice) return null
  const close = (): void => void act(noticed(null))
  const undo = (what: NonNullable<NonNullable<Session['notice']>['undo']>) => () => {
    close()
    if (what.kind === 'edit') return void act(ActionCreators.undo())
    const takes = what.kind === 'takes' ? what.ids : []
    const asked =
      what.kind === 'shot'
        ? [restoreShot(what.id)]
        : [...takes, ...(what.kind === 'take' ? [what.id] : [])].map((id) =>
            takeAction({ id, action: 'restore' }),
          )
    for (const one of asked)
      void one.then(({ error }) => error && act(noticed({ text: faultOf(error), tone: 'error' })))
  }
  return (
    <Snackbar
      key={notice.text}
      open
      autoHideDuration={notice.tone === 'error' || notice.text.endsWith('…') ? null : 8000}
      anchorOrigin={{ vertical: 'bottom', horizontal: 'left' }}
      onClose={(_, reason) => reason === 'timeout' && close()}
    >
      <Alert
        severity={notice.tone}
        variant="outlined"
        onClose={close}
        sx={{ bgcolor: 'background.paper', maxWidth: 560, whiteSpace: 'pre-line' }}
        action={
          notice.undo && (
            <Button color="inherit" onClick={undo(notice.undo)}>
              Undo
            </Button>
          )
        }
      >
        {notice.text}
      </Alert>
    </Snackbar>
  )
}
