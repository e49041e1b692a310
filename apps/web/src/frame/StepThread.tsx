import { Box, Typography } from '@mui/material'
import { Link } from 'react-router'
import { STEPS, type Step } from '../steps/steps.ts'
import { api } from '../store/api.ts'
import { useShot, useStore } from '../store/index.ts'

/** The steps as words on one thread; a knot marks the one that is open. */
export function StepThread({ step }: { step: Step }) {
  const shot = useShot()
  const shotId = useStore((state) => state.session.shotId)
  const takes = api.useTakesQuery(shotId ?? '', { skip: !shotId }).data?.length ?? 0
  return (
    <Box
      component="nav"
      aria-label="Steps"
      sx={{ position: 'relative', pt: 2.5, borderRight: 1, borderColor: 'divider' }}
    >
      <Box
        aria-hidden
        sx={{
          position: 'absolute',
          left: 19,
          top: 0,
          width: 2,
          height: 36 + STEPS.length * 62,
          bgcolor: 'primary.main',
          opacity: 0.55,
        }}
      />
      {STEPS.map(({ id, label, count }) => {
        const here = id === step
        return (
          <Box
            key={id}
            component={Link}
            to={`/shots/${shotId}/${id}`}
            aria-current={here ? 'step' : undefined}
            sx={{
              display: 'grid',
              gridTemplateColumns: '38px 1fr',
              height: 62,
              textDecoration: 'none',
              color: here ? 'primary.main' : 'text.primary',
              '&:hover': { color: 'primary.main' },
            }}
          >
            <Knot tied={here} />
            <Box>
              <Typography sx={{ fontSize: 13, fontWeight: here ? 600 : 400, lineHeight: '20px' }}>
                {label}
              </Typography>
              <Typography
                sx={{
                  fontSize: 12,
                  fontVariantNumeric: 'tabular-nums',
                  color: here ? 'primary.main' : 'text.secondary',
                  whiteSpace: 'nowrap',
                }}
              >
                {id === 'takes' ? takes : count(shot)}
              </Typography>
            </Box>
          </Box>
        )
      })}
    </Box>
  )
}

function Knot({ tied }: { tied: boolean }) {
  return (
    <svg width="40" height="34" viewBox="0 0 40 34" aria-hidden style={{ overflow: 'visible' }}>
      {tied ? (
        <>
          <circle cx="20" cy="10" r="7" fill="var(--mui-palette-primary-main)" />
          <path
            d="M15 14c-4 6 3 11 7 7s-3-8-7-2"
            fill="none"
            stroke="var(--mui-palette-primary-main)"
            strokeWidth="2"
            opacity="0.7"
          />
        </>
      ) : (
        <circle
          cx="20"
          cy="10"
          r="4.5"
          fill="var(--mui-palette-background-default)"
          stroke="var(--mui-palette-primary-main)"
          strokeWidth="2"
        />
      )}
    </svg>
  )
}
