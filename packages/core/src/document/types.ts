/** The shot: the document as it is written, version 1. See docs/document.md. */
import type { MeshLook } from './meshLook.ts'
import type { Amount, Key, Keyed, RampChoice, Repeat, Stroke, Varied } from './parameters.ts'

export type KeyedVector = [Keyed, Keyed, Keyed]

export const QUALITY_LEVELS = ['draft', 'good', 'fine', 'own'] as const
export type QualityLevel = (typeof QUALITY_LEVELS)[number]

export interface Shot {
  format: 'tangle-shot'
  version: 1
  name: string
  frames: { first: number; last: number; rate: number }
  seed: number
  quality: {
    /** Whether substeps and iterations follow from what acts (schema/quality.ts), or are those that are written. */
    level: QualityLevel
    substeps: number
    iterations: number
    /** Part of the particles that the preview computes, 0–1. Takes compute all. */
    previewShare: number
    /** Frames that it runs ahead, so that it starts from what has settled; it ends sooner where all is at rest. */
    settle: number
  }
  meshes: ShotMesh[]
  masks: Mask[]
  combings: Combing[]
  cameras: Camera[]
  populations: Population[]
  stage: StageSettings
  /** Values to try first, as a recipe names them. */
  lifted: Lifted[]
}

/** A value that is at hand, wherever it stands. */
export interface Lifted {
  label: string
  /** Keys from the root of the document; entries of lists by their ids. */
  path: string[]
}

/** One looks through it. */
export interface Camera {
  id: string
  name: string
  position: KeyedVector
  target: KeyedVector
  /** mm, on film 36 mm wide. */
  focalLength: Keyed
  /** Degrees. */
  roll: Keyed
  /** f-number of its lens; 0: all is sharp. */
  aperture: Keyed
  /** Metres to what is sharp; 0: to what it looks at. */
  focus: Keyed
  /** Of ASPECTS. */
  aspect: string
  /** A mesh that carries it. */
  follow?: string
}

export interface Place {
  position: KeyedVector
  /** Degrees, about x, then y, then z. */
  rotation: KeyedVector
  scale: KeyedVector
}

export interface ShotMesh {
  id: string
  name: string
  source: MeshSource
  place: Place
  /** How the motion that its file has is played. */
  playback: Playback
  /** Motions of the surface, one after the other, in the mesh's own space. */
  deform: Deformation[]
  /** The part that a mask has taken away, or null. */
  eaten: Eaten | null
  /** How another mesh cuts it, or null. */
  cut: Cut | null
  /**
   * Longest edge of its triangles, metres; longer ones are split. "auto" splits only what masks on the
   * surface need.
   */
  detail: number | 'auto'
  visible: boolean
  look: MeshLook
}

export interface Playback {
  /** Frames after the first one of the shot at which it begins. */
  delay: number
  speed: number
  after: string
}

/** `file` only in shots on disk: a path relative to the shot, made an asset when it is read. */
export type MeshSource =
  | { asset: string }
  | { file: string }
  | { text: TextSource }
  | { fracture: FractureSource }
  | { shell: ShellSource }
/** A mesh broken into pieces; it stands and moves where the mesh does that it is made of. */
export interface FractureSource {
  /** Id of the mesh. */
  mesh: string
  pieces: number
  /** How seeds are laid: even, random, clusters, line or points. */
  seeds: string
  seed: number
  /** Where seeds are dense; everywhere without it. */
  density?: string
  clusters: number
  /** How far seeds lie from a cluster, a line or a point, metres. */
  spread: number
  /** Points, or the corners of the line, in metres, where the mesh stands at the first frame. */
  path: [number, number, number][]
  /** How many times as long as wide pieces are, and along what. */
  stretch: number
  along: [number, number, number]
  /** Height and wavelength of the roughness of broken faces, metres. */
  rough: number
  roughScale: number
}
/** A closed skin around a mesh. */
export interface ShellSource {
  mesh: string
  /** Metres between the mesh and the shell, and of the shell. */
  gap: number
  thickness: number
  /** Cells of the grid in the thickness: finer follows the mesh closer. */
  detail: number
}
export interface TextSource {
  text: string
  /** 300 to 900. */
  weight: number
  /** Height of a capital letter, metres. */
  size: number
  depth: number
  bevel: number
}

/** One motion of a mesh's surface. The other keys are the parameters of its kind. */
export interface Deformation {
  id: string
  kind: string
  muted?: boolean
  [parameter: string]: unknown
}

export interface Eaten {
  mask: string
  /** The mesh is gone where the mask is at or above this. */
  level: number
  /** Of the wall that is left, metres; 0 leaves a sheet. */
  thickness: number
  /** How far the rim crumbles inward, metres, where `crumbleMask` says (everywhere without it). */
  crumble: number
  crumbleMask?: string
}

/** A mesh cut by another. */
export interface Cut {
  /** Id of the mesh that cuts. */
  by: string
  /** rest: what is outside of it; common: what is inside. */
  keep: string
}

/** A value from 0 to 1 at any point and time. The other keys are the parameters of its kind. */
export interface Mask {
  id: string
  name: string
  kind: string
  [parameter: string]: unknown
}

/** A layer of directions on a mesh. */
export interface Combing {
  id: string
  name: string
  mesh: string
  /** u, v, direction, slope, noise or away. */
  start: string
  direction: [number, number, number]
  point: [number, number, number]
  /** Metres. */
  scale: number
  /** Degrees about the normal, and off the surface. */
  turn: number
  lift: number
  /** Metres that directions are averaged over. */
  smooth: number
  strokes: Stroke[]
}

/** What sends a particle from one phase to another. The other keys of `when` are the parameters of its kind. */
export interface Cue {
  id: string
  from: string
  /** A phase, or "dies". */
  to: string
  /** Share of the particles that follow it, 0–1; the others never do. */
  chance: number
  when: { kind: string; [parameter: string]: unknown }
}
/** The target of a cue that ends a life; no phase may have this name. */
export const DIES = 'dies'

/** A curve by which a value of the particle's own drives a parameter: a factor of it. */
export interface Response {
  /** Name of a responsive parameter. */
  to: string
  /** What it reads: see responses.ts. */
  from: string
  curve: Key[]
  repeat?: Repeat
  mask?: string
  mesh?: string
  goal?: string
  /** Id of an attribute of the population's own. */
  attribute?: string
}

/** How takes keep numbers. */
export const PRECISIONS = ['compact', 'exact'] as const
export type Precision = (typeof PRECISIONS)[number]

export interface Population {
  id: string
  name: string
  phases: string[]
  /** Id of the material or liquid that its particles are of, which contacts that are added follow; null: of none. */
  material: string | null
  particle: ParticleRules
  /** Attributes of the artist's own. */
  attributes: OwnAttribute[]
  births: Birth[]
  cues: Cue[]
  /** Places that particles of the population want to go to; influences name them. */
  goals: Goal[]
  influences: Influence[]
  look: Look
  /** Attributes that takes and files keep beside ids and positions, those of its own by id; null: all that there are. */
  keep: string[] | null
  /** Whether takes keep numbers to an error that nobody sees, or to the last bit. */
  precision: Precision
}
/** A value of an artist's own attribute: a number, x y z, or a colour as "#rrggbb" (sRGB). */
export type OwnValue = number | [number, number, number] | string
/** What particles are born with of an attribute of the artist's own. */
export type OwnBirth =
  /** Even between mean − spread and mean + spread; of a vector each part by itself. */
  | { mean: OwnValue; spread: number }
  /** Even between two values. */
  | { low: OwnValue; high: OwnValue }
  /** One of a list, by weight. */
  | { list: { value: OwnValue; weight: number }[] }
  /** From `low` where the mask is 0 to `high` where it is 1, at the place of birth. */
  | { mask: string; low: OwnValue; high: OwnValue }
  /** What the mesh carries there: "uv", "colour", or the name of one of its vertices' properties. */
  | { data: string }

/** An attribute of the artist's own: every particle of the population carries it. */
export interface OwnAttribute {
  id: string
  name: string
  /** number, whole (exact to 2²⁴), vector or colour (linear RGB while it is computed). */
  type: 'number' | 'whole' | 'vector' | 'colour'
  unit: string
  birth: OwnBirth
}

export interface ParticleRules {
  /** Metres; the spread is a share of the mean. */
  radius: Varied
  /** How radii are spread: even, or exponential. */
  sizes: string
  /** kg/m³; the spread is a share of the mean. */
  density: Varied
  /** Frames; null: they live to the end of the shot. */
  lifespan: Varied | null
  /** m/s */
  speedLimit: number
}

/** One rule by which particles are born. The other keys are the parameters of its kind. */
export interface Birth {
  id: string
  kind: string
  /** On what they are born; those of particles may be laid onto one. */
  mesh?: string
  /** The population that bears them. */
  from?: string
  into: string
  amount: Amount
  muted?: boolean
  [parameter: string]: unknown
}

/**
 * A set of places, and which of them is whose: every particle is paired once, as it is born. The other keys are
 * the parameters of its kind.
 */
export interface Goal {
  id: string
  name: string
  kind: string
  pairing: string
  spare: string
  /** Metres: nearer counts as arrived. */
  arrived: number
  [parameter: string]: unknown
}

/** Anything that acts on particles. The other keys are the parameters of its kind. */
export interface Influence {
  id: string
  kind: string
  name?: string
  /** Weight per phase; a phase that is not named has weight 0. */
  weights: Record<string, number>
  strength: Keyed
  responses?: Response[]
  muted?: boolean
  [parameter: string]: unknown
}

export const DRAWN = ['points', 'soft', 'streaks', 'spheres', 'discs', 'instances', 'pieces'] as const
export interface Look {
  draw: (typeof DRAWN)[number]
  /** Frames for which streaks are exposed. */
  shutter: number
  /** The meshes that particles are drawn as; kept while they are drawn otherwise. */
  instances: Instances | null
  colour: { from: ColourSource; range: [number, number]; ramp: RampChoice; attribute?: string }
  trail: Trail | null
  /** Null: they are lit, not lights. */
  glow: Glow | null
  threads: Threads | null
  /** The surface of a liquid. */
  skin: Skin | null
}
/** The surface of particles as a mesh. */
export interface Skin {
  /** Along the width of a particle. */
  cells: number
  /** 0–1: how far places are drawn to the middle of their neighbours. */
  smoothing: number
  /** even or look: of one colour, or of those of its particles. */
  colour: string
  /** On the stage, 0–1. */
  opacity: number
  /** hidden or drawn. */
  particles: string
}
/** Light that particles give. */
export interface Glow {
  /** Times their colour. */
  strength: number
  /** even, life, speed, value or attribute. */
  by: string
  /** An attribute of the population's own, and its value at which they are brightest. */
  attribute?: string
  full: number
  /** m/s at which they are brightest. */
  speed: number
  /** Radii of the particle that the light of a point reaches. */
  halo: number
}
/** Lines between particles. */
export interface Threads {
  /** parent, near or order. */
  join: string
  /** After the birth of the child. */
  frames: number
  /** Metres. */
  reach: number
  most: number
  /** Metres. */
  width: number
  opacity: number
}
/** Particles drawn as meshes. */
export interface Instances {
  /** Each particle is one of them, by weight. */
  set: { mesh: string; weight: number }[]
  /** Whether the mesh takes the size of the particle (radius) or keeps its own (own). */
  fit: string
  size: number
  /** Degrees, about x, then y, then z. */
  turn: [number, number, number]
  /** Of the mesh's middle from the particle's, in halves of its longest side. */
  offset: [number, number, number]
}
/** The line that a particle leaves behind. */
export interface Trail {
  length: number
  /** What the length counts: frames or seconds. */
  unit: string
  /** Frames from one of its points to the next. */
  step: number
  /** Metres at the particle, and at the far end. */
  width: number
  widthEnd: number
  /** Its colour: the particle's own, or a ramp from the particle to the far end. */
  colour: string
  ramp: RampChoice
  opacityEnd: number
}
/** Attributes that rules tell of particles, by which a look colours. */
export const TOLD = ['temperature', 'pressure', 'compression', 'stress'] as const
/** `own` is the colour that Colour influences give, white without them; `attribute` reads one of the population's own. */
export const COLOUR_SOURCES = ['age', 'speed', 'travelled', ...TOLD, 'own', 'attribute'] as const
export type ColourSource = (typeof COLOUR_SOURCES)[number]

export interface StageSettings {
  camera: { position: [number, number, number]; target: [number, number, number]; fieldOfView: number }
  light: {
    bearing: number
    height: number
    strength: number
    /** Of the edges of shadows, times what is usual. */
    softness: number
    /** 0–1: how much of the light particles keep from what is behind them. */
    shade: number
  }
  backdrop: string
  surroundings: {
    brightness: number
    /** Degrees about the upright axis. */
    turn: number
    /** ground, rings or none. */
    floor: string
    /** Metres at which half of what is seen is fog; 0 is none. */
    fog: number
  }
  picture: {
    /** Stops. */
    exposure: number
    /** straight or film. */
    tone: string
  }
  /** Of what glows. */
  bloom: { strength: number; radius: number; threshold: number }
}
