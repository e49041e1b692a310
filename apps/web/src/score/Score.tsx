import DeleteOutline from '@mui/icons-material/DeleteOutlined'
import { Box, Button, ButtonBase, IconButton, Menu, MenuItem, Tooltip, Typography } from '@mui/material'
import { INFLUENCES, valueAt, type Influence, type Population } from '@tangle/core'
import { useState } from 'react'
import { engine } from '../engine/engine.ts'
import { useEngine, useEngineSlowly } from '../engine/useEngine.ts'
import { addInfluence } from '../steps/populations.ts'
import { usePopulation } from '../steps/usePopulation.ts'
import { useAct, useShot, useStore } from '../store/index.ts'
import { selected, soloed } from '../store/session.ts'
import { removed, set, type Path } from '../store/shot.ts'
import { MONO } from '../theme.ts'
import { count } from '../words.ts'
import { WeightCell } from './WeightCell.tsx'

const NAME_WIDTH = 250
const CELL_WIDTH = 72

/** The heart: every influence a row, its weight in each phase on the left, its strength over time on the right. */
export function Score() {
  const { population, index } = usePopulation()
  if (!population) {
    return (
      <Box sx={{ p: 2, color: 'text.secondary' }}>
        <Typography sx={{ fontSize: 13 }}>Nothing acts yet: add a population in the Births step first.</Typography>
      </Box>
    )
  }
  const columns = `${NAME_WIDTH}px repeat(${population.phases.length}, ${CELL_WIDTH}px) 16px 1fr`
  return (
    <Box component="section" aria-label="Score" sx={{ height: '100%', display: 'flex', flexDirection: 'column', minHeight: 0 }}>
      <CueLine population={population} index={index} />
      <Box sx={{ display: 'grid', gridTemplateColumns: columns, alignItems: 'center', height: 26, borderBottom: 1, borderColor: 'divider', pl: 1.5 }}>
        <Typography sx={{ fontSize: 12, color: 'text.secondary', pl: 3 }}>Influence</Typography>
        {population.phases.map((phase) => (
          <Typography key={phase} sx={{ fontSize: 12, color: 'text.secondary', textAlign: 'center' }}>{phase}</Typography>
        ))}
        <span />
        <Ruler />
      </Box>
      <Box sx={{ overflowY: 'auto', flex: 1, minHeight: 0, position: 'relative' }}>
        {population.influences.map((influence, i) => (
          <ScoreRow key={influence.id} population={population} influence={influence} path={['populations', index, 'influences', i]} columns={columns} />
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

/** The phases in order with how many are in each now, and what can be added. */
function CueLine({ population, index }: { population: Population; index: number }) {
  const act = useAct()
  const shot = useShot()
  const [anchor, setAnchor] = useState<HTMLElement | null>(null)
  const measures = useEngineSlowly((e) => e.measures()?.populations.find((p) => p.id === population.id))
  const share = shot.quality.previewShare
  return (
    <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, height: 36, px: 1.5, borderBottom: 1, borderColor: 'divider' }}>
      {shot.populations.length > 1 &&
        shot.populations.map((one) => (
          <Button key={one.id} color={one.id === population.id ? 'primary' : 'inherit'} onClick={() => act(selected({ population: one.id, influence: null }))}>{one.name}</Button>
        ))}
      {population.phases.map((phase) => (
        <Box key={phase} sx={{ border: 1, borderColor: 'divider', bgcolor: 'background.raised', borderRadius: 3, px: 1.25, height: 26, display: 'flex', alignItems: 'center', gap: 1 }}>
          <Typography sx={{ fontSize: 13, fontWeight: 600 }}>{phase}</Typography>
          <Typography sx={{ fontFamily: MONO, fontSize: 12, color: 'text.secondary' }}>{count(measures?.phases[phase] ?? 0)}</Typography>
        </Box>
      ))}
      <Typography sx={{ fontSize: 12.5, color: 'text.secondary' }}>— end of life ⟶ gone</Typography>
      <Box sx={{ flex: 1 }} />
      <Tooltip title="Part of the particles that the preview computes; takes compute all">
        <Typography component="span" sx={{ fontSize: 12.5, color: 'text.secondary' }}>Share</Typography>
      </Tooltip>
      {[1, 0.3, 0.1].map((part) => (
        <Button key={part} color={part === share ? 'primary' : 'inherit'} aria-pressed={part === share} onClick={() => act(set({ path: ['quality', 'previewShare'], value: part }))} sx={{ px: 0.75, fontFamily: MONO, fontSize: 12 }}>
          {Math.round(part * 100)} %
        </Button>
      ))}
      <Button variant="outlined" onClick={(event) => setAnchor(event.currentTarget)}>+ Influence</Button>
      <Menu open={anchor !== null} anchorEl={anchor} onClose={() => setAnchor(null)} anchorOrigin={{ vertical: 'top', horizontal: 'right' }} transformOrigin={{ vertical: 'bottom', horizontal: 'right' }}>
        {INFLUENCES.map((kind) => (
          <MenuItem
            key={kind.kind}
            onClick={() => {
              addInfluence(population, index, kind.kind)
              setAnchor(null)
            }}
          >
            <Box component="span" aria-hidden sx={{ width: 24 }}>{kind.glyph}</Box>
            <Box>
              {kind.label}
              <Typography sx={{ fontSize: 12, color: 'text.secondary' }}>{kind.help}</Typography>
            </Box>
          </MenuItem>
        ))}
      </Menu>
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
  const chosen = useStore((state) => state.session.selected.influence) === influence.id
  const solo = useStore((state) => state.session.solo)
  const quiet = influence.muted || (solo !== null && solo !== influence.id)
  const name = influence.name ?? kind.label
  const choose = (): void => void act(selected({ population: population.id, influence: influence.id }))
  return (
    <Box
      role="group" aria-label={name} onClick={choose}
      sx={{ display: 'grid', gridTemplateColumns: columns, alignItems: 'center', height: 30, pl: 1.5, borderBottom: 1, borderColor: 'divider', bgcolor: chosen ? 'background.row' : 'transparent', boxShadow: (theme) => (chosen ? `inset 2px 0 ${theme.vars?.palette.primary.main ?? ''}` : 'none'), '& .row-action': { opacity: chosen ? 1 : 0 }, '&:hover .row-action, &:focus-within .row-action': { opacity: 1 } }}
    >
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 0.75, minWidth: 0, pr: 1 }}>
        <Box aria-hidden sx={{ width: 18, color: 'text.secondary' }}>{kind.glyph}</Box>
        <Typography noWrap component="button" onClick={choose} aria-pressed={chosen} sx={{ all: 'unset', cursor: 'pointer', fontSize: 13, flex: 1, fontWeight: chosen ? 600 : 400, opacity: quiet ? 0.45 : 1, '&:focus-visible': { outline: '2px solid', outlineColor: 'primary.main' } }}>{name}</Typography>
        <IconButton className="row-action" size="small" aria-label={`Remove ${name}`} onClick={() => act(removed({ path }))} sx={{ p: 0.25 }}><DeleteOutline sx={{ fontSize: 15 }} /></IconButton>
        <Letter letter="M" label={`Mute ${name}`} on={influence.muted === true} onClick={() => act(set({ path: [...path, 'muted'], value: influence.muted ? undefined : true }))} />
        <Letter letter="S" label={`Solo ${name}`} on={solo === influence.id} onClick={() => act(soloed(influence.id))} />
      </Box>
      {population.phases.map((phase) => (
        <WeightCell key={phase} label={`Weight of ${name} in ${phase}`} value={influence.weights[phase] ?? 0} onChange={(value, gesture) => act(set({ path: [...path, 'weights', phase], value, ...(gesture ? { gesture } : {}) }))} />
      ))}
      <span />
      <StrengthLine influence={influence} chosen={chosen} quiet={quiet === true} />
    </Box>
  )
}

function Letter({ letter, label, on, onClick }: { letter: string; label: string; on: boolean; onClick(): void }) {
  return (
    <ButtonBase
      aria-label={label} aria-pressed={on}
      onClick={(event) => {
        event.stopPropagation()
        onClick()
      }}
      sx={{ width: 20, height: 18, borderRadius: 0.5, border: 1, borderColor: on ? 'warning.main' : 'divider', fontFamily: MONO, fontSize: 12, color: on ? 'warning.main' : 'text.secondary', fontWeight: 600 }}
    >
      {letter}
    </ButtonBase>
  )
}

const useFrames = () => useShot().frames

/** Frame numbers above the strengths, with the playhead's mark. */
function Ruler() {
  const { first, last } = useFrames()
  const frame = useEngine((e) => e.frame)
  const span = Math.max(1, last - first)
  const every = [5, 10, 20, 50, 100, 200, 500, 1000].find((n) => span / n <= 12) ?? 2000
  const numbers = [first, ...Array.from({ length: Math.floor(last / every) + 1 }, (_, i) => i * every).filter((n) => n > first + every / 2 && n <= last)]
  return (
    <Box
      sx={{ position: 'relative', height: '100%', mr: 2.5, cursor: 'pointer' }}
      onPointerDown={(event) => {
        const { x, width } = event.currentTarget.getBoundingClientRect()
        engine.seek(first + ((event.clientX - x) / width) * span)
      }}
    >
      {numbers.map((n) => (
        <Typography key={n} sx={{ position: 'absolute', left: `${((n - first) / span) * 100}%`, top: 4, transform: 'translateX(-50%)', fontFamily: MONO, fontSize: 12, color: 'text.secondary' }}>{n}</Typography>
      ))}
      <Box sx={{ position: 'absolute', left: `${((frame - first) / span) * 100}%`, bottom: 0, ml: '-4px', borderLeft: '4px solid transparent', borderRight: '4px solid transparent', borderTop: '5px solid', borderTopColor: 'warning.main' }} />
    </Box>
  )
}

const HEIGHT = 30
const POINTS = 160

/** The strength over the frames of the shot, scaled to its own highest value. */
function StrengthLine({ influence, chosen, quiet }: { influence: Influence; chosen: boolean; quiet: boolean }) {
  const { first, last } = useFrames()
  const frame = useEngine((e) => e.frame)
  const span = Math.max(1, last - first)
  const { strength } = influence
  const values = Array.from({ length: POINTS + 1 }, (_, i) => valueAt(strength, first + (span * i) / POINTS))
  const high = Math.max(0, ...values)
  const low = Math.min(0, ...values)
  const y = (value: number): number => (high === low ? HEIGHT / 2 : HEIGHT - 6 - ((value - low) / (high - low)) * (HEIGHT - 12))
  const x = (at: number): number => ((at - first) / span) * 1000
  const line = values.map((value, i) => `${i === 0 ? 'M' : 'L'}${((1000 * i) / POINTS).toFixed(1)} ${y(value).toFixed(1)}`).join('')
  return (
    <Box sx={{ position: 'relative', height: HEIGHT, mr: 2.5, opacity: quiet ? 0.35 : 1 }}>
      <svg width="100%" height={HEIGHT} viewBox={`0 0 1000 ${HEIGHT}`} preserveAspectRatio="none" style={{ overflow: 'visible', display: 'block' }} aria-hidden>
        <path d={line} fill="none" stroke={chosen ? 'var(--mui-palette-primary-main)' : 'var(--mui-palette-text-secondary)'} strokeWidth={chosen ? 2 : 1.3} vectorEffect="non-scaling-stroke" />
        <path d={`M${x(frame)} 0V${HEIGHT}`} stroke="var(--mui-palette-warning-main)" strokeWidth="1.3" vectorEffect="non-scaling-stroke" />
      </svg>
      {typeof strength === 'object' &&
        strength.keys.filter((key) => key[0] >= first && key[0] <= last).map((key) => (
          <Box key={key[0]} sx={{ position: 'absolute', left: `${((key[0] - first) / span) * 100}%`, top: y(key[1]), width: 7, height: 7, m: '-3.5px', borderRadius: '2px', bgcolor: 'text.primary' }} />
        ))}
    </Box>
  )
}
