import { Button, Typography } from '@mui/material'
import { BACKDROPS, BLOOM, type Shot } from '@tangle/core'
import { Choices } from '../fields/Choices.tsx'
import { ParameterForm } from '../fields/ParameterForm.tsx'
import { NumberField } from '../fields/NumberField.tsx'
import { stage } from '../stage/Stage.tsx'
import { useAct, useChange, useShot } from '../store/index.ts'
import { set } from '../store/shot.ts'
import { Section } from './Panel.tsx'

/** The backdrop, the light and the camera of the shot. */
export function StageLook() {
  const act = useAct()
  const { stage: now } = useShot()
  const keepView = (): void => {
    if (stage.world) act(set({ path: ['stage', 'camera'], value: stage.world.cameraNow() }))
  }
  return (
    <>
      <Section title="Backdrop">
        <Choices
          name="Backdrop"
          value={now.backdrop}
          options={Object.fromEntries(Object.entries(BACKDROPS).map(([name, b]) => [name, b.label]))}
          onChange={(next) => act(set({ path: ['stage', 'backdrop'], value: next }))}
        />
      </Section>
      <LightFields light={now.light} />
      <Section title="Bloom">
        <ParameterForm parameters={BLOOM} values={now.bloom} path={['stage', 'bloom']} />
      </Section>
      <Section title="Camera">
        <Button variant="outlined" color="inherit" onClick={keepView} sx={{ borderColor: 'divider' }}>
          Keep this view
        </Button>
        <Typography sx={{ fontSize: 12, color: 'text.secondary', mt: 0.5 }}>
          The shot opens with the view that is kept.
        </Typography>
      </Section>
    </>
  )
}

const LIGHT = [
  { part: 'bearing', label: 'Bearing', unit: '°', help: 'From which side it comes', range: [-360, 360], usual: [-180, 180], step: 1 }, // prettier-ignore
  { part: 'height', label: 'Height', unit: '°', help: 'Above the horizon', range: [-90, 90], usual: [-10, 90], step: 1 }, // prettier-ignore
  { part: 'strength', label: 'Strength', unit: '×', range: [0, 100], usual: [0, 3], step: 0.05 },
] satisfies LightField[]
interface LightField {
  part: 'bearing' | 'height' | 'strength'
  label: string
  unit: string
  help?: string
  range: [number, number]
  usual: [number, number]
  step: number
}

function LightFields({ light }: { light: Shot['stage']['light'] }) {
  const change = useChange()
  return (
    <Section title="Light">
      {LIGHT.map(({ part, label, ...field }: LightField) => (
        <NumberField
          key={part}
          label={label}
          name={`Light ${part}`}
          value={light[part]}
          {...field}
          onChange={(value, gesture) => change(['stage', 'light', part], value, gesture)}
        />
      ))}
    </Section>
  )
}
