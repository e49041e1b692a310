import DeleteOutlined from '@mui/icons-material/DeleteOutlined'
import VisibilityOffOutlined from '@mui/icons-material/VisibilityOffOutlined'
import VisibilityOutlined from '@mui/icons-material/VisibilityOutlined'
import { Box, Button, IconButton, Menu, MenuItem, Typography } from '@mui/material'
import { derivedFrom, PLACE, standing, TEXT, vectorAt, type MeshFacts, type ShotMesh } from '@tangle/core'
import { MESH_ENDINGS } from '@tangle/formats'
import { useRef, useState } from 'react'
import { engine } from '../engine/engine.ts'
import { useEngine, useEngineSlowly } from '../engine/useEngine.ts'
import { shown } from '../fields/formula.ts'
import { Choices } from '../fields/Choices.tsx'
import { NameField } from '../fields/NameField.tsx'
import { ParameterForm } from '../fields/ParameterForm.tsx'
import { api } from '../store/api.ts'
import { useAct, useShot, useStore } from '../store/index.ts'
import { handleChosen, noticed, selected, type Session } from '../store/session.ts'
import { meshRemoved, set } from '../store/shot.ts'
import { MONO } from '../theme.ts'
import { count } from '../words.ts'
import { addFiles, addStored, addText } from './meshFiles.ts'
import { FileMenu, FitMenu } from './PlaceMenus.tsx'
import { DerivedSection, MadeOfIt, PieceRows } from './MadeMeshes.tsx'
import {
  CutSection,
  DeformSection,
  DetailField,
  EatenSection,
  LookSection,
  PlaybackSection,
} from './MeshSurface.tsx'
import { Empty, Entry, Panel, RecipesButton, Section } from './Panel.tsx'

/** Bring meshes and place them. */
export function MeshesStep() {
  const act = useAct()
  const shot = useShot()
  const chosen = useStore((state) => state.session.selected.mesh)
  const mesh = shot.meshes.find((one) => one.id === chosen)
  const remove = (one: ShotMesh): void => {
    act(meshRemoved(one.id))
    act(noticed({ text: `${one.name} is out of the shot`, tone: 'info', undo: { kind: 'edit' } }))
  }
  return (
    <Panel
      title="Meshes"
      help="What particles are born on. Drop OBJ, PLY, STL, GLB or CSV files anywhere: a file for each frame makes a mesh that moves."
    >
      <AddMesh />
      {shot.meshes.length === 0 && (
        <Empty text="No mesh yet. Drop a file onto the page, or take a ready-made shape to start with.">
          <RecipesButton />
        </Empty>
      )}
      {shot.meshes.map((one, i) => (
        <Entry
          key={one.id}
          name={one.name}
          selected={one.id === chosen}
          quiet={!one.visible}
          onSelect={() => act(selected({ mesh: one.id === chosen ? null : one.id }))}
        >
          <IconButton
            size="small"
            aria-label={`${one.visible ? 'Hide' : 'Show'} ${one.name}`}
            onClick={() => act(set({ path: ['meshes', i, 'visible'], value: !one.visible }))}
          >
            {one.visible ? (
              <VisibilityOutlined sx={{ fontSize: 16 }} />
            ) : (
              <VisibilityOffOutlined sx={{ fontSize: 16 }} />
            )}
          </IconButton>
          <IconButton size="small" aria-label={`Remove ${one.name}`} onClick={() => remove(one)}>
            <DeleteOutlined sx={{ fontSize: 16 }} />
          </IconButton>
        </Entry>
      ))}
      {mesh && <MeshDetails key={mesh.id} mesh={mesh} index={shot.meshes.indexOf(mesh)} />}
    </Panel>
  )
}

function AddMesh() {
  const file = useRef<HTMLInputElement>(null)
  const [anchor, setAnchor] = useState<HTMLElement | null>(null)
  const { data } = api.useMeshesQuery()
  return (
    <Box sx={{ display: 'flex', gap: 0.75, mb: 1, '& .MuiButton-root': { px: 1, whiteSpace: 'nowrap' } }}>
      <Button variant="outlined" onClick={() => file.current?.click()}>
        Add a file…
      </Button>
      <Button
        variant="outlined"
        color="inherit"
        onClick={(event) => setAnchor(event.currentTarget)}
        sx={{ borderColor: 'divider' }}
      >
        Ready-made shapes…
      </Button>
      <Button variant="outlined" color="inherit" onClick={addText} sx={{ borderColor: 'divider' }}>
        Text
      </Button>
      <input
        ref={file}
        type="file"
        hidden
        multiple
        accept={MESH_ENDINGS.map((ending) => `.${ending}`).join()}
        data-testid="mesh-file"
        onChange={(event) => {
          void addFiles([...(event.target.files ?? [])])
          event.target.value = ''
        }}
      />
      <Menu open={anchor !== null} anchorEl={anchor} onClose={() => setAnchor(null)}>
        {data
          ?.filter((one) => one.sample)
          .map((one) => (
            <MenuItem
              key={one.asset}
              onClick={() => {
                addStored(one)
                setAnchor(null)
              }}
            >
              {one.name}
            </MenuItem>
          ))}
      </Menu>
    </Box>
  )
}

function MeshDetails({ mesh, index }: { mesh: ShotMesh; index: number }) {
  const act = useAct()
  const handle = useStore((state) => state.session.handle)
  const made = derivedFrom(mesh.source)
  return (
    <>
      <Section title="Mesh">
        <NameField
          label="Name of the mesh"
          value={mesh.name}
          onChange={(value) => act(set({ path: ['meshes', index, 'name'], value }))}
          sx={{ width: '100%' }}
        />
        {'text' in mesh.source && (
          <ParameterForm
            key={JSON.stringify(mesh.source.text.text)}
            parameters={TEXT}
            values={mesh.source.text as unknown as Record<string, unknown>}
            path={['meshes', index, 'source', 'text']}
          />
        )}
        <Facts mesh={mesh} />
        <MadeOfIt mesh={mesh} />
      </Section>
      {made && <DerivedSection mesh={mesh} index={index} />}
      {!made && (
        <Section
          title="Place"
          action={
            <Choices
              name="Handles"
              value={handle}
              options={{ move: 'move', turn: 'turn', scale: 'scale' }}
              onChange={(next) => act(handleChosen(next as Session['handle']))}
            />
          }
        >
          <ParameterForm
            parameters={PLACE}
            values={mesh.place as unknown as Record<string, unknown>}
            path={['meshes', index, 'place']}
          />
          <FitMenu mesh={mesh} />
          {('asset' in mesh.source || 'file' in mesh.source) && <FileMenu mesh={mesh} />}
        </Section>
      )}
      {!made && <PlaybackSection mesh={mesh} index={index} />}
      {!made && <DeformSection mesh={mesh} index={index} />}
      <LookSection mesh={mesh} index={index} />
      {made?.by !== 'fracture' && <EatenSection mesh={mesh} index={index} />}
      {made?.by !== 'fracture' && <CutSection mesh={mesh} index={index} />}
      {!made && <DetailField mesh={mesh} index={index} />}
    </>
  )
}

/** What is still being read or made, and a way to stop it. */
function Making({ mesh }: { mesh: ShotMesh }) {
  const share = useEngine((e) => e.making(mesh.source)?.share)
  return (
    <Box sx={{ display: 'flex', alignItems: 'center', gap: 1 }}>
      <Typography role="status" sx={{ fontSize: 12.5, color: 'text.secondary' }}>
        {derivedFrom(mesh.source) ? `Making it… ${Math.round((share ?? 0) * 100)} %` : 'Reading…'}
      </Typography>
      {share !== undefined && <Button onClick={() => engine.making(mesh.source)?.stop()}>Stop</Button>}
    </Box>
  )
}

const round = (x: number): number => Number(x.toPrecision(3))

const triangles = (n: number): string => `${count(n)} ${n === 1 ? 'triangle' : 'triangles'}`

const motionIn = ({ samples, seconds }: NonNullable<MeshFacts['motion']>): string =>
  seconds === null ? `${count(samples)} frames` : `${round(seconds)} s`

/** Size as placed, triangles and open edges. */
function Facts({ mesh }: { mesh: ShotMesh }) {
  const frame = useEngine((e) => (e.playing ? 0 : e.frame))
  const about = JSON.stringify(mesh.source)
  const facts = useEngineSlowly((e) => e.meshOf(mesh.source)?.facts, 120, about)
  const fault = useEngineSlowly((e) => e.meshFault(mesh.source), 120, about)
  const shot = useShot()
  if (fault)
    return (
      <>
        <Typography role="alert" sx={{ fontSize: 12.5, color: 'error.main' }}>
          {fault}
        </Typography>
        {derivedFrom(mesh.source) && <Button onClick={() => engine.remake(mesh.source)}>Try again</Button>}
      </>
    )
  if (!facts) return <Making mesh={mesh} />
  const scale = vectorAt(standing(shot, mesh).place.scale, frame || engine.frame)
  const size = facts.high.map((high, axis) =>
    shown(Number(((high - facts.low[axis]!) * Math.abs(scale[axis]!)).toPrecision(3))),
  )
  const rows: [string, string, boolean?][] = [['Size', `${size.join(' × ')} m`]]
  if (facts.triangles === 0) rows.push(['Points', count(facts.vertices)])
  else {
    const { openEdges, holes } = facts
    const open = `${count(openEdges)} in ${holes} ${holes === 1 ? 'hole' : 'holes'}`
    rows.push(
      ['Triangles', count(facts.triangles)],
      ['Vertices', count(facts.vertices)],
      ['Open edges', openEdges === 0 ? 'none: closed' : open, openEdges > 0],
    )
  }
  if (facts.motion) rows.push(['Moves', motionIn(facts.motion)])
  if (facts.uv) {
    const { low, high } = facts.uv
    rows.push([
      'U and V',
      low.map((from, k) => `${shown(round(from))} to ${shown(round(high[k]!))}`).join(', '),
    ])
  }
  if (facts.crowdedEdges > 0)
    rows.push(['Crowded edges', `${count(facts.crowdedEdges)} with over two sides`, true])
  if (facts.turned !== undefined) rows.push(['Turned over', `${triangles(facts.turned)} looked inward`])
  if (facts.doubled !== undefined) rows.push(['Left out', `${triangles(facts.doubled)} lay on others`])
  if (facts.slivers > 0) rows.push(['Slivers', `${count(facts.slivers)} without area`, true])
  return (
    <Box
      component="dl"
      sx={{ m: 0, display: 'grid', gridTemplateColumns: '92px 1fr', rowGap: 0.25 }}
      data-testid="mesh-facts"
    >
      <PieceRows mesh={mesh} />
      {rows.map(([name, value, warn]) => (
        <Box key={name} sx={{ display: 'contents' }}>
          <Typography component="dt" sx={{ fontSize: 12.5, color: 'text.secondary' }}>
            {name}
          </Typography>
          <Typography
            component="dd"
            sx={{ m: 0, fontSize: 12.5, fontFamily: MONO, color: warn ? 'warning.main' : 'text.primary' }}
          >
            {value}
          </Typography>
        </Box>
      ))}
    </Box>
  )
}
