import DeleteOutlined from '@mui/icons-material/DeleteOutlined'
import VolumeOffOutlined from '@mui/icons-material/VolumeOffOutlined'
import { Box, Button, IconButton, Typography } from '@mui/material'
import {
  completeCut,
  completeDeformation,
  completeEaten,
  CUT,
  DEFORMATIONS,
  DETAIL,
  EATEN,
  MESH_LOOK,
  PLAYBACK,
  type ShotMesh,
  freshId,
} from '@tangle/core'
import { useEngineSlowly } from '../engine/useEngine.ts'
import { Choices, Row } from '../fields/Choices.tsx'
import { KindMenu } from '../fields/KindMenu.tsx'
import { NumberField } from '../fields/NumberField.tsx'
import { ParameterForm } from '../fields/ParameterForm.tsx'
import { useAct, useChange, useShot } from '../store/index.ts'
import { inserted, removed, set } from '../store/shot.ts'
import { Section } from './Panel.tsx'

interface OfMesh {
  mesh: ShotMesh
  index: number
}

/** How the motion that its file has is played. */
export function PlaybackSection({ mesh, index }: OfMesh) {
  const moves = useEngineSlowly((e) => e.meshOf(mesh.source)?.facts.motion !== undefined)
  if (!moves) return null
  return (
    <Section title="Playback">
      <ParameterForm
        parameters={PLAYBACK}
        values={mesh.playback as unknown as Record<string, unknown>}
        path={['meshes', index, 'playback']}
      />
    </Section>
  )
}

/** Motions of the surface, one after the other. */
export function DeformSection({ mesh, index }: OfMesh) {
  const act = useAct()
  const path = ['meshes', index, 'deform']
  const add = (kind: string): void => {
    const taken = mesh.deform.map((one) => one.id)
    act(inserted({ path, value: completeDeformation({ id: freshId(kind, taken), kind }) }))
  }
  return (
    <Section
      title="Surface motion"
      action={<KindMenu label="+ Motion" kinds={DEFORMATIONS} onChoose={add} />}
    >
      {mesh.deform.map((one, i) => {
        const kind = DEFORMATIONS.find((k) => k.kind === one.kind)!
        return (
          <Box key={one.id} role="group" aria-label={kind.label}>
            <Box sx={{ display: 'flex', alignItems: 'center' }}>
              <Typography sx={{ fontSize: 13, fontWeight: 600, flex: 1, opacity: one.muted ? 0.5 : 1 }}>
                <span aria-hidden>{kind.glyph}</span> {kind.label}
              </Typography>
              <IconButton
                size="small"
                aria-label={`${one.muted ? 'Unmute' : 'Mute'} ${kind.label}`}
                onClick={() => act(set({ path: [...path, i, 'muted'], value: one.muted ? undefined : true }))}
              >
                <VolumeOffOutlined sx={{ fontSize: 15, opacity: one.muted ? 1 : 0.4 }} />
              </IconButton>
              <IconButton
                size="small"
                aria-label={`Remove ${kind.label}`}
                onClick={() => act(removed({ path: [...path, i] }))}
              >
                <DeleteOutlined sx={{ fontSize: 15 }} />
              </IconButton>
            </Box>
            <ParameterForm parameters={kind.parameters} values={one} path={[...path, i]} />
          </Box>
        )
      })}
    </Section>
  )
}

/** The part that a mask takes away. */
export function EatenSection({ mesh, index }: OfMesh) {
  const act = useAct()
  const { masks } = useShot()
  const area = useEngineSlowly((e) => e.measures()?.meshes.find((one) => one.id === mesh.id))
  const path = ['meshes', index, 'eaten']
  return (
    <Section
      title="Eaten by a mask"
      action={
        mesh.eaten ? (
          <Button onClick={() => act(set({ path, value: null }))}>Whole again</Button>
        ) : (
          <Button
            disabled={masks.length === 0 || mesh.cut !== null}
            onClick={() => act(set({ path, value: completeEaten({ mask: masks[0]!.id }) }))}
          >
            + Eat
          </Button>
        )
      }
    >
      {mesh.eaten ? (
        <>
          <ParameterForm
            parameters={EATEN}
            values={mesh.eaten as unknown as Record<string, unknown>}
            path={path}
          />
          {area && (
            <Typography data-testid="area-left" sx={{ fontSize: 12, color: 'text.secondary' }}>
              {area.left.toPrecision(4)} of {area.area.toPrecision(4)} m² are left
            </Typography>
          )}
        </>
      ) : (
        <Typography sx={{ fontSize: 12, color: 'text.secondary' }}>
          {mesh.cut
            ? 'Another mesh cuts it already: one of both.'
            : masks.length === 0
              ? 'The part where a mask is full can vanish: make a mask first.'
              : 'The part where a mask is full vanishes, here and in takes.'}
        </Typography>
      )}
    </Section>
  )
}

/** Another mesh that cuts it. */
export function CutSection({ mesh, index }: OfMesh) {
  const act = useAct()
  const { meshes } = useShot()
  const found = useEngineSlowly((e) => e.measures()?.cuts?.find((one) => one.id === mesh.id))
  const path = ['meshes', index, 'cut']
  const other = meshes.find(({ id }) => id !== mesh.id)
  return (
    <Section
      title="Cut by a mesh"
      action={
        mesh.cut ? (
          <Button onClick={() => act(set({ path, value: null }))}>Whole again</Button>
        ) : (
          <Button
            disabled={!other || mesh.eaten !== null}
            onClick={() => act(set({ path, value: completeCut({ by: other!.id }) }))}
          >
            + Cut
          </Button>
        )
      }
    >
      {mesh.cut ? (
        <>
          <ParameterForm
            parameters={CUT}
            values={mesh.cut as unknown as Record<string, unknown>}
            path={path}
            of={mesh.id}
          />
          {found && !found.fault && (
            <Typography data-testid="volume-left" sx={{ fontSize: 12, color: 'text.secondary' }}>
              {found.left.toPrecision(4)} of {found.volume.toPrecision(4)} m³ are left; the cut is{' '}
              {found.area.toPrecision(4)} m² large
            </Typography>
          )}
        </>
      ) : (
        <Typography sx={{ fontSize: 12, color: 'text.secondary' }}>
          {mesh.eaten
            ? 'It is eaten by a mask already: one of both.'
            : other
              ? 'A mesh that moves through this one can take away what it covers, and lay open faces to be born on.'
              : 'Another mesh can take away what it covers: bring one first.'}
        </Typography>
      )}
    </Section>
  )
}

/** What it is made of, here and in files. */
export function LookSection({ mesh, index }: OfMesh) {
  return (
    <Section title="Look">
      <ParameterForm
        parameters={MESH_LOOK}
        values={mesh.look as unknown as Record<string, unknown>}
        path={['meshes', index, 'look']}
      />
    </Section>
  )
}

/** How finely the mesh is split, where masks on its surface need it. */
export function DetailField({ mesh, index }: OfMesh) {
  const change = useChange()
  const path = ['meshes', index, 'detail']
  const own = mesh.detail !== 'auto'
  return (
    <Section title="Detail">
      <Row label="Triangles" help="Masks on the surface need fine triangles; auto splits them as they need">
        <Choices
          name="Detail"
          value={own ? 'own' : 'auto'}
          options={{ auto: 'auto', own: 'longest edge' }}
          onChange={(next) => change(path, next === 'auto' ? 'auto' : DETAIL.default)}
        />
      </Row>
      {own && (
        <NumberField
          label={DETAIL.label}
          name={DETAIL.label}
          unit={DETAIL.unit}
          help={DETAIL.help}
          value={mesh.detail as number}
          range={DETAIL.range}
          usual={DETAIL.usual}
          step={DETAIL.step}
          onChange={(detail, gesture) => change(path, detail, gesture)}
        />
      )}
    </Section>
  )
}
