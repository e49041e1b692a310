import { Box, InputBase } from '@mui/material'
import {
  type Key,
  type Keyed,
  type NumberParameter,
  type Origin,
  type Parameter,
  type Parameters,
  type Population,
  type RampChoice,
  type Shot,
  type Varied,
  type Vector,
} from '@tangle/core'
import { useAct, useShot } from '../store/index.ts'
import { set, type Path } from '../store/shot.ts'
import { AmountField } from './AmountField.tsx'
import { Choices, Row } from './Choices.tsx'
import { CurveEditor } from './CurveEditor.tsx'
import { KeyedNumber, VariedField, VectorField } from './KeyedNumber.tsx'
import { OriginField, PathField } from './OriginField.tsx'
import { RampField } from './RampField.tsx'
import { ReferenceField } from './ReferenceField.tsx'

interface ParameterFormProps {
  parameters: Parameters
  /** The record of the document that holds the values. */
  values: Record<string, unknown>
  path: Path
  /** Phases that a reference may name. */
  phases?: string[]
  leave?: string[]
  /** Id of the mask whose form this is: it can't name itself. */
  of?: string
}

/** Controls for declared parameters: made from the declarations alone. */
export function ParameterForm({ parameters, values, path, phases = [], leave = [], of }: ParameterFormProps) {
  const shot = useShot()
  /** Whether another parameter has a value; of an attribute, whether its type is among the words. */
  const holds = (key: string, value: string): boolean => {
    const other = parameters[key]
    if (other?.type !== 'reference' || other.to !== 'attribute') return values[key] === value
    const attribute = populationOf(shot, path)?.attributes.find(({ id }) => id === values[key])
    return value.split(' ').includes(attribute?.type ?? 'number')
  }
  const shownOnes = Object.entries(parameters).filter(
    ([name, parameter]) =>
      !leave.includes(name) &&
      Object.entries(parameter.when ?? {}).every(([key, value]) => holds(key, value)),
  )
  return (
    <Box>
      {shownOnes.map(([name, parameter]) => (
        <Field
          key={name}
          parameter={parameter}
          value={
            values[name] ?? ('default' in parameter && !isOptional(parameter) ? parameter.default : undefined)
          }
          path={[...path, name]}
          phases={phases}
          except={of === undefined ? [] : [of]}
          sweeps={'density' in parameters}
        />
      ))}
    </Box>
  )
}

const isOptional = (parameter: Parameter): boolean =>
  parameter.type !== 'varied' && 'absent' in parameter && parameter.absent !== undefined

interface FieldProps<P = Parameter, V = unknown> {
  parameter: P
  value: V
  path: Path
  phases: string[]
  except: string[]
  /** Whether births may be swept by a mask here. */
  sweeps: boolean
}

function Field({ parameter, value, path, phases, except, sweeps }: FieldProps) {
  const act = useAct()
  const shot = useShot()
  const population = populationOf(shot, path)
  const change = (next: unknown, gesture?: string): void =>
    void act(set({ path, value: next, ...(gesture ? { gesture: `${path.join('.')} ${gesture}` } : {}) }))
  switch (parameter.type) {
    case 'number':
      if (parameter.absent !== undefined)
        return <OptionalNumber parameter={parameter} value={value as Keyed | undefined} path={path} />
      return <KeyedNumber parameter={parameter} value={value as Keyed} path={path} label={parameter.label} />
    case 'vector':
      return <VectorField parameter={parameter} value={value as [Keyed, Keyed, Keyed]} path={path} />
    case 'varied':
      return <VariedField parameter={parameter} value={value as Varied | null} path={path} />
    case 'amount':
      return <AmountField value={value as never} path={path} sweeps={sweeps} />
    case 'choice':
      return (
        <ChoiceField
          label={parameter.label}
          help={parameter.help}
          value={value as string}
          options={parameter.options}
          path={path}
        />
      )
    case 'reference':
      return (
        <ReferenceField
          label={parameter.label}
          help={parameter.help}
          to={parameter.to}
          value={value as string | undefined}
          {...(parameter.absent === undefined ? {} : { absent: parameter.absent })}
          phases={phases}
          goals={population?.goals ?? []}
          attributes={population?.attributes ?? []}
          except={[...except, ...(population && parameter.to === 'population' ? [population.id] : [])]}
          onChange={change}
        />
      )
    case 'curve':
      return (
        <CurveEditor
          name={parameter.label}
          curve={value as Key[]}
          x={parameter.x}
          y={parameter.y}
          limits={{ x: parameter.x.range, y: parameter.y.range }}
          onChange={change}
        />
      )
    case 'ramp':
      return <RampField name={parameter.label} value={value as RampChoice} onChange={change} />
    case 'origin':
      return (
        <OriginField
          label={parameter.label}
          value={value as Origin}
          except={except}
          masks={shot.masks.map((mask) => mask.id)}
          onChange={change}
        />
      )
    case 'text':
      return (
        <Row label={parameter.label} help={parameter.help}>
          <InputBase
            multiline
            defaultValue={value as string}
            inputProps={{ 'aria-label': parameter.label, maxLength: parameter.most }}
            onKeyDown={(event) => event.stopPropagation()}
            onBlur={(event) =>
              event.target.value !== value && event.target.value.trim() && change(event.target.value)
            }
            sx={{ fontSize: 13, border: 1, borderColor: 'divider', borderRadius: 1, px: 0.75, width: '100%' }}
          />
        </Row>
      )
    case 'path':
      return <PathField label={parameter.label} value={value as Vector[]} onChange={change} />
    case 'strokes':
      return null
  }
}

/** The population that a path leads into. */
export const populationOf = (shot: Shot, [list, index]: Path): Population | undefined =>
  list === 'populations' ? shot.populations[index as number] : undefined

/** A number that may be left out. */
function OptionalNumber({
  parameter,
  value,
  path,
}: {
  parameter: NumberParameter
  value: Keyed | undefined
  path: Path
}) {
  const act = useAct()
  return (
    <>
      <Row label={parameter.label} help={parameter.help}>
        <Choices
          name={parameter.label}
          value={value === undefined ? 'absent' : 'given'}
          options={{ absent: parameter.absent!, given: 'a level' }}
          onChange={(next) => act(set({ path, value: next === 'absent' ? undefined : parameter.default }))}
        />
      </Row>
      {value !== undefined && (
        <KeyedNumber parameter={parameter} value={value} path={path} label={parameter.label} />
      )}
    </>
  )
}

function ChoiceField({
  label,
  help,
  value,
  options,
  path,
}: {
  label: string
  help: string
  value: string
  options: Record<string, string>
  path: Path
}) {
  const act = useAct()
  return (
    <Row label={label} help={help}>
      <Choices
        name={label}
        value={value}
        options={options}
        onChange={(next) => act(set({ path, value: next }))}
      />
    </Row>
  )
}
