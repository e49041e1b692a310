import { useSortable } from '@dnd-kit/sortable'
import { CSS } from '@dnd-kit/utilities'
import DeleteOutlined from '@mui/icons-material/DeleteOutlined'
import { Box, ButtonBase, IconButton, Typography, type SxProps, type Theme } from '@mui/material'
import {
  curveAt,
  influenceInWords,
  type Influence,
  type InfluenceKind,
  type NumberParameter,
  type Population,
  type Response,
} from '@tangle/core'
import { memo } from 'react'
import { responseKind } from '../fields/Responses.tsx'
import { nameIn, useInfluence } from '../steps/usePopulation.ts'
import { store, useAct, useChange, useStore } from '../store/index.ts'
import { selected, soloed } from '../store/session.ts'
import { removed, set, type Path } from '../store/shot.ts'
import { MONO } from '../theme.ts'
import { PhaseCells } from './PhaseColumns.tsx'
import { StrengthCurve } from './StrengthCurve.tsx'
import { StrengthLine } from './StrengthLine.tsx'
import { WeightCell } from './WeightCell.tsx'

interface ScoreRowProps {
  population: Population
  influence: Influence
  kind: InfluenceKind
  /** Its place, and that of its population. */
  place: number
  index: number
  columns: string
  onMove(from: number, to: number): void
}

/** What makes a row look otherwise: another edit of the shot leaves it as it is. */
const same = (a: ScoreRowProps, b: ScoreRowProps): boolean =>
  a.influence === b.influence &&
  a.population.id === b.population.id &&
  a.population.phases === b.population.phases &&
  a.place === b.place &&
  a.index === b.index &&
  a.columns === b.columns &&
  a.onMove === b.onMove

/** One influence: its weights by phase and its strength over frames; the selected one opens its curve. */
export const ScoreRow = memo(function ScoreRow(props: ScoreRowProps) {
  const { population, influence, kind, place, index, columns } = props
  const act = useAct()
  const chosen = useInfluence(population)?.id === influence.id
  const solo = useStore((state) => state.session.solo)
  const { setNodeRef, transform, transition, attributes, listeners, isDragging } = useSortable({
    id: influence.id,
  })
  const quiet = influence.muted === true || (solo !== null && solo !== influence.id)
  const name = influence.name ?? kind.label
  const path: Path = ['populations', index, 'influences', place]
  const choose = (): void =>
    void act(selected({ population: population.id, influence: influence.id, cue: null }))
  return (
    <Box
      ref={setNodeRef}
      role="group"
      aria-label={name}
      data-row={place}
      onClick={choose}
      style={{ transform: CSS.Translate.toString(transform) ?? '', transition: transition ?? '' }}
      sx={rowStyle(columns, chosen, isDragging)}
    >
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 0.75, minWidth: 0, pr: 1, height: 30 }}>
        <Box {...attributes} {...listeners} title={CARRY} aria-label={`Carry ${name}`} sx={carryStyle}>
          {kind.glyph}
        </Box>
        <RowName {...props} name={name} chosen={chosen} quiet={quiet} choose={choose} />
        {influence.responses?.slice(0, 3).map((response, i) => (
          <SmallCurve key={i} response={response} />
        ))}
        <RowActions influence={influence} name={name} path={path} solo={solo === influence.id} />
      </Box>
      <Weights phases={population.phases} weights={influence.weights} name={name} path={path} />
      <span />
      <Strength influence={influence} kind={kind} path={path} name={name} open={chosen} quiet={quiet} />
    </Box>
  )
}, same)

const CARRY = 'Drag to another place, or press Space and the arrows; Alt ↑ and Alt ↓ on the name'
const carryStyle = {
  width: 18,
  color: 'text.secondary',
  cursor: 'grab',
  touchAction: 'none',
  userSelect: 'none',
}
const rowStyle = (columns: string, chosen: boolean, isDragging: boolean): SxProps<Theme> => ({
  display: 'grid',
  gridTemplateColumns: columns,
  alignItems: 'start',
  pl: 1.5,
  borderBottom: 1,
  borderColor: 'divider',
  position: 'relative',
  zIndex: isDragging ? 1 : 'auto',
  bgcolor: chosen || isDragging ? 'background.row' : 'transparent',
  boxShadow: (theme) => (chosen ? `inset 2px 0 ${theme.vars?.palette.primary.main ?? ''}` : 'none'),
  '& .row-action': { opacity: chosen ? 1 : 0 },
  '&:hover .row-action, &:focus-within .row-action': { opacity: 1 },
})

interface WeightsProps {
  phases: string[]
  weights: Influence['weights']
  name: string
  path: Path
}

function Weights({ phases, weights, name, path }: WeightsProps) {
  const change = useChange()
  return (
    <PhaseCells phases={phases}>
      {(phase) => (
        <WeightCell
          label={`Weight of ${name} in ${phase}`}
          value={weights[phase] ?? 0}
          onChange={(value, gesture) => change([...path, 'weights', phase], value, gesture)}
        />
      )}
    </PhaseCells>
  )
}

interface StrengthProps {
  influence: Influence
  kind: InfluenceKind
  path: Path
  name: string
  open: boolean
  quiet: boolean
}

/** As a line; the open one as a curve to edit. */
function Strength({ influence: { id, strength }, kind, path, name, open, quiet }: StrengthProps) {
  const change = useChange()
  if (!open) return <StrengthLine strength={strength} quiet={quiet} />
  return (
    <StrengthCurve
      key={id}
      name={name}
      strength={strength}
      parameter={kind.parameters.strength as NumberParameter}
      onChange={(value, gesture) => change([...path, 'strength'], value, gesture)}
    />
  )
}

function RowName({
  name,
  chosen,
  quiet,
  place,
  choose,
  onMove,
  population,
  influence,
}: Pick<ScoreRowProps, 'place' | 'onMove' | 'population' | 'influence'> & {
  name: string
  chosen: boolean
  quiet: boolean
  choose(): void
}) {
  return (
    <Typography
      noWrap
      component="button"
      onClick={choose}
      onPointerEnter={({ currentTarget }) => {
        // names of masks and goals are read when they are asked for: the row does not follow them
        const names = nameIn(store.getState().shot.present, population)
        currentTarget.title = influenceInWords(influence, population, names)
      }}
      onKeyDown={(event) => {
        if (!event.altKey || (event.key !== 'ArrowUp' && event.key !== 'ArrowDown')) return
        event.preventDefault()
        event.stopPropagation()
        onMove(place, place + (event.key === 'ArrowUp' ? -1 : 1))
      }}
      aria-pressed={chosen}
      sx={{
        all: 'unset',
        cursor: 'pointer',
        fontSize: 13,
        flex: 1,
        minWidth: 0,
        overflow: 'hidden',
        textOverflow: 'ellipsis',
        fontWeight: chosen ? 600 : 400,
        opacity: quiet ? 0.45 : 1,
        '&:focus-visible': { outline: '2px solid', outlineColor: 'primary.main' },
      }}
    >
      {name}
    </Typography>
  )
}

/** Remove, mute and solo. */
function RowActions({
  influence,
  name,
  path,
  solo,
}: {
  influence: Influence
  name: string
  path: Path
  solo: boolean
}) {
  const act = useAct()
  return (
    <>
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
      <Letter letter="S" label={`Solo ${name}`} on={solo} onClick={() => act(soloed(influence.id))} />
    </>
  )
}

/** A response as a small picture of its curve. */
function SmallCurve({ response }: { response: Response }) {
  const { curve } = response
  const xs = curve.map((key) => key[0])
  const [low, high] = [Math.min(...xs), Math.max(...xs)]
  const values = Array.from({ length: 13 }, (_, i) => curveAt(curve, low + ((high - low) * i) / 12))
  const [least, most] = [Math.min(0, ...values), Math.max(1, ...values)]
  const line = values
    .map((v, i) => `${i === 0 ? 'M' : 'L'}${1 + (i / 12) * 18} ${13 - ((v - least) / (most - least)) * 12}`)
    .join('')
  return (
    <svg width="20" height="14" style={{ flexShrink: 0 }} role="img">
      <title>{`${response.to} responds to ${responseKind(response.from).label}`}</title>
      <path d={line} fill="none" stroke="var(--mui-palette-primary-main)" strokeWidth="1.3" />
    </svg>
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
        flexShrink: 0,
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
