import { Box, InputBase, Typography } from '@mui/material'
import { useVirtualizer } from '@tanstack/react-virtual'
import { useEffect, useMemo, useRef, useState, type KeyboardEvent } from 'react'
import { useEngineSlowly } from '../engine/useEngine.ts'
import { usePopulation } from '../steps/usePopulation.ts'
import { useAct, useStore } from '../store/index.ts'
import { selected } from '../store/session.ts'
import { MONO } from '../theme.ts'
import { count } from '../words.ts'
import { ATTRIBUTES, filterOf, shownAs } from './attributes.ts'

const NAMES = Object.keys(ATTRIBUTES)
const COLUMNS = `repeat(${NAMES.length}, minmax(64px, 1fr))`
const ROW = 22

/** Every particle of the frame: sorted by a click on a column, filtered by "speed > 2", marked on the stage. */
export function ParticleTable() {
  const act = useAct()
  const { population: rules } = usePopulation()
  const packed = useEngineSlowly((e) => e.populations().find((one) => one.id === rules?.id), 250)
  const marked = useStore((state) => state.session.selected.particle)
  const [sort, setSort] = useState<{ name: string; down: boolean }>({ name: 'id', down: false })
  const [text, setText] = useState('')
  const scroller = useRef<HTMLDivElement>(null)
  const filter = filterOf(text, rules)
  const rows = useMemo(() => {
    if (!packed) return new Uint32Array()
    const passes = filterOf(text, rules) ?? (() => true)
    const { read } = ATTRIBUTES[sort.name]!
    const kept = Uint32Array.from({ length: packed.count }, (_, i) => i).filter((i) => passes(packed, i))
    // ids are in order already
    if (sort.name === 'id') return sort.down ? kept.reverse() : kept
    const keys = Float64Array.from({ length: packed.count }, (_, i) => read(packed, i) * (sort.down ? -1 : 1))
    return kept.sort((a, b) => keys[a]! - keys[b]!)
  }, [packed, rules, sort, text])
  // eslint-disable-next-line react-hooks/incompatible-library -- its functions are used in this render only
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW,
    overscan: 8,
  })
  const at = packed && marked?.population === packed.id ? packed.ids.indexOf(marked.id) : -1
  const place = at >= 0 ? rows.indexOf(at) : -1
  useEffect(() => {
    if (place >= 0) virtual.scrollToIndex(place, { align: 'auto' })
    // only when another particle is marked
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [marked])
  const mark = (row: number): void => {
    const i = rows[row]
    if (packed && i !== undefined) act(selected({ particle: { population: packed.id, id: packed.ids[i]! } }))
  }
  const key = (event: KeyboardEvent): void => {
    const step = { ArrowDown: 1, ArrowUp: -1, PageDown: 7, PageUp: -7 }[event.key]
    if (step === undefined) return
    event.preventDefault()
    event.stopPropagation()
    mark(Math.min(Math.max((place < 0 ? -1 : place) + step, 0), rows.length - 1))
  }
  if (!packed || !rules)
    return (
      <Typography sx={{ p: 2, fontSize: 13, color: 'text.secondary' }}>
        No particles at this frame.
      </Typography>
    )
  return (
    <Box sx={{ height: '100%', display: 'flex', flexDirection: 'column', fontFamily: MONO, fontSize: 12 }}>
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, px: 1, height: 26 }}>
        <InputBase
          value={text}
          placeholder="speed > 2, phase = Loose…"
          onChange={(event) => setText(event.target.value)}
          onKeyDown={(event) => event.stopPropagation()}
          inputProps={{ 'aria-label': 'Filter', 'aria-invalid': filter === null }}
          sx={{
            fontFamily: MONO,
            fontSize: 12,
            width: 240,
            border: 1,
            borderColor: filter ? 'divider' : 'error.main',
            borderRadius: 1,
            px: 0.75,
            height: 22,
          }}
        />
        <span data-testid="table-count">
          {count(rows.length)} of {count(packed.count)}
        </span>
        {marked && at < 0 && (
          <Typography sx={{ fontSize: 12, color: 'text.secondary' }}>
            {marked.id} is not alive at this frame
          </Typography>
        )}
        {!filter && (
          <Typography role="alert" sx={{ fontSize: 12, color: 'error.main' }}>
            Write a column, a sign and a value, such as speed &gt; 2; columns are {NAMES.join(', ')}
          </Typography>
        )}
      </Box>
      <Box
        role="table"
        aria-label="Particles"
        aria-rowcount={rows.length}
        sx={{ flex: 1, minHeight: 0, display: 'flex', flexDirection: 'column' }}
      >
        <Box
          role="row"
          sx={{
            display: 'grid',
            gridTemplateColumns: COLUMNS,
            px: 1,
            pr: 2.5,
            borderBottom: 1,
            borderColor: 'divider',
          }}
        >
          {NAMES.map((name) => (
            <Box
              key={name}
              component="button"
              role="columnheader"
              aria-sort={sort.name === name ? (sort.down ? 'descending' : 'ascending') : 'none'}
              onClick={() => setSort({ name, down: sort.name === name && !sort.down })}
              sx={{
                all: 'unset',
                cursor: 'pointer',
                textAlign: 'right',
                color: sort.name === name ? 'primary.main' : 'text.secondary',
                '&:focus-visible': { outline: 1 },
              }}
            >
              {ATTRIBUTES[name]!.label}
              {sort.name === name ? (sort.down ? ' ↓' : ' ↑') : ''}
            </Box>
          ))}
        </Box>
        <Box
          ref={scroller}
          tabIndex={0}
          onKeyDown={key}
          aria-label="Rows"
          sx={{ flex: 1, overflowY: 'scroll' }}
        >
          <Box sx={{ height: virtual.getTotalSize(), position: 'relative' }}>
            {virtual.getVirtualItems().map((item) => {
              const i = rows[item.index]!
              const here = i === at
              return (
                <Box
                  key={item.key}
                  role="row"
                  aria-selected={here}
                  onClick={() => mark(item.index)}
                  sx={{
                    position: 'absolute',
                    top: item.start,
                    left: 0,
                    right: 0,
                    height: ROW,
                    display: 'grid',
                    gridTemplateColumns: COLUMNS,
                    alignItems: 'center',
                    px: 1,
                    cursor: 'pointer',
                    bgcolor: here ? 'background.row' : 'transparent',
                    color: here ? 'warning.main' : 'text.primary',
                    '&:hover': { bgcolor: 'background.row' },
                  }}
                >
                  {NAMES.map((name) => (
                    <Box role="cell" key={name} sx={{ textAlign: 'right' }}>
                      {shownAs(name, packed, i, rules)}
                    </Box>
                  ))}
                </Box>
              )
            })}
          </Box>
        </Box>
      </Box>
    </Box>
  )
}
