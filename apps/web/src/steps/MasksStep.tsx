import DeleteOutlined from '@mui/icons-material/DeleteOutlined'
import { Box, Button, IconButton, Typography } from '@mui/material'
import { MASKS, type Mask } from '@tangle/core'
import { Choices, Row } from '../fields/Choices.tsx'
import { KindMenu } from '../fields/KindMenu.tsx'
import { HelpButton } from '../help/HelpCard.tsx'
import { NameField } from '../fields/NameField.tsx'
import { NumberField } from '../fields/NumberField.tsx'
import { ParameterForm } from '../fields/ParameterForm.tsx'
import { useEngineSlowly } from '../engine/useEngine.ts'
import { useAct, useShot, useStore } from '../store/index.ts'
import { masksShownAs, noticed, selected, type Session } from '../store/session.ts'
import { maskRemoved, set } from '../store/shot.ts'
import { BrushFields } from './BrushFields.tsx'
import { CombingDetails, CombingList } from './Combings.tsx'
import { dustFromMask, eatByMask, followers, meshOfMask } from './follow.ts'
import { isPainted, maskKind, paintBrushes } from './maskKinds.ts'
import { addMask, missingFor } from './masks.ts'
import { Empty, Entry, Panel, Section } from './Panel.tsx'
import { useShownMask } from './useShownMask.ts'

/** Where things happen: a value from 0 to 1 at any place and time. And which way: directions on meshes. */
export function MasksStep() {
  const act = useAct()
  const shot = useShot()
  const chosen = useStore((state) => state.session.selected.mask)
  const combed = useStore((state) => state.session.selected.combing)
  const first = shot.masks.length === 0 ? shot.combings[0] : undefined
  const combing = shot.combings.find((one) => one.id === combed) ?? first
  const mask = combing ? undefined : (shot.masks.find((one) => one.id === chosen) ?? shot.masks[0])
  useShownMask(mask)
  const remove = (one: Mask): void => {
    act(maskRemoved(one.id))
    act(noticed({ text: `${one.name} is out of the shot`, tone: 'info', undo: { kind: 'edit' } }))
  }
  return (
    <Panel
      title="Masks"
      help="Where things happen: 0 to 1 at any place and time. The line on the mesh is ½."
      actions={
        <KindMenu
          label="+ Mask"
          kinds={MASKS}
          missing={(kind) => missingFor(kind, shot)}
          onChoose={addMask}
        />
      }
    >
      {shot.masks.length === 0 && (
        <Empty
          text={
            shot.meshes.length === 0
              ? 'A mask says where and when. It shows on meshes: bring one in the Meshes step first.'
              : 'A mask says where and when: a front that grows over the mesh, a travelling plane, noise. Births, cues and meshes that vanish follow it.'
          }
        >
          {shot.meshes.length > 0 && (
            <Button variant="outlined" onClick={() => addMask('spread')}>
              Let a front spread
            </Button>
          )}
        </Empty>
      )}
      {shot.masks.map((one) => (
        <Entry
          key={one.id}
          glyph={maskKind(one).glyph}
          name={one.name}
          note={maskKind(one).label}
          selected={one === mask}
          onSelect={() => act(selected({ mask: one.id, combing: null }))}
        >
          <IconButton size="small" aria-label={`Remove ${one.name}`} onClick={() => remove(one)}>
            <DeleteOutlined sx={{ fontSize: 16 }} />
          </IconButton>
        </Entry>
      ))}
      <CombingList chosen={combing} />
      {combing && <CombingDetails key={combing.id} combing={combing} />}
      {mask && <MaskDetails key={mask.id} mask={mask} index={shot.masks.indexOf(mask)} />}
    </Panel>
  )
}

function MaskDetails({ mask, index }: { mask: Mask; index: number }) {
  const act = useAct()
  const kind = maskKind(mask)
  const off = useStore((state) => state.session.masks.off)
  return (
    <>
      <Section title={kind.label} action={<HelpButton sort="mask" kind={kind.kind} />}>
        <NameField
          label="Name of the mask"
          value={mask.name}
          onChange={(value) => act(set({ path: ['masks', index, 'name'], value }))}
          sx={{ width: '100%', mb: 0.5 }}
        />
        {isPainted(mask) && <Brush mask={mask} index={index} />}
        <SeenSoFar mask={mask} />
        <ParameterForm
          parameters={kind.parameters}
          values={mask}
          path={['masks', index]}
          of={mask.id}
          helped={{ sort: 'mask', kind: kind.kind }}
        />
      </Section>
      {kind.inputs && (
        <Section title="Compare">
          {Object.keys(kind.inputs).map((input) => {
            const label = kind.parameters[input]!.label
            return (
              <Button
                key={input}
                aria-pressed={off === input}
                color={off === input ? 'warning' : 'inherit'}
                variant="outlined"
                onClick={() => act(masksShownAs({ off: off === input ? null : input }))}
                sx={{ borderColor: 'divider', mr: 1 }}
              >
                Without {label.toLowerCase()}
              </Button>
            )
          })}
          <Typography sx={{ fontSize: 12, color: 'text.secondary', mt: 0.5 }}>
            A second line, in marigold, shows the mask with that off.
          </Typography>
        </Section>
      )}
      <Followers mask={mask} />
      <CutPlaneSection />
      {kind.source && (
        <Section title="Source">
          <Typography sx={{ fontSize: 12, color: 'text.secondary' }}>{kind.source}</Typography>
        </Section>
      )}
    </>
  )
}

/** How much of its mesh rays have seen, of a mask that asks for it. */
function SeenSoFar({ mask }: { mask: Mask }) {
  const { populations } = useShot()
  const found = useEngineSlowly((e) => e.measures()?.seen?.find(({ id }) => id === mask.id))
  const casts = populations.some(({ births }) => births.some(({ laid, mesh, muted }) => laid === 'ray' && mesh === mask.mesh && !muted)) // prettier-ignore
  if (mask.kind !== 'seen') return null
  return (
    <Typography data-testid="seen-so-far" sx={{ fontSize: 12, color: 'text.secondary', mb: 0.5 }}>
      {casts
        ? `${((found?.share ?? 0) * 100).toFixed(1)} % of the mesh seen so far`
        : 'No rays go to this mesh yet: in Births let offspring be laid onto it by a ray.'}
    </Typography>
  )
}

/** What follows the mask, and the two things that most often shall. */
function Followers({ mask }: { mask: Mask }) {
  const act = useAct()
  const shot = useShot()
  const words = followers(shot, mask)
  const mesh = meshOfMask(shot, mask)
  if (!mesh) return null
  const dust = (): void => {
    dustFromMask(mask)
    act(
      noticed({
        text: 'Dust is born where the mask passes: see Births and Motion',
        tone: 'info',
        undo: { kind: 'edit' },
      }),
    )
  }
  return (
    <Section title="What follows it">
      {words.map((line) => (
        <Typography key={line} sx={{ fontSize: 12.5 }}>
          {line}
        </Typography>
      ))}
      {words.length === 0 && (
        <Typography sx={{ fontSize: 12.5, color: 'text.secondary' }}>Nothing yet.</Typography>
      )}
      <Box sx={{ display: 'flex', flexWrap: 'wrap', gap: 0.5, mt: 0.5 }}>
        {mesh.eaten?.mask !== mask.id && (
          <Button variant="outlined" onClick={() => eatByMask(mask)}>
            Eat {mesh.name}
          </Button>
        )}
        <Button variant="outlined" onClick={dust}>
          Dust where it passes
        </Button>
      </Box>
    </Section>
  )
}

/** A plane in which the mask shows in space. */
function CutPlaneSection() {
  const act = useAct()
  const { plane, planeAt } = useStore((state) => state.session.masks)
  return (
    <Section title="In space">
      <Row label="Cut plane" help="Shows the mask in a plane across this axis">
        <Choices
          name="Cut plane"
          value={plane}
          options={{ none: 'none', x: 'x', y: 'y', z: 'z' }}
          onChange={(next) => act(masksShownAs({ plane: next as Session['masks']['plane'] }))}
        />
      </Row>
      {plane !== 'none' && (
        <NumberField
          label="At"
          name="Cut plane at"
          help="From one side of the meshes to the other"
          value={planeAt}
          range={[-1, 1]}
          usual={[-1, 1]}
          step={0.02}
          onChange={(next) => act(masksShownAs({ planeAt: next }))}
        />
      )}
    </Section>
  )
}

/** The brush that paints. */
function Brush({ mask, index }: { mask: Mask; index: number }) {
  const act = useAct()
  const { brush, radius, strength, painting } = useStore((state) => state.session.masks)
  return (
    <BrushFields
      brushes={paintBrushes(mask)}
      help="What a stroke does"
      brush={painting ? brush : null}
      radius={radius}
      strength={strength}
      strokes={mask.strokes as unknown[]}
      onChange={({ brush: next, ...rest }) =>
        act(
          masksShownAs(
            next === undefined ? rest : next === null ? { painting: false } : { painting: true, brush: next },
          ),
        )
      }
      onClear={() => act(set({ path: ['masks', index, 'strokes'], value: [] }))}
    />
  )
}
