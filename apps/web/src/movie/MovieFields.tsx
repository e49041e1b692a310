/** What one may choose of a movie. */
import { engine } from '../engine/engine.ts'
import { Choices, Row } from '../fields/Choices.tsx'
import { NumberInput } from '../fields/NumberField.tsx'
import type { MovieKind } from './film.ts'
import { BLURS, MOVIE_KINDS, SIZES } from './kinds.ts'

export interface Wanted {
  kind: MovieKind
  size: string
  first: number
  last: number
  background: boolean
  burnt: boolean
  blur: string
  shutter: number
  /** Of its own, pixels. */
  width: number
  height: number
}

/** A size of one's own, among SIZES. */
const OWN = 'own'
/** Pixels of a side. */
const SIDES: [number, number] = [16, 7680]
export const sizeOf = ({ size, width, height }: Wanted): [number, number] =>
  SIZES[size] ?? [even(width), even(height)]
/** Videos have an even number of pixels either way. */
const even = (side: number): number => 2 * Math.round(side / 2)

interface MovieFieldsProps {
  wanted: Wanted
  kinds: MovieKind[]
  change(part: Partial<Wanted>): void
}

export function MovieFields({ wanted, kinds, change }: MovieFieldsProps) {
  const { kind } = wanted
  const { first, last } = engine.frames
  return (
    <>
      <Row label="Kind" help={MOVIE_KINDS[kind].help}>
        <Choices
          name="Kind"
          value={kind}
          options={Object.fromEntries(kinds.map((one) => [one, MOVIE_KINDS[one].label]))}
          onChange={(next) => change({ kind: next as MovieKind })}
        />
      </Row>
      <SizeFields wanted={wanted} change={change} />
      <Row label="Frames">
        <NumberInput
          name="First frame"
          value={wanted.first}
          range={[first, wanted.last]}
          whole
          onChange={(to) => change({ first: to })}
        />
        –
        <NumberInput
          name="Last frame"
          value={wanted.last}
          range={[wanted.first, last]}
          whole
          onChange={(to) => change({ last: to })}
        />
      </Row>
      <BlurFields wanted={wanted} change={change} />
      {kind === 'png' && (
        <Row label="Background" help="Without it, pictures are see-through where nothing is">
          <Choices
            name="Background"
            value={wanted.background ? 'with' : 'without'}
            options={{ with: 'with', without: 'without' }}
            onChange={(next) => change({ background: next === 'with' })}
          />
        </Row>
      )}
      <Row label="Name and frame" help="In the lower left corner of each picture">
        <Choices
          name="Name and frame"
          value={wanted.burnt ? 'on' : 'off'}
          options={{ off: 'off', on: 'on' }}
          onChange={(next) => change({ burnt: next === 'on' })}
        />
      </Row>
    </>
  )
}

type FieldsProps = Pick<MovieFieldsProps, 'wanted' | 'change'>

function SizeFields({ wanted, change }: FieldsProps) {
  return (
    <>
      <Row label="Size">
        <Choices
          name="Size"
          value={wanted.size}
          options={{ ...Object.fromEntries(Object.keys(SIZES).map((one) => [one, one])), [OWN]: 'its own' }}
          onChange={(size) => change({ size })}
        />
      </Row>
      {wanted.size === OWN && (
        <Row label="Width × height" help="Pixels, an even number either way">
          {(['width', 'height'] as const).map((side) => (
            <NumberInput
              key={side}
              name={side === 'width' ? 'Width of the picture' : 'Height of the picture'}
              value={wanted[side]}
              range={SIDES}
              whole
              onChange={(to) => change({ [side]: even(to) })}
            />
          ))}
        </Row>
      )}
    </>
  )
}

function BlurFields({ wanted, change }: FieldsProps) {
  return (
    <>
      <Row
        label="Blur"
        help="Each frame is the mean of so many pictures: what moves is blurred, and through a camera with an aperture what is not in focus"
      >
        <Choices
          name="Blur"
          value={wanted.blur}
          options={Object.fromEntries(Object.keys(BLURS).map((one) => [one, one]))}
          onChange={(blur) => change({ blur })}
        />
      </Row>
      {wanted.blur !== 'none' && (
        <Row label="Shutter" help="For how much of a frame it is open: 0.5 is a film camera’s half">
          <NumberInput
            name="Shutter"
            value={wanted.shutter}
            range={[0, 1]}
            onChange={(shutter) => change({ shutter })}
          />
        </Row>
      )}
    </>
  )
}
