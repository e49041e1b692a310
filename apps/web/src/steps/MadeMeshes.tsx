import { Box, Button, Slider, Typography } from '@mui/material'
import {
  derivedFrom,
  FRACTURE,
  pieceFacts,
  SHELL,
  standing,
  vectorAt,
  type Mesh,
  type ShotMesh,
} from '@tangle/core'
import { useEffect, useMemo, useState } from 'react'
import { useEngineSlowly } from '../engine/useEngine.ts'
import { ParameterForm } from '../fields/ParameterForm.tsx'
import { stage } from '../stage/Stage.tsx'
import { useShot } from '../store/index.ts'
import { MONO } from '../theme.ts'
import { count } from '../words.ts'
import { addShell, breakMesh } from './meshFiles.ts'
import { Section } from './Panel.tsx'
import { addPieces } from './births.ts'

/** What can be made of a mesh. */
export function MadeOfIt({ mesh }: { mesh: ShotMesh }) {
  const isBroken = derivedFrom(mesh.source)?.by === 'fracture'
  const triangles = useEngineSlowly(
    (e) => e.meshOf(mesh.source)?.facts.triangles ?? 0,
    120,
    JSON.stringify(mesh.source),
  )
  if (isBroken)
    return (
      <Button onClick={() => addPieces(mesh)} disabled={triangles === 0}>
        Its pieces as particles
      </Button>
    )
  return (
    <Box sx={{ display: 'flex', gap: 1 }}>
      <Button onClick={() => breakMesh(mesh)} disabled={triangles === 0}>
        Break…
      </Button>
      <Button onClick={() => addShell(mesh)} disabled={triangles === 0}>
        Shell…
      </Button>
    </Box>
  )
}

/** How a mesh is made of another, and pieces pulled apart to look at them. */
export function DerivedSection({ mesh, index }: { mesh: ShotMesh; index: number }) {
  const { by, mesh: made } = derivedFrom(mesh.source)! // who shows it has seen that it is made of another
  const of = useShot().meshes.find(({ id }) => id === made)
  return (
    <Section title={`${by === 'fracture' ? 'Pieces' : 'Shell'} of ${of?.name ?? ''}`}>
      {by === 'fracture' && <SpreadApart />}
      <ParameterForm
        parameters={by === 'fracture' ? FRACTURE : SHELL}
        values={Object.values(mesh.source)[0] as Record<string, unknown>}
        path={['meshes', index, 'source', by]}
        leave={['mesh']}
      />
      <Typography sx={{ fontSize: 12, color: 'text.secondary', mt: 0.5 }}>
        It stands and moves where {of?.name ?? 'its mesh'} does.
      </Typography>
    </Section>
  )
}

function SpreadApart() {
  const [apart, setApart] = useState(0)
  useEffect(() => {
    stage.world?.spreadApart(apart)
    return () => stage.world?.spreadApart(0)
  }, [apart])
  return (
    <Box sx={{ display: 'flex', alignItems: 'center', gap: 1.5, pr: 1 }}>
      <Typography sx={{ fontSize: 12.5, width: 92, flexShrink: 0 }}>Spread apart</Typography>
      <Slider
        size="small"
        aria-label="Spread apart"
        min={0}
        max={1}
        step={0.01}
        value={apart}
        onChange={(_, value) => setApart(value)}
      />
    </Box>
  )
}

const LENGTHS: [number, string][] = [[1, 'm'], [0.01, 'cm'], [0, 'mm']] // prettier-ignore
function widthIn(metres: number): string {
  const [, unit] = LENGTHS.find(([least]) => metres >= least)!
  const per = { m: 1, cm: 100, mm: 1000 }[unit]!
  return `${Number((metres * per).toPrecision(3))} ${unit}`
}

/** How many pieces there are, and how large. */
export function PieceRows({ mesh }: { mesh: ShotMesh }) {
  const shot = useShot()
  const made: Mesh | undefined = useEngineSlowly(
    (e) => e.meshOf(mesh.source)?.mesh,
    120,
    JSON.stringify(mesh.source),
  )
  const facts = useMemo(
    () =>
      made?.pieces ? pieceFacts(made, vectorAt(standing(shot, mesh).place.scale, shot.frames.first)) : null,
    [made, shot, mesh],
  )
  if (!facts) return null
  const rows = [
    ['Pieces', count(facts.pieces)],
    ['Smallest', widthIn(facts.smallest)],
    ['Largest', widthIn(facts.largest)],
    ['Shared faces', count(facts.bonds)],
  ]
  return rows.map(([name, value]) => (
    <Box key={name} sx={{ display: 'contents' }}>
      <Typography component="dt" sx={{ fontSize: 12.5, color: 'text.secondary' }}>
        {name}
      </Typography>
      <Typography component="dd" sx={{ m: 0, fontSize: 12.5, fontFamily: MONO }}>
        {value}
      </Typography>
    </Box>
  ))
}
