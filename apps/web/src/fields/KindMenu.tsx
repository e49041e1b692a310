import {
  Autocomplete,
  Box,
  Button,
  createFilterOptions,
  ListSubheader,
  Popover,
  TextField,
  Typography,
} from '@mui/material'
import { useState } from 'react'

/** A kind as menus show it. */
export interface OfferedKind {
  kind: string
  label: string
  glyph: string
  help: string
  /** Kinds of a family stand together. */
  family?: string
}

interface KindMenuProps {
  /** What the button says. */
  label: string
  kinds: OfferedKind[]
  /** Why a kind can't be chosen yet, or null. */
  missing?(kind: string): string | null
  /** What becomes of the kind that is chosen. */
  note?: string
  variant?: 'text' | 'outlined'
  disabled?: boolean
  onChoose(kind: string): void
}

const filter = createFilterOptions<OfferedKind>({
  stringify: ({ label, help, family = '' }) => `${label} ${help} ${family}`,
})

/** A button that opens the kinds of something, each with what it does: by family, found by any of their words. */
export function KindMenu({
  label,
  kinds,
  missing,
  note,
  variant = 'text',
  disabled,
  onChoose,
}: KindMenuProps) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null)
  const close = (): void => setAnchor(null)
  return (
    <>
      <Button
        variant={variant}
        disabled={disabled ?? false}
        aria-haspopup="listbox"
        onClick={(event) => setAnchor(event.currentTarget)}
        sx={{ flexShrink: 0 }}
      >
        {label}
      </Button>
      <Popover
        open={anchor !== null}
        anchorEl={anchor}
        onClose={close}
        anchorOrigin={{ vertical: 'bottom', horizontal: 'right' }}
        transformOrigin={{ vertical: 'top', horizontal: 'right' }}
        slotProps={{ paper: { sx: { width: 440, maxWidth: '90vw' } } }}
      >
        <KindList
          label={label.replace(/^\+ /, '')}
          kinds={kinds}
          missing={missing}
          close={close}
          onChoose={(kind) => {
            close()
            onChoose(kind)
          }}
        />
        {note && <Typography sx={{ fontSize: 12, color: 'text.secondary', px: 2, py: 1 }}>{note}</Typography>}
      </Popover>
    </>
  )
}

interface KindListProps {
  label: string
  kinds: OfferedKind[]
  missing: ((kind: string) => string | null) | undefined
  close(): void
  onChoose(kind: string): void
}

/** Those of a family side by side, families in the order in which they first come. */
function byFamily(kinds: OfferedKind[]): OfferedKind[] {
  const families = [...new Set(kinds.map(({ family }) => family))]
  return families.flatMap((family) => kinds.filter((kind) => kind.family === family))
}

/** The kinds in a list that is always open, with a search above it. */
function KindList({ label, kinds, missing, close, onChoose }: KindListProps) {
  const grouped = kinds.some(({ family }) => family !== undefined)
  return (
    <Autocomplete
      open
      disablePortal
      autoHighlight
      options={byFamily(kinds)}
      filterOptions={filter}
      getOptionLabel={(option) => option.label}
      getOptionKey={(option) => option.kind}
      getOptionDisabled={(option) => (missing?.(option.kind) ?? null) !== null}
      {...(grouped ? { groupBy: (option: OfferedKind) => option.family ?? '' } : {})}
      // a list box holds options and groups of them, and nothing else
      renderGroup={({ key, group, children }) => (
        <Box component="li" key={key} role="group" aria-label={group}>
          <ListSubheader
            component="div"
            role="presentation"
            sx={{ lineHeight: '28px', bgcolor: 'background.paper' }}
          >
            {group}
          </ListSubheader>
          <Box component="ul" role="presentation" sx={{ p: 0 }}>
            {children}
          </Box>
        </Box>
      )}
      noOptionsText="Nothing is called that"
      onChange={(_, chosen) => chosen && onChoose(chosen.kind)}
      onClose={(_, reason) => reason === 'escape' && close()}
      renderInput={(input) => (
        <TextField
          {...input}
          autoFocus
          placeholder={`Find: ${label.toLowerCase()}`}
          size="small"
          sx={{ p: 1 }}
        />
      )}
      renderOption={({ key, ...item }, kind) => (
        <Box
          component="li"
          key={key}
          {...item}
          sx={{ fontSize: 13, alignItems: 'baseline !important', py: '2px !important' }}
        >
          <Box component="span" aria-hidden sx={{ width: 24, flexShrink: 0 }}>
            {kind.glyph}
          </Box>
          <Box>
            {kind.label}
            <Typography sx={{ fontSize: 12, color: 'text.secondary' }}>
              {missing?.(kind.kind) ?? kind.help}
            </Typography>
          </Box>
        </Box>
      )}
      slotProps={{
        popper: {
          sx: {
            position: 'static !important',
            transform: 'none !important',
            width: '100% !important',
            whiteSpace: 'normal',
          },
        },
        listbox: { sx: { maxHeight: 420 } },
        paper: { sx: { borderRadius: 0 } },
      }}
      sx={{ width: '100%' }}
    />
  )
}
