import { Box } from '@mui/material'
import { useTheme, type Palette } from '@mui/material/styles'
import type { Example } from '@tangle/recipes'
import { fromHalf, playExample, type PackedPopulation } from '@tangle/runtime/browser'
import { useEffect, useRef } from 'react'

const [WIDTH, HEIGHT] = [316, 160]
/** What the picture shows of the world, metres: its left and lower edges, and pixels for one. */
const [LEFT, LOW, SCALE] = [-1.95, -0.2, 78]

interface MovingPictureProps {
  example: Example
  /** For who can’t see it. */
  name: string
  /** Pixels across. */
  width?: number
}

/** What an example does, as the solver computes it, over and over. */
export function MovingPicture({ example, name, width = WIDTH }: MovingPictureProps) {
  const canvas = useRef<HTMLCanvasElement>(null)
  const { palette } = useTheme()
  useEffect(() => {
    const context = canvas.current?.getContext('2d')
    if (!context) return
    return play(example, (frame) => draw(context, palette, example, frame))
  }, [example, palette])
  return (
    <Box
      component="canvas"
      ref={canvas}
      width={WIDTH * 2}
      height={HEIGHT * 2}
      role="img"
      aria-label={name}
      data-testid="moving-picture"
      sx={{
        width,
        height: (width * HEIGHT) / WIDTH,
        borderRadius: 1,
        bgcolor: 'background.default',
        display: 'block',
        my: 1,
      }}
    />
  )
}

/** Computes an example and shows its frames at their rate, again and again; who wants no motion sees one from the middle. */
function play({ shot, meshes }: Example, show: (populations: PackedPopulation[]) => void): () => void {
  const frames: PackedPopulation[][] = []
  const still = matchMedia('(prefers-reduced-motion: reduce)').matches
  const { rate, first, last } = shot.frames
  const middle = Math.floor((last - first) / 2)
  const stop = playExample({ shot, meshes }, (frame) => {
    frames.push(frame)
    if (still && frames.length === middle + 1) show(frame)
  })
  let [shown, asked] = [-1, 0]
  const began = performance.now()
  const next = (now: number): void => {
    const frame = Math.floor(((now - began) / 1000) * rate) % (last - first + 1)
    if (frame !== shown && frames[frame]) show(frames[frame])
    shown = frame
    asked = requestAnimationFrame(next)
  }
  if (!still) asked = requestAnimationFrame(next)
  return () => {
    stop()
    cancelAnimationFrame(asked)
  }
}

const across = (x: number): number => (x - LEFT) * SCALE
const down = (y: number): number => HEIGHT - (y - LOW) * SCALE

function draw(
  context: CanvasRenderingContext2D,
  palette: Palette,
  { shot, meshes }: Example,
  populations: PackedPopulation[],
): void {
  context.setTransform(2, 0, 0, 2, 0, 0)
  context.clearRect(0, 0, WIDTH, HEIGHT)
  context.fillStyle = palette.text.secondary
  context.globalAlpha = 0.22
  const [mesh, target] = [...meshes.values()]
  const drawn = JSON.stringify([shot.masks, shot.combings, shot.populations.map((one) => [one.influences, one.goals, one.cues, one.births.filter(({ kind }) => kind !== 'region')])]) // prettier-ignore
  for (const [name, one] of [['"ball"', mesh], ['"target"', target]] as const)
    if (one && drawn.includes(name))
      for (let v = 0; v < one.positions.length; v += 3) context.fillRect(across(one.positions[v]!), down(one.positions[v + 1]!), 1, 1) // prettier-ignore
  if (drawn.includes('"floor"')) context.fillRect(0, down(0), WIDTH, 1)
  for (const [n, one] of populations.entries()) drawPopulation(context, palette, one, n)
}

function drawPopulation(
  context: CanvasRenderingContext2D,
  { primary, warning, text }: Palette,
  { count, positions, values, traits, colours, turns }: PackedPopulation,
  n: number,
): void {
  for (let i = 0; i < count; i++) {
    const [x, y] = [across(positions[i * 3]!), down(positions[i * 3 + 1]!)]
    const radius = Math.max(0.8, fromHalf(values[i * 4]!) * SCALE * 0.8)
    context.globalAlpha = (traits[i * 4 + 1]! / 255) * (n === 0 ? 0.9 : 0.35)
    context.fillStyle = colours
      ? `rgb(${[0, 1, 2].map((k) => Math.round(255 * Math.sqrt(Math.max(0, colours[i * 3 + k]!)))).join()})`
      : n > 0 ? text.secondary : traits[i * 4] === 0 ? primary.main : warning.main // prettier-ignore
    context.beginPath()
    // what turns is drawn as a stroke along its front
    if (turns) context.ellipse(x, y, radius * 2.2, radius * 0.7, angleOf(turns, i), 0, 7)
    else context.arc(x, y, radius, 0, 7)
    context.fill()
  }
}

/** In the picture, of the front of a particle: where its +z has been turned to. */
function angleOf(turns: Int16Array, i: number): number {
  const [x, y, z, w] = [0, 1, 2, 3].map((k) => turns[i * 4 + k]! / 32767) as [number, number, number, number]
  return -Math.atan2(2 * (y * z - w * x), 2 * (x * z + w * y))
}
