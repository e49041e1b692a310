import { completeGlow, completeSkin, completeThreads, GLOW, SKIN, THREADS, type Look } from '@tangle/core'
import { Choices } from '../fields/Choices.tsx'
import { ParameterForm } from '../fields/ParameterForm.tsx'
import { useAct } from '../store/index.ts'
import { set, type Path } from '../store/shot.ts'
import { Section } from './Panel.tsx'

const SORTS = {
  glow: { title: 'Glow', on: 'gives light', parameters: GLOW, complete: completeGlow },
  threads: { title: 'Threads', on: 'lines', parameters: THREADS, complete: completeThreads },
  skin: { title: 'Skin', on: 'a surface', parameters: SKIN, complete: completeSkin },
} as const

/** The light that particles give, the lines between them or the skin about them: off, or with its values. */
export function LightLook({ sort, look, path }: { sort: keyof typeof SORTS; look: Look; path: Path }) {
  const act = useAct()
  const { title, on, parameters, complete } = SORTS[sort]
  const values = look[sort]
  return (
    <Section
      title={title}
      action={
        <Choices
          name={title}
          value={values ? 'on' : 'off'}
          options={{ off: 'none', on }}
          onChange={(next) => act(set({ path: [...path, sort], value: next === 'on' ? complete({}) : null }))}
        />
      }
    >
      {values && (
        <ParameterForm
          parameters={parameters}
          values={values as unknown as Record<string, unknown>}
          path={[...path, sort]}
        />
      )}
    </Section>
  )
}
