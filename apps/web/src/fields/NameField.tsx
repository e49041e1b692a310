import { NAME_LETTERS } from '@tangle/core'
import { InputBase, type SxProps, type Theme } from '@mui/material'
import { useState } from 'react'
import { leaveField } from './leave.ts'

interface NameFieldProps {
  label: string
  value: string
  onChange(name: string): void
  sx?: SxProps<Theme>
}

/** A name: Enter or leaving takes it, Escape brings back what was; an empty one is not taken. */
export function NameField({ label, value, onChange, sx }: NameFieldProps) {
  const [text, setText] = useState<string | null>(null)
  const take = (): void => {
    const name = text?.trim().slice(0, NAME_LETTERS)
    if (name && name !== value) onChange(name)
    setText(null)
  }
  return (
    <InputBase
      value={text ?? value}
      onChange={(event) => setText(event.target.value)}
      onBlur={take}
      onKeyDown={(event) => {
        event.stopPropagation()
        if (event.key === 'Enter') leaveField(event.target as HTMLElement)
        if (event.key === 'Escape') setText(null)
      }}
      inputProps={{ 'aria-label': label }}
      sx={{
        fontWeight: 600,
        fontSize: 13,
        minWidth: 60,
        '& input': { p: 0, textOverflow: 'ellipsis' },
        ...sx,
      }}
    />
  )
}
