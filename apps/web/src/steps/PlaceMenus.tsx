import { Button, Menu, MenuItem } from '@mui/material'
import type { ShotMesh } from '@tangle/core'
import { useState, type ReactNode } from 'react'
import { useShot } from '../store/index.ts'
import { FILE_UNITS, fitTo, isUnturned, readIn, readZUp } from './fit.ts'

/** Fits the mesh to another in size and place. */
export function FitMenu({ mesh }: { mesh: ShotMesh }) {
  const others = useShot().meshes.filter((one) => one.id !== mesh.id)
  if (others.length === 0) return null
  return (
    <MenuButton label="Fit to another mesh…">
      {others.map((other) => (
        <MenuItem key={other.id} onClick={() => fitTo(mesh, other)}>
          {other.name}
        </MenuItem>
      ))}
    </MenuButton>
  )
}

/** For files in another unit, or with another way up. */
export const FileMenu = ({ mesh }: { mesh: ShotMesh }) => (
  <MenuButton label="Its file is in…">
    {Object.entries(FILE_UNITS).map(([unit, metres]) => (
      <MenuItem key={unit} onClick={() => readIn(mesh, unit as keyof typeof FILE_UNITS)}>
        {unit}: scale × {metres}
      </MenuItem>
    ))}
    <MenuItem disabled={!isUnturned(mesh)} onClick={() => readZUp(mesh)}>
      z up: turn by −90° about x
    </MenuItem>
  </MenuButton>
)

/** A button with a menu that a choice closes. */
function MenuButton({ label, children }: { label: string; children: ReactNode }) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null)
  const close = (): void => setAnchor(null)
  return (
    <>
      <Button onClick={(event) => setAnchor(event.currentTarget)}>{label}</Button>
      <Menu open={anchor !== null} anchorEl={anchor} onClose={close} onClick={close}>
        {children}
      </Menu>
    </>
  )
}
