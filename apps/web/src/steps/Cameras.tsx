import DeleteOutlined from '@mui/icons-material/DeleteOutlined'
import { Box, Button, IconButton, Typography } from '@mui/material'
import {
  ASPECTS,
  CAMERA,
  completeCamera,
  focalLengthFor,
  freshId,
  freshName,
  type Camera,
  type KeyedVector,
} from '@tangle/core'
import { useState } from 'react'
import { engine } from '../engine/engine.ts'
import { withValueAt } from '../fields/keyed.ts'
import { NameField } from '../fields/NameField.tsx'
import { ParameterForm } from '../fields/ParameterForm.tsx'
import { stage } from '../stage/Stage.tsx'
import { useAct, useShot, useStore } from '../store/index.ts'
import { shownAs } from '../store/session.ts'
import { inserted, removed, set } from '../store/shot.ts'
import { Entry, Section } from './Panel.tsx'

/** The cameras of the shot: one may look through them, and make movies by them. */
export function Cameras() {
  const act = useAct()
  const { cameras } = useShot()
  const through = useStore((state) => state.session.camera)
  const [chosen, choose] = useState<string | null>(null)
  const index = cameras.findIndex(({ id }) => id === chosen)
  const add = (): void => {
    const camera = newCamera(cameras)
    act(inserted({ path: ['cameras'], value: camera }))
    choose(camera.id)
  }
  const remove = (n: number): void => {
    if (cameras[n]!.id === through) act(shownAs({ camera: null }))
    act(removed({ path: ['cameras', n] }))
  }
  return (
    <Section title="Cameras" action={<Button onClick={add}>+ Camera</Button>}>
      {cameras.length === 0 && (
        <Typography sx={{ fontSize: 12, color: 'text.secondary' }}>
          A camera stands where you look from now; its places and its lens can be keyed, and movies are made
          by it.
        </Typography>
      )}
      {cameras.map((camera, n) => (
        <Entry
          key={camera.id}
          glyph="◱"
          name={camera.name}
          note={camera.aspect}
          selected={camera.id === chosen}
          onSelect={() => choose(camera.id === chosen ? null : camera.id)}
        >
          <Button
            aria-pressed={camera.id === through}
            onClick={() => act(shownAs({ camera: camera.id === through ? null : camera.id }))}
          >
            {camera.id === through ? 'Leave' : 'Look through'}
          </Button>
          <IconButton size="small" aria-label={`Remove ${camera.name}`} onClick={() => remove(n)}>
            <DeleteOutlined sx={{ fontSize: 16 }} />
          </IconButton>
        </Entry>
      ))}
      {index >= 0 && <CameraDetails camera={cameras[index]!} index={index} through={through} />}
    </Section>
  )
}

interface CameraDetailsProps {
  camera: Camera
  index: number
  through: string | null
}

function CameraDetails({ camera, index, through }: CameraDetailsProps) {
  const act = useAct()
  const path = ['cameras', index]
  return (
    <Box role="group" aria-label={camera.name} sx={{ mt: 1 }}>
      <NameField
        label="Name of the camera"
        value={camera.name}
        onChange={(name) => act(set({ path: [...path, 'name'], value: name }))}
      />
      <Button
        disabled={through === camera.id}
        title="Puts it where you look from now: at this frame, where its places are keyed"
        onClick={() => act(set({ path, value: placedAsView(camera, engine.frame) }))}
      >
        Stand where I look from
      </Button>
      <ParameterForm parameters={CAMERA} values={camera as unknown as Record<string, unknown>} path={path} />
    </Box>
  )
}

/** A camera that sees what the stage shows now. */
function newCamera(cameras: Camera[]): Camera {
  const view = stage.world?.cameraNow()
  const plain = completeCamera({
    id: freshId(
      'camera',
      cameras.map(({ id }) => id),
    ),
    name: freshName(
      'Camera',
      cameras.map(({ name }) => name),
    ),
  })
  if (!view) return plain
  const { position, target, fieldOfView } = view
  const focalLength = Math.round(focalLengthFor(fieldOfView, ASPECTS[plain.aspect]!) * 10) / 10
  return { ...plain, position, target, focalLength }
}

/** A camera put to where one looks from, at a frame. */
function placedAsView(camera: Camera, frame: number): Camera {
  const view = stage.world?.cameraNow()
  if (!view) return camera
  const at = (place: KeyedVector, now: [number, number, number]): KeyedVector =>
    place.map((value, k) => withValueAt(value, frame, now[k]!)) as KeyedVector
  return {
    ...camera,
    position: at(camera.position, view.position),
    target: at(camera.target, view.target),
  }
}
