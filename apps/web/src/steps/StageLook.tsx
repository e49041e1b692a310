import { Button, Typography } from '@mui/material'
import { BACKDROPS, BLOOM, LIGHT, PICTURE, SURROUNDINGS } from '@tangle/core'
import { Choices, Row } from '../fields/Choices.tsx'
import { ParameterForm } from '../fields/ParameterForm.tsx'
import { stage } from '../stage/Stage.tsx'
import { useAct, useShot, useStore } from '../store/index.ts'
import { shownAs } from '../store/session.ts'
import { set } from '../store/shot.ts'
import { Cameras } from './Cameras.tsx'
import { Section } from './Panel.tsx'

/** The backdrop, the light and the camera of the shot. */
export function StageLook() {
  const act = useAct()
  const { stage: now } = useShot()
  const quality = useStore((state) => state.session.quality)
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
      <Section title="Light">
        <ParameterForm parameters={LIGHT} values={now.light} path={['stage', 'light']} />
      </Section>
      <Section title="Surroundings">
        <ParameterForm parameters={SURROUNDINGS} values={now.surroundings} path={['stage', 'surroundings']} />
      </Section>
      <Section title="Picture">
        <ParameterForm parameters={PICTURE} values={now.picture} path={['stage', 'picture']} />
        <Row
          label="Quality of pictures"
          help="As well as pictures keep up, or without shadows, with them, or with all there is; of this window, not of the shot"
        >
          <Choices
            name="Quality of pictures"
            value={quality}
            options={{ auto: 'auto', plain: 'plain', shadows: 'shadows', full: 'full' }}
            onChange={(next) => act(shownAs({ quality: next as typeof quality }))}
          />
        </Row>
      </Section>
      <Section title="Bloom">
        <ParameterForm parameters={BLOOM} values={now.bloom} path={['stage', 'bloom']} />
      </Section>
      <Cameras />
      <Section title="Opening view">
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
