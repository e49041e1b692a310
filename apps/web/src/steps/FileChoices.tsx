import { InputBase, Typography } from '@mui/material'
import { EXPORTS, OUR_SPACE, UNITS, type ExportKind } from '@tangle/formats'
import { Choices, Row } from '../fields/Choices.tsx'
import { useAct, useStore } from '../store/index.ts'
import { shownAs, type Session } from '../store/session.ts'
import { MONO } from '../theme.ts'

const AXES = { y: 'Y up', z: 'Z up' }
const SCENERY = { changing: 'those that change', all: 'all that are seen', none: 'none' }
const SAMPLES = { 1: 'at the frame', 2: '2 a frame', 3: '3 a frame', 5: '5 a frame', 9: '9 a frame' }

type Chosen = Pick<Session, 'backward' | 'format' | 'unit' | 'up' | 'scenery' | 'samples' | 'voxel'>

const kindOf = (format: string): ExportKind => EXPORTS.find(({ kind }) => kind === format)!
const isLength = (text: string): boolean => Number(text) > 0

/** What is asked of an export: what the format offers, where it is not as it would be anyway. */
export function askedFor({
  backward,
  format,
  unit,
  up,
  scenery,
  samples,
  voxel,
}: Chosen): Record<string, string> {
  const { fixedSpace, meshes, between, volumes } = kindOf(format)
  const all: [offered: boolean, asked: Record<string, string>][] = [
    [backward, { backward: '1' }],
    [!fixedSpace && unit !== OUR_SPACE.unit, { unit }],
    [!fixedSpace && up !== OUR_SPACE.up, { up }],
    [meshes && scenery !== 'changing', { meshes: scenery }],
    [Boolean(between) && samples !== '1', { samples }],
    [Boolean(volumes) && isLength(voxel), { voxel }],
  ]
  return Object.assign({ format }, ...all.flatMap(([is, some]) => (is ? [some] : []))) as Record<
    string,
    string
  >
}

/** How takes are written. */
export function FileChoices() {
  const act = useAct()
  const session = useStore((state) => state.session)
  const { help, fixedSpace, meshes, between, volumes } = kindOf(session.format)
  const choices = (
    label: string,
    name: string,
    tip: string,
    of: keyof Chosen,
    options: Record<string, string>,
  ) => (
    <Row label={label} help={tip}>
      <Choices
        name={name}
        value={String(session[of])}
        options={options}
        onChange={(next) => act(shownAs({ [of]: next }))}
      />
    </Row>
  )
  return (
    <>
      {choices(
        'Files',
        'Format of the files',
        help,
        'format',
        Object.fromEntries(EXPORTS.map(({ kind, label }) => [kind, label])),
      )}
      {!fixedSpace &&
        choices(
          'Unit',
          'Unit of the files',
          'The unit of length in the files',
          'unit',
          Object.fromEntries(Object.keys(UNITS).map((one) => [one, one])),
        )}
      {!fixedSpace &&
        choices(
          'Axis',
          'Axis that is up in the files',
          'Which way is up in the files; on the stage it is Y',
          'up',
          AXES,
        )}
      {meshes &&
        choices(
          'Meshes',
          'Meshes in the files',
          'Those that are eaten, covered or moving; or those that stand still, too',
          'scenery',
          SCENERY,
        )}
      {between &&
        choices(
          'Samples',
          'Samples of a frame',
          'Places between frames, for motion blur without velocities',
          'samples',
          SAMPLES,
        )}
      {volumes && <Voxels />}
      <Typography sx={{ fontSize: 12, color: 'text.secondary', mb: 1 }}>
        {help}
        {fixedSpace && '. Always in metres with Y up.'}
      </Typography>
    </>
  )
}

function Voxels() {
  const act = useAct()
  const { voxel, unit } = useStore((state) => state.session)
  const isWrong = voxel !== '' && !isLength(voxel)
  return (
    <Row label="Voxel" help="Length of a voxel: smaller ones are finer and dearer">
      <InputBase
        value={voxel}
        placeholder="four radii"
        onChange={({ target }) => act(shownAs({ voxel: target.value.trim() }))}
        inputProps={{ 'aria-label': 'Length of voxels', 'aria-invalid': isWrong, inputMode: 'decimal' }}
        endAdornment={<Typography sx={{ fontSize: 12, color: 'text.secondary' }}>{unit}</Typography>}
        sx={{
          fontFamily: MONO,
          fontSize: 12.5,
          width: 110,
          px: 0.75,
          border: 1,
          borderRadius: 1,
          borderColor: isWrong ? 'error.main' : 'divider',
        }}
      />
      {isWrong && (
        <Typography role="alert" sx={{ fontSize: 12, color: 'error.main' }}>
          A length above 0, such as 0.02
        </Typography>
      )}
    </Row>
  )
}
