import { Box, Button, Typography } from '@mui/material'
import { KEEP_PRESETS, KEEPABLE, PRECISIONS, storedBytes, type Population } from '@tangle/core'
import { Choices, Row } from '../fields/Choices.tsx'
import { useAct } from '../store/index.ts'
import { set, type Path } from '../store/shot.ts'
import { Section } from './Panel.tsx'

const OWN_CHOICE = 'own choice'

/** What takes and files keep of a population at `path`: which attributes, by what they are for or one by one, and how precisely. */
export function Kept({ population, path: of }: { population: Population; path: Path }) {
  const act = useAct()
  const { keep, attributes, precision } = population
  const path = [...of, 'keep']
  const all = [...KEEPABLE, ...attributes.map(({ id }) => id)]
  const kept = keep ?? all
  const nameOf = (one: string): string => attributes.find(({ id }) => id === one)?.name ?? one
  const toggle = (one: string): void => {
    const next = all.filter((attribute) => (attribute === one) !== kept.includes(attribute))
    act(set({ path, value: next.length === all.length ? null : next }))
  }
  const presets = Object.keys(KEEP_PRESETS)
  const isKept = (some: string[] | null): boolean =>
    all.every((one) => kept.includes(one) === (some === null || some.includes(one)))
  const preset = presets.find((name) => isKept(KEEP_PRESETS[name] ?? null)) ?? OWN_CHOICE
  const offered = preset === OWN_CHOICE ? [...presets, OWN_CHOICE] : presets
  return (
    <Section title="Takes keep">
      <Row label="For">
        <Choices
          name="What takes keep"
          value={preset}
          options={Object.fromEntries(offered.map((name) => [name, name]))}
          onChange={(name) => name !== OWN_CHOICE && act(set({ path, value: KEEP_PRESETS[name] ?? null }))}
        />
      </Row>
      <Row
        label="Precision"
        help="Compact: places to 1/100,000 of what the population spans. Exact: every bit, three to four times as large"
      >
        <Choices
          name="Precision of takes"
          value={precision}
          options={Object.fromEntries(PRECISIONS.map((one) => [one, one]))}
          onChange={(next) => act(set({ path: [...of, 'precision'], value: next }))}
        />
      </Row>
      <Box
        role="group"
        aria-label="Attributes that takes keep"
        sx={{ display: 'flex', flexWrap: 'wrap', gap: 0.5 }}
      >
        {all.map((one) => (
          <Button
            key={one}
            aria-pressed={kept.includes(one)}
            onClick={() => toggle(one)}
            color={kept.includes(one) ? 'primary' : 'inherit'}
            variant="outlined"
            sx={{
              fontSize: 12,
              minHeight: 24,
              borderColor: 'divider',
              opacity: kept.includes(one) ? 1 : 0.6,
            }}
          >
            {nameOf(one)}
          </Button>
        ))}
      </Box>
      <Typography sx={{ fontSize: 12, color: 'text.secondary', mt: 0.5 }}>
        Beside ids, positions and what the look reads; what no rule makes is not there anyway. About{' '}
        {Math.max(1, Math.round(storedBytes(population)))} bytes a particle and frame.
      </Typography>
    </Section>
  )
}
