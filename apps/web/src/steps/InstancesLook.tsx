import { Box, Button, MenuItem, Select, Typography } from '@mui/material'
import { INSTANCES, isRigid, type Instances } from '@tangle/core'
import { NumberInput } from '../fields/NumberField.tsx'
import { ParameterForm } from '../fields/ParameterForm.tsx'
import { useAct, useShot } from '../store/index.ts'
import { set, type Path } from '../store/shot.ts'
import { Section } from './Panel.tsx'

/** The meshes that particles are drawn as, each with its weight, and how they lie about the particle. */
export function InstancesLook({ instances, path }: { instances: Instances; path: Path }) {
  const act = useAct()
  const { meshes, populations } = useShot()
  const touches = isRigid(populations[Number(path[1])]!)
    ? 'They touch as the meshes that they are.'
    : 'They collide as balls of their radius.'
  const { set: list } = instances
  const change = (value: Instances['set']): void => void act(set({ path: [...path, 'set'], value }))
  const put = (n: number, value: Partial<Instances['set'][number]>): void =>
    change(list.map((one, k) => (k === n ? { ...one, ...value } : one)))
  const total = list.reduce((sum, { weight }) => sum + weight, 0)
  const next = meshes.find(({ id }) => !list.some(({ mesh }) => mesh === id)) ?? meshes[0]
  return (
    <Section title="Instances">
      {list.map(({ mesh, weight }, n) => (
        <Box key={n} sx={{ display: 'flex', alignItems: 'center', gap: 0.5, minHeight: 30 }}>
          <Select
            value={mesh}
            inputProps={{ 'aria-label': `Instance ${n + 1}` }}
            onChange={(event) => put(n, { mesh: event.target.value })}
            sx={{ flex: 1, minWidth: 0 }}
          >
            {meshes.map(({ id, name }) => (
              <MenuItem key={id} value={id}>
                {name}
              </MenuItem>
            ))}
          </Select>
          <Box sx={{ width: 92 }}>
            <NumberInput
              name={`Weight of instance ${n + 1}`}
              unit={total > 0 ? `of ${Math.round(total * 100) / 100}` : ''}
              value={weight}
              range={[0, 1e6]}
              onChange={(value) => put(n, { weight: value })}
            />
          </Box>
          <Button
            aria-label={`Take instance ${n + 1} out`}
            title="Take out"
            disabled={list.length === 1}
            onClick={() => change(list.filter((_, k) => k !== n))}
            sx={{ minWidth: 24, px: 0 }}
          >
            ×
          </Button>
        </Box>
      ))}
      {next && (
        <Button variant="outlined" onClick={() => change([...list, { mesh: next.id, weight: 1 }])}>
          Add a mesh
        </Button>
      )}
      <ParameterForm
        parameters={INSTANCES}
        values={instances as unknown as Record<string, unknown>}
        path={path}
      />
      <Typography sx={{ fontSize: 12, color: 'text.secondary', mt: 0.5 }}>
        Each particle keeps its mesh for life. {touches}
      </Typography>
    </Section>
  )
}
