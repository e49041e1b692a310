import { Box, InputBase, Typography } from '@mui/material'
import { useVirtualizer } from '@tanstack/react-virtual'
import { useEffect, useMemo, useRef, useState, type KeyboardEvent, type ReactNode } from 'react'
import { MONO } from '../theme.ts'
import { count as counted } from '../words.ts'
import { filterOf, rowsIn, shown, type Columns, type Order } from './columns.ts'

const ROW = 22

interface RowTableProps {
  label: string
  columns: Columns
  /** Rows there are. */
  count: number
  /** An example of a filter. */
  example: string
  /** The row that is marked, or −1, and what marks one. */
  marked: number
  onMark(row: number): void
  children?: ReactNode
}

/** Rows of numbers: sorted by a click on a column, filtered by "speed > 2", marked by a click or the arrows. */
export function RowTable({ label, columns, count, example, marked, onMark, children }: RowTableProps) {
  const [order, setOrder] = useState<Order>({ name: Object.keys(columns)[0]!, down: false })
  const [text, setText] = useState('')
  const filter = filterOf(text, columns)
  const rows = useMemo(
    () =>
      rowsIn(
        count,
        filterOf(text, columns) ?? (() => true),
        columns[order.name] ?? Object.values(columns)[0]!,
        order.down,
      ),
    [count, columns, order, text],
  )
  return (
    <Box sx={{ height: '100%', display: 'flex', flexDirection: 'column', fontFamily: MONO, fontSize: 12 }}>
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, px: 1, height: 26 }}>
        <FilterField text={text} example={example} readable={filter !== null} onChange={setText} />
        <span data-testid="table-count">
          {counted(rows.length)} of {counted(count)}
        </span>
        {children}
        {!filter && (
          <Typography role="alert" noWrap sx={{ fontSize: 12, color: 'error.main' }}>
            Write a column, a sign and a value, such as {example.split(',')[0]}; columns are{' '}
            {Object.keys(columns).join(', ')}
          </Typography>
        )}
      </Box>
      <Box sx={{ flex: 1, minHeight: 0, overflowX: 'auto', display: 'flex', flexDirection: 'column' }}>
        <Box
          role="table"
          aria-label={label}
          aria-rowcount={rows.length}
          sx={{
            flex: 1,
            minHeight: 0,
            minWidth: Object.values(columns).reduce((sum, { isText }) => sum + (isText ? 140 : 76), 0),
            display: 'flex',
            flexDirection: 'column',
          }}
        >
          <Heads columns={columns} order={order} onOrder={setOrder} />
          <Rows columns={columns} rows={rows} marked={marked} onMark={onMark} />
        </Box>
      </Box>
    </Box>
  )
}

const grid = (columns: Columns) => ({
  display: 'grid',
  gridTemplateColumns: Object.values(columns)
    .map(({ isText }) => (isText ? 'minmax(132px, 2fr)' : 'minmax(64px, 1fr)'))
    .join(' '),
  columnGap: 1,
  px: 1,
})

interface FilterFieldProps {
  text: string
  example: string
  readable: boolean
  onChange(text: string): void
}
const FilterField = ({ text, example, readable, onChange }: FilterFieldProps) => (
  <InputBase
    value={text}
    placeholder={`${example}…`}
    onChange={(event) => onChange(event.target.value)}
    onKeyDown={(event) => event.stopPropagation()}
    inputProps={{ 'aria-label': 'Filter', 'aria-invalid': !readable }}
    sx={{
      fontFamily: MONO,
      fontSize: 12,
      width: 240,
      flexShrink: 0,
      border: 1,
      borderColor: readable ? 'divider' : 'error.main',
      borderRadius: 1,
      px: 0.75,
      height: 22,
    }}
  />
)

interface HeadsProps {
  columns: Columns
  order: Order
  onOrder(order: Order): void
}
const Heads = ({ columns, order, onOrder }: HeadsProps) => (
  <Box role="row" sx={{ ...grid(columns), pr: 2.5, borderBottom: 1, borderColor: 'divider' }}>
    {Object.entries(columns).map(([name, { label, unit, isText }]) => (
      <Box
        key={name}
        role="columnheader"
        aria-sort={order.name === name ? (order.down ? 'descending' : 'ascending') : 'none'}
        sx={{ textAlign: isText ? 'left' : 'right', minWidth: 0 }}
      >
        <Box
          component="button"
          title={unit ? `${label}, ${unit}` : label}
          onClick={() => onOrder({ name, down: order.name === name && !order.down })}
          sx={{
            all: 'unset',
            display: 'block',
            width: '100%',
            cursor: 'pointer',
            overflow: 'hidden',
            textOverflow: 'ellipsis',
            whiteSpace: 'nowrap',
            color: order.name === name ? 'primary.main' : 'text.secondary',
            '&:focus-visible': { outline: 1 },
          }}
        >
          {label}
          {order.name === name ? (order.down ? ' ↓' : ' ↑') : ''}
        </Box>
      </Box>
    ))}
  </Box>
)

interface RowsProps {
  columns: Columns
  rows: Uint32Array
  marked: number
  onMark(row: number): void
}

function Rows({ columns, rows, marked, onMark }: RowsProps) {
  const scroller = useRef<HTMLDivElement>(null)
  // eslint-disable-next-line react-hooks/incompatible-library -- its functions are used in this render only
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW,
    overscan: 8,
  })
  const place = marked < 0 ? -1 : rows.indexOf(marked)
  useEffect(() => {
    if (place >= 0) virtual.scrollToIndex(place, { align: 'auto' })
    // only when another row is marked
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [marked])
  const key = (event: KeyboardEvent): void => {
    const step = { ArrowDown: 1, ArrowUp: -1, PageDown: 7, PageUp: -7 }[event.key]
    if (step === undefined || rows.length === 0) return
    event.preventDefault()
    event.stopPropagation()
    onMark(rows[Math.min(Math.max(place + step, 0), rows.length - 1)]!)
  }
  return (
    <Box
      ref={scroller}
      role="rowgroup"
      tabIndex={0}
      onKeyDown={key}
      aria-label="Rows"
      sx={{ flex: 1, overflowY: 'scroll' }}
    >
      <Box role="presentation" sx={{ height: virtual.getTotalSize(), position: 'relative' }}>
        {virtual.getVirtualItems().map((item) => (
          <Row
            key={item.key}
            columns={columns}
            row={rows[item.index]!}
            top={item.start}
            marked={rows[item.index] === marked}
            onMark={onMark}
          />
        ))}
      </Box>
    </Box>
  )
}

interface RowProps {
  columns: Columns
  row: number
  top: number
  marked: boolean
  onMark(row: number): void
}
const Row = ({ columns, row, top, marked, onMark }: RowProps) => (
  <Box
    role="row"
    aria-selected={marked}
    onClick={() => onMark(row)}
    sx={{
      ...grid(columns),
      position: 'absolute',
      top,
      left: 0,
      right: 0,
      height: ROW,
      alignItems: 'center',
      cursor: 'pointer',
      bgcolor: marked ? 'background.row' : 'transparent',
      color: marked ? 'warning.main' : 'text.primary',
      '&:hover': { bgcolor: 'background.row' },
    }}
  >
    {Object.entries(columns).map(([name, column]) => (
      <Box
        role="cell"
        key={name}
        sx={{ textAlign: column.isText ? 'left' : 'right', overflow: 'hidden', whiteSpace: 'nowrap' }}
      >
        {shown(column, row)}
      </Box>
    ))}
  </Box>
)
