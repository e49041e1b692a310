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
  type Vector,
} from '@tangle/core'
import { memo, type KeyboardEvent, type ReactNode } from 'react'
import type { Helped } from '../help/kinds.ts'
import { useAct, useChangeAt, useStore } from '../store/index.ts'
import { helpAsked } from '../store/session.ts'
import { set, type Path } from '../store/shot.ts'
import { AmountField } from './AmountField.tsx'
import { Choices, Row } from './Choices.tsx'
import { ColourInput } from './ColourInput.tsx'
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
  /** What its help is about: F1 in a field shows it. */
  helped?: Helped
}

const NO_PHASES: string[] = []
const NO_LEAVE: string[] = []

/** Controls for declared parameters: made from the declarations alone. */
export function ParameterForm({
  parameters,
  values,
  path,
  phases = NO_PHASES,
  leave = NO_LEAVE,
  of,
  helped,
}: ParameterFormProps) {
  const act = useAct()
  const attributes = useStore((state) => populationOf(state.shot.present, path)?.attributes)
  /** Whether another parameter has one of some values; of an attribute, whether its type is among them. */
  const holds = (key: string, value: string): boolean => {
    const other = parameters[key]
    if (other?.type !== 'reference' || other.to !== 'attribute')
      return value.split(' ').includes(String(values[key]))
    const attribute = attributes?.find(({ id }) => id === values[key])
    return value.split(' ').includes(attribute?.type ?? 'number')
  }
  const shownOnes = Object.entries(parameters).filter(
    ([name, parameter]) =>
      !leave.includes(name) &&
      Object.entries(parameter.when ?? {}).every(([key, value]) => holds(key, value)),
  )
  const askHelp = (event: KeyboardEvent<HTMLElement>, parameter: string): void => {
    if (event.key !== 'F1' || !helped) return
    event.preventDefault()
    act(helpAsked({ ...helped, parameter }))
  }
  return (
    <Box>
      {shownOnes.map(([name, parameter]) => (
        <Box key={name} sx={{ display: 'contents' }} onKeyDownCapture={(event) => askHelp(event, name)}>
          <Field
            parameter={parameter}
            value={
              values[name] ??
              ('default' in parameter && !isOptional(parameter) ? parameter.default : undefined)
            }
            path={[...path, name]}
            phases={phases}
            of={of}
          />
        </Box>
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
  of: string | undefined
}
type Of<T extends Parameter['type']> = Extract<Parameter, { type: T }>

/** A control is drawn again when its own value changes, not with every edit of the shot. */
const Field = memo(
  (props: FieldProps) => FIELDS[props.parameter.type](props as never),
  (a, b) =>
    a.parameter === b.parameter &&
    a.value === b.value &&
    a.phases === b.phases &&
    a.of === b.of &&
    a.path.join() === b.path.join(),
)
Field.displayName = 'Field'

/** The control of each type of parameter. */
const FIELDS: { [T in Parameter['type']]: (props: FieldProps<Of<T>, never>) => ReactNode } = {
  number: ({ parameter, value, path }) =>
    parameter.absent === undefined ? (
      <KeyedNumber parameter={parameter} value={value} path={path} label={parameter.label} />
    ) : (
      <OptionalNumber parameter={parameter} value={value} path={path} />
    ),
  vector: ({ parameter, value, path }) => <VectorField parameter={parameter} value={value} path={path} />,
  varied: ({ parameter, value, path }) => <VariedField parameter={parameter} value={value} path={path} />,
  amount: ({ parameter, value, path }) => (
    <AmountField
      value={value}
      path={path}
      sweeps={parameter.sweeps ?? false}
      perParent={parameter.perParent ?? false}
    />
  ),
  choice: (props) => <ChoiceField {...props} />,
  reference: (props) => <ReferenceParameterField {...props} />,
  curve: (props) => <CurveField {...props} />,
  ramp: (props) => <RampParameterField {...props} />,
  origin: (props) => <OriginParameterField {...props} />,
  colour: (props) => <ColourParameterField {...props} />,
  text: (props) => <TextParameterField {...props} />,
  path: (props) => <PathParameterField {...props} />,
  // strokes are painted on the stage
  strokes: () => null,
}

/** The population that bears what a birth gives. */
function parentsOf(shot: Shot, path: Path): Population | undefined {
  const [list, n, births, k] = path
  if (list !== 'populations' || births !== 'births') return undefined
  const from = shot.populations[n as number]?.births[k as number]?.from
  return shot.populations.find(({ id }) => id === from)
}

function ReferenceParameterField({
  parameter,
  value,
  path,
  phases,
  of,
}: FieldProps<Of<'reference'>, string | undefined>) {
  const change = useChangeAt(path)
  const population = useStore((state) => populationOf(state.shot.present, path)?.id)
  const goals = useStore((state) => populationOf(state.shot.present, path)?.goals)
  const attributes = useStore((state) => populationOf(state.shot.present, path)?.attributes)
  const bearing = useStore((state) => parentsOf(state.shot.present, path))
  const itself = parameter.to !== 'population' ? of : parameter.itself ? undefined : population
  return (
    <ReferenceField
      label={parameter.label}
      help={parameter.help}
      to={parameter.to}
      value={value}
      {...(parameter.absent === undefined ? {} : { absent: parameter.absent })}
      phases={parameter.to === 'parentPhase' ? (bearing?.phases ?? NO_PHASES) : phases}
      goals={goals ?? []}
      attributes={attributes ?? []}
      except={itself === undefined ? [] : [itself]}
      onChange={change}
    />
  )
}

function CurveField({ parameter, value, path }: FieldProps<Of<'curve'>, Key[]>) {
  return (
    <CurveEditor
      name={parameter.label}
      curve={value}
      x={parameter.x}
      y={parameter.y}
      limits={{ x: parameter.x.range, y: parameter.y.range }}
      onChange={useChangeAt(path)}
    />
  )
}

const RampParameterField = ({ parameter, value, path }: FieldProps<Of<'ramp'>, RampChoice>) => (
  <RampField name={parameter.label} value={value} onChange={useChangeAt(path)} />
)

function OriginParameterField({ parameter, value, path, of }: FieldProps<Of<'origin'>, Origin>) {
  const masks = useStore((state) => state.shot.present.masks)
  return (
    <OriginField
      label={parameter.label}
      value={value}
      except={of === undefined ? [] : [of]}
      masks={masks.map((mask) => mask.id)}
      onChange={useChangeAt(path)}
    />
  )
}

function ColourParameterField({ parameter, value, path }: FieldProps<Of<'colour'>, string>) {
  const change = useChangeAt(path)
  return (
    <Row label={parameter.label} help={parameter.help}>
      <ColourInput name={parameter.label} value={value} onChange={change} />
    </Row>
  )
}

function TextParameterField({ parameter, value, path }: FieldProps<Of<'text'>, string>) {
  const change = useChangeAt(path)
  return (
    <Row label={parameter.label} help={parameter.help}>
      <InputBase
        multiline
        defaultValue={value}
        inputProps={{ 'aria-label': parameter.label, maxLength: parameter.most }}
        onKeyDown={(event) => event.stopPropagation()}
        onBlur={(event) =>
          event.target.value !== value && event.target.value.trim() && change(event.target.value)
        }
        sx={{ fontSize: 13, border: 1, borderColor: 'divider', borderRadius: 1, px: 0.75, width: '100%' }}
      />
    </Row>
  )
}

const PathParameterField = ({ parameter, value, path }: FieldProps<Of<'path'>, Vector[]>) => (
  <PathField label={parameter.label} value={value} onChange={useChangeAt(path)} />
)

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

function ChoiceField({ parameter, value, path }: FieldProps<Of<'choice'>, string>) {
  const change = useChangeAt(path)
  return (
    <Row label={parameter.label} help={parameter.help}>
      <Choices name={parameter.label} value={value} options={parameter.options} onChange={change} />
    </Row>
  )
}
