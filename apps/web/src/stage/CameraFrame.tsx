import { Box, Button } from '@mui/material'
import { ASPECTS } from '@tangle/core'
import { useAct, useShot, useStore } from '../store/index.ts'
import { shownAs } from '../store/session.ts'

/** Of the picture, in which nothing is lost on any screen (common practice). */
const SAFE = 0.9

/** The edges of the picture of the camera that one looks through, and the way out of it. */
export function CameraFrame() {
  const act = useAct()
  const { cameras } = useShot()
  const through = useStore((state) => state.session.camera)
  const camera = cameras.find(({ id }) => id === through)
  if (!camera) return null
  const aspect = ASPECTS[camera.aspect]!
  return (
    <Box sx={{ position: 'absolute', inset: 0, overflow: 'hidden', pointerEvents: 'none' }}>
      <Box
        data-testid="camera-frame"
        sx={{
          position: 'absolute',
          inset: 0,
          m: 'auto',
          width: `min(100cqw, 100cqh * ${aspect})`,
          aspectRatio: String(aspect),
          boxShadow: '0 0 0 4000px rgba(10, 8, 16, 0.55)',
        }}
      >
        <Box
          sx={{
            position: 'absolute',
            inset: `${50 * (1 - SAFE)}%`,
            border: '1px dashed rgba(239, 232, 220, 0.35)',
          }}
        />
      </Box>
      <Button
        variant="outlined"
        color="inherit"
        onClick={() => act(shownAs({ camera: null }))}
        sx={{
          position: 'absolute',
          bottom: 8,
          left: '50%',
          transform: 'translateX(-50%)',
          pointerEvents: 'auto',
          color: 'onDarkStage',
          bgcolor: 'shadeDark',
          borderColor: 'divider',
        }}
      >
        Leave {camera.name}
      </Button>
    </Box>
  )
}
