import DeleteOutlined from '@mui/icons-material/DeleteOutlined'
import {
  Autocomplete,
  Box,
  Button,
  Dialog,
  DialogActions,
  DialogContent,
  DialogTitle,
  IconButton,
  TextField,
  Typography,
} from '@mui/material'
import { variableValues, type VariableValue } from '@tangle/core'
import { useState } from 'react'
import type { SweepAxis } from '../store/api.ts'
import { useShot } from '../store/index.ts'
import { duration, megabytes } from '../words.ts'
import { valuesIn } from './estimate.ts'
import { useEstimate } from './useEstimate.ts'

/** Values that are varied at once, and takes of a sweep (as the server has them). */
const [MOST_AXES, MOST_TAKES] = [4, 100]

interface Axis {
  of: VariableValue | null
  text: string
}

/** What is to be varied, and how many takes that makes. */
export function SweepDialog({ close, make }: { close(): void; make(axes: SweepAxis[]): void }) {
  const shot = useShot()
  const offered = variableValues(shot)
  const [axes, setAxes] = useState<Axis[]>([{ of: null, text: '' }])
  const change = (n: number, next: Partial<Axis>): void =>
    setAxes(axes.map((axis, k) => (k === n ? { ...axis, ...next } : axis)))
  const read = axes.map(valuesOf)
  const count = read.reduce<number>(
    (product, values) => product * (typeof values === 'string' ? 0 : values.length),
    1,
  )
  const ready = count > 0 && count <= MOST_TAKES
  const submit = (): void => make(axes.map(({ of }, n) => ({ path: of!.path, values: read[n] as number[] }))) // ready: all are chosen and read
  return (
    <Dialog open onClose={close} fullWidth maxWidth="md" aria-labelledby="sweep-title">
      <DialogTitle id="sweep-title">Sweep</DialogTitle>
      <DialogContent>
        <Typography sx={{ fontSize: 13, color: 'text.secondary', mb: 1.5 }}>
          Makes a take of every combination of these values. They are seen side by side, and the ones that
          please go back into the shot.
        </Typography>
        {axes.map((axis, n) => (
          <AxisFields
            key={n}
            axis={axis}
            number={n + 1}
            fault={axis.of && axis.text && typeof read[n] === 'string' ? read[n] : null}
            offered={offered.filter((one) => !axes.some(({ of }, k) => k !== n && of && same(of, one)))}
            onChange={(next) => change(n, next)}
            onRemove={axes.length > 1 ? () => setAxes(axes.filter((_, k) => k !== n)) : null}
          />
        ))}
        {axes.length < MOST_AXES && (
          <Button onClick={() => setAxes([...axes, { of: null, text: '' }])}>+ Another value</Button>
        )}
        <Cost count={count} />
      </DialogContent>
      <DialogActions>
        <Button color="inherit" onClick={close}>
          Cancel
        </Button>
        <Button variant="contained" disabled={!ready} onClick={submit}>
          {count > 0 ? `Make ${count} takes` : 'Make the takes'}
        </Button>
      </DialogActions>
    </Dialog>
  )
}

const same = (a: VariableValue, b: VariableValue): boolean =>
  a.name === b.name && String(a.path) === String(b.path)

/** The values of an axis; a sentence where they are not right. */
function valuesOf({ of, text }: Axis): number[] | string {
  const values = valuesIn(text)
  if (!of) return 'choose what is to be varied'
  if (typeof values === 'string') return values
  const [low, high] = of.range
  if (values.some((value) => value < low || value > high)) return `must be from ${low} to ${high}`
  if (of.whole && !values.every(Number.isInteger)) return 'must be whole numbers'
  return values
}

interface AxisFieldsProps {
  axis: Axis
  number: number
  fault: string | null
  offered: VariableValue[]
  onChange(next: Partial<Axis>): void
  onRemove: (() => void) | null
}

function AxisFields({ axis: { of, text }, number, fault, offered, onChange, onRemove }: AxisFieldsProps) {
  const read = valuesIn(text)
  return (
    <Box sx={{ display: 'grid', gridTemplateColumns: '3fr 2fr 32px', gap: 1, mb: 1.5, alignItems: 'start' }}>
      <Autocomplete
        value={of}
        options={offered}
        getOptionLabel={({ name }) => name}
        getOptionKey={({ path }) => path.join('.')}
        isOptionEqualToValue={same}
        onChange={(_, chosen) => onChange({ of: chosen, text: chosen ? suggested(chosen) : '' })}
        noOptionsText="Nothing is called that"
        renderInput={(input) => <TextField {...input} size="small" label={`Value ${number}`} />}
      />
      <TextField
        size="small"
        label={of?.unit ? `Values (${of.unit})` : 'Values'}
        value={text}
        disabled={!of}
        error={fault !== null}
        helperText={
          fault ??
          (of && typeof read !== 'string'
            ? `${read.length}: ${read.join(', ')} · now ${of.value}`
            : 'as in “0.5, 1, 2” or “0.5 to 2 in 4”')
        }
        onChange={(event) => onChange({ text: event.target.value })}
      />
      {onRemove && (
        <IconButton size="small" aria-label={`Remove value ${number}`} onClick={onRemove} sx={{ mt: 0.5 }}>
          <DeleteOutlined sx={{ fontSize: 16 }} />
        </IconButton>
      )}
    </Box>
  )
}

/** Half of it, itself and twice that, as far as that is allowed; of a seed the next ones. */
function suggested({ path, value, range: [low, high], usual, whole }: VariableValue): string {
  if (path[0] === 'seed') return [1, 2, 3].map((n) => value + n).join(', ')
  const round = (x: number): number => (whole ? Math.round(x) : Number(x.toPrecision(4)))
  const around = value === 0 ? [usual[0], 0, usual[1]] : [value / 2, value, value * 2]
  const allowed = around.map((x) => round(Math.min(high, Math.max(low, x))))
  return [...new Set(allowed)].toSorted((a, b) => a - b).join(', ')
}

/** How much it is, before it is begun. */
function Cost({ count }: { count: number }) {
  const estimate = useEstimate()
  if (count === 0) return null
  const tooMany = count > MOST_TAKES
  return (
    <Typography
      role="status"
      sx={{ fontSize: 13, mt: 1.5, color: tooMany ? 'error.main' : 'text.secondary' }}
    >
      {tooMany
        ? `${count} takes are too many: a sweep has at most ${MOST_TAKES}.`
        : estimate
          ? `${count} takes of ${estimate.frames} frames: about ${megabytes(count * estimate.bytes)}, ${duration(count * estimate.seconds)} with one worker like this machine.`
          : `${count} takes. What they need is known when the preview has computed some frames.`}
    </Typography>
  )
}
