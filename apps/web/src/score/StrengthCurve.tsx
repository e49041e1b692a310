import { Box, Typography } from '@mui/material'
import { isKeyed, type Key } from '@tangle/core'
import { useRef } from 'react'
import { engine } from '../engine/engine.ts'
import { shown } from '../fields/formula.ts'
import { MONO } from '../theme.ts'
import { KeyTools } from './KeyTools.tsx'
import { pathOf } from './StrengthLine.tsx'
import { CURVE_HEIGHT, TOOLS, useKeyEditor, type KeyEditorProps } from './useKeyEditor.ts'
import { useView } from './useView.ts'
import { CurvePath, CurvePicture } from './CurvePicture.tsx'

const HEIGHT = CURVE_HEIGHT - TOOLS

/**
 * The strength of the selected influence over frames: drag keys (Shift leaves the whole frames), double-click
 * to add one (Enter: at the playhead), drag a box to choose many (comma and full stop: one after the other),
 * arrows to nudge, Delete to take away.
 */
export function StrengthCurve({ name, ...props }: KeyEditorProps & { name: string }) {
  const view = useView()
  const area = useRef<HTMLDivElement>(null)
  const editor = useKeyEditor(props, view, area)
  const { keys, chosen, setChosen, scale, apply, press } = editor
  const { strength, parameter } = props
  const keyed = isKeyed(strength)
  const lone = chosen.size === 1 ? keys.find((key) => chosen.has(key[0])) : undefined
  return (
    <Box sx={{ mr: 2.5 }} onClick={(event) => event.stopPropagation()}>
      <KeyTools
        keys={keys}
        chosen={keyed ? chosen : new Set()}
        limits={parameter.range}
        lone={keyed ? lone : undefined}
        onEdit={apply}
        onAll={() => setChosen(new Set(keys.map((key) => key[0])))}
        repeat={keyed && keys.length > 1 ? (strength.repeat ?? 'hold') : undefined}
        onRepeat={(repeat) => props.onChange(repeat === 'hold' ? { keys } : { keys, repeat })}
      />
      <Box
        ref={area}
        tabIndex={0}
        role="application"
        aria-label={`Strength of ${name} over frames`}
        onWheel={view.onWheel}
        onKeyDown={editor.onKeyDown}
        onPointerDown={(event) => press(event, null)}
        onPointerMove={editor.move}
        onPointerUp={editor.release}
        onDoubleClick={editor.add}
        sx={{
          position: 'relative',
          height: HEIGHT,
          bgcolor: 'background.default',
          borderRadius: 0.5,
          touchAction: 'none',
          overflow: 'hidden',
        }}
      >
        <Drawing editor={editor} share={view.share} />
        <Caption at={{ left: 4, top: 0 }}>
          {shown(scale.high)} {parameter.unit}
        </Caption>
        {!keyed && <Caption at={{ right: 6, bottom: 2 }}>double-click adds a key</Caption>}
        {keyed &&
          keys.map((key) => (
            <KeyMark
              key={key[0]}
              at={key}
              left={view.left(key[0])}
              top={scale.y(key[1])}
              chosen={chosen.has(key[0])}
              onPress={(event) => press(event, key)}
            />
          ))}
      </Box>
    </Box>
  )
}

/** The curve, its zero line, and the box that chooses keys. */
function Drawing({
  editor: { values, scale, box },
  share,
}: {
  editor: Pick<ReturnType<typeof useKeyEditor>, 'values' | 'scale' | 'box'>
  share(frame: number): number
}) {
  const { y } = scale
  return (
    <CurvePicture height={HEIGHT}>
      <CurvePath d={`M0 ${y(0)}H1000`} colour="divider" width={1} />
      <CurvePath d={pathOf(values, y)} colour="primary-main" width={2} />
      {box && (
        <rect
          x={Math.min(share(box.from[0]), share(box.to[0])) * 1000}
          width={Math.abs(share(box.from[0]) - share(box.to[0])) * 1000}
          y={Math.min(y(box.from[1]), y(box.to[1]))}
          height={Math.abs(y(box.from[1]) - y(box.to[1]))}
          fill="var(--mui-palette-primary-main)"
          opacity="0.18"
        />
      )}
    </CurvePicture>
  )
}

function Caption({ at, children }: { at: Record<string, number>; children: React.ReactNode }) {
  return (
    <Typography
      sx={{
        position: 'absolute',
        ...at,
        fontFamily: MONO,
        fontSize: 12,
        color: 'text.secondary',
        pointerEvents: 'none',
      }}
    >
      {children}
    </Typography>
  )
}

function KeyMark({
  at: [frame, value],
  left,
  top,
  chosen,
  onPress,
}: {
  at: Key
  left: string
  top: number
  chosen: boolean
  onPress(event: React.PointerEvent<HTMLElement>): void
}) {
  return (
    <Box
      role="button"
      aria-label={`Key at frame ${frame}: ${shown(value)}`}
      aria-pressed={chosen}
      onPointerDown={onPress}
      onDoubleClick={(event) => {
        event.stopPropagation()
        engine.seek(frame)
      }}
      sx={{
        position: 'absolute',
        left,
        top,
        width: 11,
        height: 11,
        m: '-5.5px',
        borderRadius: '3px',
        bgcolor: chosen ? 'warning.main' : 'text.primary',
        border: 1,
        borderColor: 'background.default',
        cursor: 'move',
      }}
    />
  )
}
