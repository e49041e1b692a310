import { Box, ButtonBase, MenuItem, Select, Typography } from '@mui/material'
import { EASES, type Ease, type Key, type Repeat } from '@tangle/core'
import { engine } from '../engine/engine.ts'
import { NumberInput } from '../fields/NumberField.tsx'
import { eased, pasted, removed, reversed, scaled, slid, type Edited } from './keyEdits.ts'

/** Keys that were copied, of whatever curve. */
let clipboard: Key[] = []
const copy = (keys: Key[]): void => {
  clipboard = keys
}

interface KeyToolsProps {
  keys: Key[]
  chosen: Set<number>
  limits: [number, number]
  /** The only chosen key. */
  lone: Key | undefined
  onEdit(edited: Edited): void
  onAll(): void
  /** What it does beyond the last key; undefined: there are no keys. */
  repeat: Repeat | 'hold' | undefined
  onRepeat(repeat: Repeat | 'hold'): void
}

/** What can be done to the chosen keys of a curve. */
export function KeyTools(props: KeyToolsProps) {
  return (
    <Box
      role="toolbar"
      aria-label="Keys"
      sx={{
        display: 'flex',
        alignItems: 'center',
        height: 24,
        gap: 0.25,
        overflowX: 'auto',
        scrollbarWidth: 'none',
        '& > *': { flexShrink: 0 },
      }}
    >
      {toolsOf(props).map((tool) => (
        <ToolButton key={tool.label} {...tool} />
      ))}
      <EaseChoice {...props} />
      <RepeatChoice {...props} />
      <Lone {...props} />
    </Box>
  )
}

interface Tool {
  label: string
  title?: string
  on: boolean
  run(): void
}

function toolsOf({ keys, chosen, limits, onEdit, onAll }: KeyToolsProps): Tool[] {
  const [some, several] = [chosen.size > 0, chosen.size > 1]
  const scale = (time: number, value: number) => () => onEdit(scaled(keys, chosen, { time, value }, limits))
  const paste = (): void => {
    if (clipboard.length > 0) onEdit(pasted(keys, clipboard, engine.frame, limits))
  }
  return [
    { label: 'All', title: 'Choose all keys (Ctrl A)', on: keys.length > 0, run: onAll },
    { label: 'Copy', on: some, run: () => copy(keys.filter((key) => chosen.has(key[0]))) },
    { label: 'Paste', title: 'Paste at the playhead', on: true, run: paste },
    { label: 'Reverse', title: 'Turn round in time', on: several, run: () => onEdit(reversed(keys, chosen)) },
    { label: 'Time ×2', title: 'Stretch about the first', on: several, run: scale(2, 1) },
    { label: 'Time ½', title: 'Shrink about the first', on: several, run: scale(0.5, 1) },
    { label: 'Value ×2', on: some, run: scale(1, 2) },
    { label: 'Value ½', on: some, run: scale(1, 0.5) },
    { label: 'Delete', title: 'Take away (Delete)', on: some, run: () => onEdit(removed(keys, chosen)) },
  ]
}

function ToolButton({ label, title = label, on, run }: Tool) {
  return (
    <ButtonBase
      disabled={!on}
      title={title}
      onClick={run}
      sx={{
        fontSize: 12,
        whiteSpace: 'nowrap',
        flexShrink: 0,
        px: 0.5,
        height: 22,
        borderRadius: 0.5,
        color: on ? 'text.primary' : 'text.secondary',
        opacity: on ? 1 : 0.5,
      }}
    >
      {label}
    </ButtonBase>
  )
}

function EaseChoice({ keys, chosen, onEdit }: KeyToolsProps) {
  const first = keys.find((key) => chosen.has(key[0]))
  return (
    <Select
      value={first ? (first[2] ?? 'linear') : ''}
      disabled={!first}
      displayEmpty
      onChange={(event) => onEdit(eased(keys, chosen, event.target.value as Ease))}
      inputProps={{ 'aria-label': 'Ease of the chosen keys' }}
      sx={{ height: 22, '& .MuiSelect-select': { fontSize: 12, py: 0 } }}
    >
      <MenuItem value="" disabled>
        ease
      </MenuItem>
      {EASES.map((ease) => (
        <MenuItem key={ease} value={ease}>
          {ease}
        </MenuItem>
      ))}
    </Select>
  )
}

const REPEATED = { hold: 'holds', loop: 'repeats', swing: 'to and fro' }

/** What the curve does after its last key. */
function RepeatChoice({ repeat, onRepeat }: KeyToolsProps) {
  return (
    <Select
      value={repeat ?? 'hold'}
      disabled={repeat === undefined}
      title="After the last key"
      onChange={(event) => onRepeat(event.target.value)}
      inputProps={{ 'aria-label': 'After the last key' }}
      sx={{ height: 22, '& .MuiSelect-select': { fontSize: 12, py: 0 } }}
    >
      {Object.entries(REPEATED).map(([name, label]) => (
        <MenuItem key={name} value={name}>
          {label}
        </MenuItem>
      ))}
    </Select>
  )
}

/** The one chosen key in numbers, or how many are chosen. */
function Lone({ keys, chosen, limits, lone, onEdit }: KeyToolsProps) {
  if (!lone) {
    return (
      <Typography sx={{ fontSize: 12, color: 'text.secondary', ml: 0.5 }} noWrap>
        {chosen.size > 0 ? `${chosen.size} keys` : ''}
      </Typography>
    )
  }
  const [frame, value] = lone
  return (
    <Box sx={{ display: 'flex', width: 132, gap: 0.5 }}>
      <NumberInput
        name="Frame of the key"
        unit="f"
        value={frame}
        range={[-1e6, 1e6]}
        onChange={(next) => onEdit(slid(keys, chosen, { frames: next - frame, value: 0 }, limits))}
      />
      <NumberInput
        name="Value of the key"
        value={value}
        range={limits}
        onChange={(next) => onEdit(slid(keys, chosen, { frames: 0, value: next - value }, limits))}
      />
    </Box>
  )
}
