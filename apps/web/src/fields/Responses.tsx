import { Box, Button, IconButton, Menu, MenuItem, Typography } from '@mui/material'
import DeleteOutlined from '@mui/icons-material/DeleteOutlined'
import {
  RESPONSES,
  type NumberParameter,
  type Population,
  type Response,
  type ResponseKind,
} from '@tangle/core'
import { useState } from 'react'
import { useChange, useShot } from '../store/index.ts'
import type { Path } from '../store/shot.ts'
import { Choices, Row } from './Choices.tsx'
import { CurveEditor } from './CurveEditor.tsx'
import { populationOf } from './ParameterForm.tsx'
import { ReferenceField } from './ReferenceField.tsx'

interface ResponsesProps {
  parameters: [name: string, parameter: NumberParameter][]
  responses: Response[]
  path: Path
}

/** What a response reads; the document names no other. */
export const responseKind = (from: string): ResponseKind => RESPONSES.find((one) => one.from === from)!

/** The curves by which values of a particle's own drive the parameters of an influence. */
export function Responses({ parameters, responses, path }: ResponsesProps) {
  const put = useChange()
  const shot = useShot()
  const change = (next: Response[], gesture?: string): void =>
    put(path, next.length > 0 ? next : undefined, gesture)
  return (
    <>
      {responses.map((response, i) => (
        <OneResponse
          key={i}
          response={response}
          population={populationOf(shot, path)}
          label={parameters.find(([name]) => name === response.to)?.[1].label ?? response.to}
          onChange={(next, gesture) => change(responses.with(i, next), gesture)}
          onRemove={() => change(responses.filter((_, k) => k !== i))}
        />
      ))}
      <AddResponse
        parameters={parameters}
        population={populationOf(shot, path)}
        onAdd={(response) => change([...responses, response])}
      />
    </>
  )
}

function OneResponse({
  response,
  population,
  label,
  onChange,
  onRemove,
}: {
  response: Response
  population: Population | undefined
  label: string
  onChange(response: Response, gesture?: string): void
  onRemove(): void
}) {
  const source = responseKind(response.from)
  return (
    <Box sx={{ mb: 1 }} role="group" aria-label={`${label} responds to ${source.label}`}>
      <Box sx={{ display: 'flex', alignItems: 'center' }}>
        <Typography sx={{ fontSize: 13, flex: 1 }}>
          {label} × <span style={{ opacity: 0.7 }}>by {source.label}</span>
        </Typography>
        <IconButton size="small" aria-label={`Remove the response to ${source.label}`} onClick={onRemove}>
          <DeleteOutlined sx={{ fontSize: 15 }} />
        </IconButton>
      </Box>
      {source.needs && (
        <ReferenceField
          label={{ mask: 'Mask', mesh: 'Mesh', attribute: 'Attribute' }[source.needs]}
          to={source.needs}
          value={response[source.needs]}
          attributes={population?.attributes ?? []}
          onChange={(id) => id && onChange({ ...response, [source.needs!]: id })}
        />
      )}
      {source.offers === 'goal' && population && population.goals.length > 0 && (
        <ReferenceField
          label="Goal"
          to="goal"
          value={response.goal}
          absent="its place on the mesh"
          goals={population.goals}
          onChange={(goal) => {
            const { goal: _, ...rest } = response
            onChange(goal === undefined ? rest : { ...rest, goal })
          }}
        />
      )}
      <CurveEditor
        name={`${label} by ${source.label}`}
        curve={response.curve}
        x={{ label: `${source.label}${source.unit ? `, ${source.unit}` : ''}`, range: source.usual }}
        y={{ label: `${label.toLowerCase()} ×`, range: [0, 1] }}
        limits={{ x: [-1e9, 1e9], y: [-1e6, 1e6] }}
        onChange={(curve, gesture) => onChange({ ...response, curve }, gesture)}
      />
      <Row label="After its end" help="What the curve does beyond its last point">
        <Choices
          name={`${label} by ${source.label} after its end`}
          value={response.repeat ?? 'hold'}
          options={{ hold: 'holds', loop: 'begins again', swing: 'swings back and forth' }}
          onChange={(next) => {
            const { repeat: _, ...rest } = response
            onChange(next === 'hold' ? rest : { ...rest, repeat: next as 'loop' | 'swing' })
          }}
        />
      </Row>
    </Box>
  )
}

function AddResponse({
  parameters,
  population,
  onAdd,
}: {
  parameters: ResponsesProps['parameters']
  population: Population | undefined
  onAdd(response: Response): void
}) {
  const shot = useShot()
  const [anchor, setAnchor] = useState<HTMLElement | null>(null)
  const [to, setTo] = useState(parameters[0]![0])
  const attribute = population?.attributes[0]?.id
  const first = { mesh: shot.meshes[0]?.id, mask: shot.masks[0]?.id, attribute }
  const add = ({ from, usual, needs }: ResponseKind): void => {
    onAdd({
      to,
      from,
      curve: [
        [usual[0], 1, 'smooth'],
        [usual[1], 0],
      ],
      ...(needs ? { [needs]: first[needs] } : {}),
    })
    setAnchor(null)
  }
  return (
    <Box sx={{ display: 'flex', flexWrap: 'wrap', gap: 0.5 }}>
      {parameters.map(([name, { label }]) => (
        <Button
          key={name}
          onClick={(event) => {
            setTo(name)
            setAnchor(event.currentTarget)
          }}
        >
          + {label} responds to…
        </Button>
      ))}
      <Menu open={anchor !== null} anchorEl={anchor} onClose={() => setAnchor(null)}>
        {RESPONSES.map((kind) => (
          <MenuItem
            key={kind.from}
            disabled={kind.needs !== undefined && first[kind.needs] === undefined}
            onClick={() => add(kind)}
          >
            {kind.label}
          </MenuItem>
        ))}
      </Menu>
    </Box>
  )
}
