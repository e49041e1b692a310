import { Box, ButtonBase, MenuItem, Select, Typography } from '@mui/material'
import { EASES, type Ease, type Key } from '@tangle/core'
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
}

/** What can be done to the chosen keys of a curve. */
export function KeyTools({ keys, chosen, limits, lone, onEdit, onAll }: KeyToolsProps) {
  const some = chosen.size > 0
  const first = keys.find((key) => chosen.has(key[0]))
  const tool = (label: string, on: boolean, run: () => void, title = label) => (
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
  return (
    <Box
      role="toolbar"
      aria-label="Keys"
      sx={{ display: 'flex', alignItems: 'center', height: 24, gap: 0.25 }}
    >
      {tool('All', keys.length > 0, onAll, 'Choose all keys (Ctrl A)')}
      {tool('Copy', some, () => copy(keys.filter((key) => chosen.has(key[0]))))}
      {tool(
        'Paste',
        true,
        () => clipboard.length > 0 && onEdit(pasted(keys, clipboard, engine.frame, limits)),
        'Paste at the playhead',
      )}
      {tool('Reverse', chosen.size > 1, () => onEdit(reversed(keys, chosen)), 'Turn round in time')}
      {tool(
        'Time ×2',
        chosen.size > 1,
        () => onEdit(scaled(keys, chosen, { time: 2, value: 1 }, limits)),
        'Stretch about the first',
      )}
      {tool(
        'Time ½',
        chosen.size > 1,
        () => onEdit(scaled(keys, chosen, { time: 0.5, value: 1 }, limits)),
        'Shrink about the first',
      )}
      {tool('Value ×2', some, () => onEdit(scaled(keys, chosen, { time: 1, value: 2 }, limits)))}
      {tool('Value ½', some, () => onEdit(scaled(keys, chosen, { time: 1, value: 0.5 }, limits)))}
      {tool('Delete', some, () => onEdit(removed(keys, chosen)), 'Take away (Delete)')}
      <Select
        value={some ? (first?.[2] ?? 'linear') : ''}
        disabled={!some}
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
      {lone ? (
        <Box sx={{ display: 'flex', width: 176, gap: 0.5 }}>
          <NumberInput
            name="Frame of the key"
            unit="f"
            value={lone[0]}
            range={[-1e6, 1e6]}
            onChange={(next) => onEdit(slid(keys, chosen, { frames: next - lone[0], value: 0 }, limits))}
          />
          <NumberInput
            name="Value of the key"
            value={lone[1]}
            range={limits}
            onChange={(next) => onEdit(slid(keys, chosen, { frames: 0, value: next - lone[1] }, limits))}
          />
        </Box>
      ) : (
        <Typography sx={{ fontSize: 12, color: 'text.secondary', ml: 0.5 }} noWrap>
          {some ? `${chosen.size} keys` : ''}
        </Typography>
      )}
    </Box>
  )
}
