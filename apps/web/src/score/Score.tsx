import DeleteOutlined from '@mui/icons-material/DeleteOutlined'
import { Box, ButtonBase, IconButton, Typography } from '@mui/material'
import { INFLUENCES, type Influence, type Population } from '@tangle/core'
import { useInfluence, usePopulation } from '../steps/usePopulation.ts'
import { useAct, useStore } from '../store/index.ts'
import { selected, soloed } from '../store/session.ts'
import { removed, set, type Path } from '../store/shot.ts'
import { MONO } from '../theme.ts'
import { CueLine } from './CueLine.tsx'
import { Ruler, StrengthLine } from './StrengthLine.tsx'
import { WeightCell } from './WeightCell.tsx'

const NAME_WIDTH = 250
const CELL_WIDTH = 72

/** The heart: every influence a row, its weight in each phase on the left, its strength over time on the right. */
export function Score() {
  const { population, index } = usePopulation()
  if (!population) {
    return (
      <Box sx={{ p: 2, color: 'text.secondary' }}>
        <Typography sx={{ fontSize: 13 }}>
          Nothing acts yet: add a population in the Births step first.
        </Typography>
      </Box>
    )
  }
  const columns = `${NAME_WIDTH}px repeat(${population.phases.length}, ${CELL_WIDTH}px) 16px 1fr`
  return (
    <Box
      component="section"
      aria-label="Score"
      sx={{ height: '100%', display: 'flex', flexDirection: 'column', minHeight: 0 }}
    >
      <CueLine population={population} index={index} />
      <Box
        sx={{
          display: 'grid',
          gridTemplateColumns: columns,
          alignItems: 'center',
          height: 26,
          borderBottom: 1,
          borderColor: 'divider',
          pl: 1.5,
        }}
      >
        <Typography sx={{ fontSize: 12, color: 'text.secondary', pl: 3 }}>Influence</Typography>
        {population.phases.map((phase) => (
          <Typography key={phase} sx={{ fontSize: 12, color: 'text.secondary', textAlign: 'center' }}>
            {phase}
          </Typography>
        ))}
        <span />
        <Ruler />
      </Box>
      <Box sx={{ overflowY: 'auto', flex: 1, minHeight: 0, position: 'relative' }}>
        {population.influences.map((influence, i) => (
          <ScoreRow
            key={influence.id}
            population={population}
            influence={influence}
            path={['populations', index, 'influences', i]}
            columns={columns}
          />
        ))}
        {population.influences.length === 0 && (
          <Typography sx={{ p: 2, fontSize: 13, color: 'text.secondary' }}>
            Nothing moves these particles yet. Add gravity, wind or turbulence above; each becomes a row here.
          </Typography>
        )}
      </Box>
    </Box>
  )
}

interface ScoreRowProps {
  population: Population
  influence: Influence
  path: Path
  columns: string
}

function ScoreRow({ population, influence, path, columns }: ScoreRowProps) {
  const act = useAct()
  const kind = INFLUENCES.find((one) => one.kind === influence.kind)!
  const chosen = useInfluence(population) === influence
  const solo = useStore((state) => state.session.solo)
  const quiet = influence.muted || (solo !== null && solo !== influence.id)
  const name = influence.name ?? kind.label
  const choose = (): void => void act(selected({ population: population.id, influence: influence.id }))
  return (
    <Box
      role="group"
      aria-label={name}
      onClick={choose}
      sx={{
        display: 'grid',
        gridTemplateColumns: columns,
        alignItems: 'center',
        height: 30,
        pl: 1.5,
        borderBottom: 1,
        borderColor: 'divider',
        bgcolor: chosen ? 'background.row' : 'transparent',
        boxShadow: (theme) => (chosen ? `inset 2px 0 ${theme.vars?.palette.primary.main ?? ''}` : 'none'),
        '& .row-action': { opacity: chosen ? 1 : 0 },
        '&:hover .row-action, &:focus-within .row-action': { opacity: 1 },
      }}
    >
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 0.75, minWidth: 0, pr: 1 }}>
        <Box aria-hidden sx={{ width: 18, color: 'text.secondary' }}>
          {kind.glyph}
        </Box>
        <Typography
          noWrap
          component="button"
          onClick={choose}
          aria-pressed={chosen}
          sx={{
            all: 'unset',
            cursor: 'pointer',
            fontSize: 13,
            flex: 1,
            fontWeight: chosen ? 600 : 400,
            opacity: quiet ? 0.45 : 1,
            '&:focus-visible': { outline: '2px solid', outlineColor: 'primary.main' },
          }}
        >
          {name}
        </Typography>
        <IconButton
          className="row-action"
          size="small"
          aria-label={`Remove ${name}`}
          onClick={() => act(removed({ path }))}
          sx={{ p: 0.25 }}
        >
          <DeleteOutlined sx={{ fontSize: 15 }} />
        </IconButton>
        <Letter
          letter="M"
          label={`Mute ${name}`}
          on={influence.muted === true}
          onClick={() => act(set({ path: [...path, 'muted'], value: influence.muted ? undefined : true }))}
        />
        <Letter
          letter="S"
          label={`Solo ${name}`}
          on={solo === influence.id}
          onClick={() => act(soloed(influence.id))}
        />
      </Box>
      {population.phases.map((phase) => (
        <WeightCell
          key={phase}
          label={`Weight of ${name} in ${phase}`}
          value={influence.weights[phase] ?? 0}
          onChange={(value, gesture) =>
            act(set({ path: [...path, 'weights', phase], value, ...(gesture ? { gesture } : {}) }))
          }
        />
      ))}
      <span />
      <StrengthLine influence={influence} chosen={chosen} quiet={quiet === true} />
    </Box>
  )
}

function Letter({
  letter,
  label,
  on,
  onClick,
}: {
  letter: string
  label: string
  on: boolean
  onClick(): void
}) {
  return (
    <ButtonBase
      aria-label={label}
      aria-pressed={on}
      onClick={(event) => {
        event.stopPropagation()
        onClick()
      }}
      sx={{
        width: 20,
        height: 18,
        borderRadius: 0.5,
        border: 1,
        borderColor: on ? 'warning.main' : 'divider',
        fontFamily: MONO,
        fontSize: 12,
        color: on ? 'warning.main' : 'text.secondary',
        fontWeight: 600,
      }}
    >
      {letter}
    </ButtonBase>
  )
}
