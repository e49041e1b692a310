import DeleteOutlined from '@mui/icons-material/DeleteOutlined'
import { Button, IconButton, Typography } from '@mui/material'
import { COMBING, type Combing } from '@tangle/core'
import { useEffect } from 'react'
import { engine } from '../engine/engine.ts'
import { Choices, Row } from '../fields/Choices.tsx'
import { NameField } from '../fields/NameField.tsx'
import { NumberField } from '../fields/NumberField.tsx'
import { ParameterForm } from '../fields/ParameterForm.tsx'
import { useAct, useShot, useStore } from '../store/index.ts'
import { combedWith, noticed, selected, type Session } from '../store/session.ts'
import { combingRemoved, set } from '../store/shot.ts'
import { BrushFields } from './BrushFields.tsx'
import { addCombing, combingFollowers } from './combings.ts'
import { Entry, Section } from './Panel.tsx'
import { useBrush } from './useBrush.ts'

/** Layers of directions on meshes. */
export function CombingList({ chosen }: { chosen: Combing | undefined }) {
  const act = useAct()
  const { combings, meshes } = useShot()
  const remove = (one: Combing): void => {
    act(combingRemoved(one.id))
    act(noticed({ text: `${one.name} is out of the shot`, tone: 'info', undo: { kind: 'edit' } }))
  }
  return (
    <Section
      title="Combings"
      action={
        <Button disabled={meshes.length === 0} onClick={addCombing}>
          + Combing
        </Button>
      }
    >
      {combings.length === 0 && (
        <Typography sx={{ fontSize: 12.5, color: 'text.secondary' }}>
          Directions on a mesh, combed with a brush: sparks that run along fur, streams that follow a hull.
        </Typography>
      )}
      {combings.map((one) => (
        <Entry
          key={one.id}
          glyph="≋"
          name={one.name}
          note={meshes.find(({ id }) => id === one.mesh)?.name ?? one.mesh}
          selected={one === chosen}
          onSelect={() => act(selected({ combing: one.id }))}
        >
          <IconButton size="small" aria-label={`Remove ${one.name}`} onClick={() => remove(one)}>
            <DeleteOutlined sx={{ fontSize: 16 }} />
          </IconButton>
        </Entry>
      ))}
    </Section>
  )
}

/** What a combing starts from, and the brush that combs it; its directions are arrows on the stage. */
export function CombingDetails({ combing }: { combing: Combing }) {
  const act = useAct()
  const shot = useShot()
  const index = shot.combings.indexOf(combing)
  const { on, brush, radius, strength, lift, mirror } = useStore((state) => state.session.combing)
  useEffect(() => {
    engine.showCombing(combing.id)
    return () => engine.showCombing(null)
  }, [combing.id])
  useBrush(on ? combing : null, ['combings', index, 'strokes'], {
    brush,
    radius,
    strength,
    ...(mirror === 'none' ? {} : { mirror }),
    ...(brush === 'lift' ? { lift } : {}),
  })
  const followers = combingFollowers(shot, combing)
  return (
    <>
      <Section title="Combing">
        <NameField
          label="Name of the combing"
          value={combing.name}
          onChange={(value) => act(set({ path: ['combings', index, 'name'], value }))}
          sx={{ width: '100%', mb: 0.5 }}
        />
        <Brush combing={combing} index={index} />
      </Section>
      <Section title="Directions">
        <ParameterForm
          parameters={COMBING}
          values={combing as unknown as Record<string, unknown>}
          path={['combings', index]}
        />
      </Section>
      <Section title="What follows it">
        {followers.map((line) => (
          <Typography key={line} sx={{ fontSize: 12.5 }}>
            {line}
          </Typography>
        ))}
        {followers.length === 0 && (
          <Typography sx={{ fontSize: 12.5, color: 'text.secondary' }}>
            Nothing yet: add Follow or March in the Motion step.
          </Typography>
        )}
      </Section>
    </>
  )
}

/** The brush that combs. */
function Brush({ combing, index }: { combing: Combing; index: number }) {
  const act = useAct()
  const { on, brush, radius, strength, lift, mirror } = useStore((state) => state.session.combing)
  return (
    <BrushFields
      brushes={COMBING.strokes.brushes}
      help="What a stroke does: combs along itself, makes straight, lifts off the surface, or takes back"
      brush={on ? brush : null}
      radius={radius}
      strength={strength}
      strokes={combing.strokes}
      onChange={({ brush: next, ...rest }) =>
        act(combedWith(next === undefined ? rest : next === null ? { on: false } : { on: true, brush: next }))
      }
      onClear={() => act(set({ path: ['combings', index, 'strokes'], value: [] }))}
    >
      {brush === 'lift' && (
        <NumberField
          label="Lift to"
          name="Brush lift"
          unit="°"
          value={lift}
          range={[-90, 90]}
          usual={[0, 90]}
          step={1}
          onChange={(next) => act(combedWith({ lift: next }))}
        />
      )}
      <Row
        label="Mirrored"
        help="Each stroke has a twin on the other side of the mesh, along this axis of its own"
      >
        <Choices
          name="Mirrored"
          value={mirror}
          options={{ none: 'no', x: 'x', y: 'y', z: 'z' }}
          onChange={(next) => act(combedWith({ mirror: next as Session['combing']['mirror'] }))}
        />
      </Row>
    </BrushFields>
  )
}
