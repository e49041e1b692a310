import { ButtonBase, Tooltip } from '@mui/material'
import type { Keyed } from '@tangle/core'
import { isKeyed } from '@tangle/core'
import { useEffect, useRef } from 'react'
import { hasKey } from './keyed.ts'

/** The field under the pointer, so that K keys it. */
export const underPointer: { toggleKey: (() => void) | null } = { toggleKey: null }

/** Says what K keys while the pointer is over a field; a field that is gone keys nothing any more. */
export function useUnderPointer(): (toggle: (() => void) | null) => void {
  const own = useRef<(() => void) | null>(null)
  const point = (toggle: (() => void) | null): void => {
    own.current = underPointer.toggleKey = toggle
  }
  useEffect(
    () => () => {
      if (underPointer.toggleKey === own.current) underPointer.toggleKey = null
    },
    [],
  )
  return point
}

interface KeyButtonProps {
  name: string
  value: Keyed
  frame: number
  onToggle(): void
}

/** A diamond: hollow for a plain value, outlined when keyed, full when there is a key at this frame. */
export function KeyButton({ name, value, frame, onToggle }: KeyButtonProps) {
  const here = hasKey(value, frame)
  const keyed = isKeyed(value)
  return (
    <Tooltip
      title={here ? 'Take the key at this frame away (K)' : 'Set a key at this frame (K)'}
      placement="top"
      // a tip that took the pointer would lie over the keys beside this one
      disableInteractive
    >
      <ButtonBase
        aria-label={`${here ? 'Remove' : 'Set'} key for ${name}`}
        aria-pressed={here}
        onClick={onToggle}
        sx={{ width: 18, height: 20 }}
      >
        <svg width="11" height="11" viewBox="0 0 11 11" aria-hidden>
          <path
            d="M5.5 .8 10.2 5.5 5.5 10.2 .8 5.5Z"
            fill={here ? 'var(--mui-palette-warning-main)' : 'none'}
            stroke={keyed ? 'var(--mui-palette-warning-main)' : 'var(--mui-palette-line)'}
            strokeWidth="1.4"
          />
        </svg>
      </ButtonBase>
    </Tooltip>
  )
}
