import { Box } from '@mui/material'
import { useTheme, type Palette } from '@mui/material/styles'
import { valueAt, type Keyed } from '@tangle/core'
import type { BirthSample } from '@tangle/runtime/browser'
import { useEffect, useRef, type PointerEvent, type RefObject } from 'react'
import { Color } from 'three'
import { engine } from '../engine/engine.ts'
import { useEngine } from '../engine/useEngine.ts'
import { withValueAt } from '../fields/keyed.ts'
import { sendStrip } from '../store/autosave.ts'
import { useAct, useShot, useStore } from '../store/index.ts'
import { selected } from '../store/session.ts'
import { useInfluence, usePopulation } from '../steps/usePopulation.ts'
import { addStart } from '../steps/starts.ts'
import { set } from '../store/shot.ts'
import type { Placed } from './handles.ts'
import { createWorld, type World, type WorldColours } from './world.ts'

/** The world that is on the page now, for commands such as "frame the selection". */
export const stage: { world: World | null } = { world: null }

// for the console and for tests, beside the engine
Object.assign((globalThis as unknown as { tangle: object }).tangle, { stage })

/** Steps in which handles place things; what moves less has not been moved. */
const STEP = 1e-4

/** A component after the handles were let go: as it was, unless it has been moved. */
const moved = (value: Keyed, frame: number, now: number): Keyed =>
  Math.abs(valueAt(value, frame) - now) <= STEP ? value : withValueAt(value, frame, now)

/** The 3D view. Draws only when something has changed. */
export function Stage({ step, births }: { step: string; births: BirthSample | null }) {
  const canvas = useRef<HTMLCanvasElement>(null)
  const box = useRef<HTMLDivElement>(null)
  useWorld(canvas, box)
  useShotOnStage(step)
  useShown(step, births)
  useHandles(step)
  return (
    <Box ref={box} sx={{ position: 'absolute', inset: 0, overflow: 'hidden' }}>
      <canvas
        ref={canvas}
        aria-label="Stage"
        data-testid="stage"
        {...useClick(step)}
        style={{ width: '100%', height: '100%', display: 'block', touchAction: 'none' }}
      />
    </Box>
  )
}

/** Keeps a world on the canvas, as large as its box. */
function useWorld(canvas: RefObject<HTMLCanvasElement | null>, box: RefObject<HTMLElement | null>): void {
  const { palette } = useTheme()
  useEffect(() => {
    const world = createWorld(canvas.current!, engine, coloursOf(palette), (strip) => void sendStrip(strip))
    stage.world = world
    engine.onDraw(world.draw)
    engine.onPicture(() => world.picture())
    const observer = new ResizeObserver(([entry]) => {
      const { width, height } = entry!.contentRect
      if (width > 0 && height > 0) world.resize(width, height, devicePixelRatio)
    })
    observer.observe(box.current!)
    return () => {
      observer.disconnect()
      engine.onDraw(() => undefined)
      engine.onPicture(() => Promise.resolve(null))
      world.dispose()
      stage.world = null
    }
    // the world takes its colours once; the stage has its own light in both themes
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [])
}

const coloursOf = (palette: Palette): WorldColours => ({
  selected: palette.primary.main,
  line: palette.line,
  lineOnLight: palette.onLightStage,
  births: palette.warning.main,
  bonds: { calm: palette.text.secondary, strained: palette.warning.main, broken: palette.error.main },
  heat: {
    low: new Color(palette.heatLow),
    high: new Color(palette.heatHigh),
    line: new Color(palette.primary.main),
    other: new Color(palette.warning.main),
  },
  phases: palette.phases,
  axes: [palette.error.main, palette.primary.main, palette.text.secondary],
})

/** The shot, and its camera: that is where one starts; from there it is one's own. */
function useShotOnStage(step: string): void {
  const shot = useShot()
  const shotId = useStore((state) => state.session.shotId)
  useEffect(() => stage.world?.setShot(shot), [shot])
  useEffect(() => stage.world?.setCamera(shot.stage.camera), [shotId, shot.stage.camera])
  // masks and combings are seen better without them
  const hidden = step === 'masks' && shot.masks.length + shot.combings.length > 0
  useEffect(() => stage.world?.hideParticles(hidden), [hidden])
}

/** What helps in a step: phases, the marked particle, ways and radii, births to come. */
function useShown(step: string, births: BirthSample | null): void {
  const byPhase = useStore((state) => state.session.phaseColours) && step === 'motion'
  const particle = useStore((state) => state.session.selected.particle)
  const goals = useStore((state) => state.session.goalLines)
  const rings = useStore((state) => state.session.rings)
  const ghosted = useStore((state) => state.session.ghosted)
  const quality = useStore((state) => state.session.quality)
  const camera = useStore((state) => state.session.camera)
  const split = useStore((state) => state.session.split)
  const isApart = useStore((state) => state.session.apart && state.session.compared !== null)
  const { population } = usePopulation()
  const influence = useInfluence(population)
  useEffect(() => stage.world?.colourByPhase(byPhase), [byPhase])
  useEffect(() => stage.world?.mark(particle), [particle])
  useEffect(() => {
    const guided = step === 'motion' && population
    stage.world?.guide(guided ? { population: population.id, influence, goals, rings } : null)
  }, [step, population, influence, goals, rings])
  useEffect(() => stage.world?.ghost(ghosted), [ghosted])
  useEffect(() => stage.world?.drawWell(quality), [quality])
  useEffect(() => stage.world?.lookThrough(camera), [camera])
  useEffect(() => stage.world?.split(split), [split])
  useEffect(() => stage.world?.colourByDistance(isApart), [isApart])
  useEffect(() => stage.world?.showBirths(step === 'births' ? births : null), [births, step])
}

/** Handles on the selected mesh, in the step that places meshes. */
function useHandles(step: string): void {
  const act = useAct()
  const { meshes } = useShot()
  const selectedMesh = useStore((state) => state.session.selected.mesh)
  const mode = useStore((state) => state.session.handle)
  const frame = useEngine((e) => (e.playing ? -1 : e.frame))
  useEffect(() => {
    if (step === 'meshes' && selectedMesh !== null) stage.world?.seek(selectedMesh)
  }, [step, selectedMesh])
  useEffect(() => {
    const place = (id: string, placed: Placed): void => {
      const index = meshes.findIndex((mesh) => mesh.id === id)
      const before = meshes[index]
      if (!before) return
      const keep = (name: keyof Placed) =>
        before.place[name].map((value, i) => moved(value, engine.frame, placed[name][i]!))
      const value = { position: keep('position'), rotation: keep('rotation'), scale: keep('scale') }
      if (JSON.stringify(value) !== JSON.stringify(before.place))
        act(set({ path: ['meshes', index, 'place'], value }))
    }
    stage.world?.select(selectedMesh, step === 'meshes' ? mode : null, place)
  }, [selectedMesh, mode, step, meshes, frame, act])
}

/** A click that is no drag picks the particle under the pointer; with Shift it starts a front at a place of a mesh. */
function useClick(step: string) {
  const act = useAct()
  const pressed = useRef<{ x: number; y: number } | null>(null)
  return {
    onPointerDown(event: PointerEvent): void {
      pressed.current = { x: event.clientX, y: event.clientY }
    },
    onPointerUp(event: PointerEvent<HTMLCanvasElement>): void {
      const from = pressed.current
      if (event.shiftKey && step === 'masks') {
        const point = stage.world?.brush.under(event)
        if (point) addStart(point)
        return
      }
      if (!from || step === 'masks' || Math.hypot(event.clientX - from.x, event.clientY - from.y) > 3) return
      const { x, y } = event.currentTarget.getBoundingClientRect()
      act(selected({ particle: stage.world?.pick(event.clientX - x, event.clientY - y) ?? null }))
    },
  }
}
