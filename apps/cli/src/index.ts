import { Command, CommanderError } from 'commander'
import { bakeCommand, type BakeFlags } from './bake.ts'
import { describeCommand } from './describe.ts'
import { recipeCommand, type RecipeFlags } from './recipe.ts'
import { descriptions, shotJsonSchema } from '@tangle/core'
import { EXPORTS, SCENERIES, UNITS, UPS } from '@tangle/formats'
import { referencePage } from './reference.ts'
import { InputFault, UsageFault } from './fault.ts'
import { verifyCommand } from './verify.ts'

// a reader that closes the pipe early, such as head, is no fault
process.stdout.on('error', (error: NodeJS.ErrnoException) => process.exit(error.code === 'EPIPE' ? 0 : 1))

const program = new Command('tangle')
  .description('Particles for effects, without the interface')
  .exitOverride()
  .configureOutput({ writeErr: (text) => process.stderr.write(text) })

program
  .command('bake')
  .argument('<shot>', 'a shot in JSON, or demo:NAME')
  .description('compute frames and write them for a renderer')
  .option('--frames <first-last>', 'which frames; all when left out')
  .option('--out <folder>', 'where to write; nothing is written when left out')
  .option('--format <format>', EXPORTS.map(({ kind }) => kind).join(', '), 'ply')
  .option('--threads <n>', 'threads, 1 to 16')
  .option('--share <part>', 'part of the particles, 0 to 1')
  .option('--unit <unit>', `unit of length in the files: ${Object.keys(UNITS).join(', ')}; m when left out`)
  .option('--up <axis>', `which way is up in the files: ${UPS.join(' or ')}; y when left out`)
  .option('--number <n>', 'number of the first frame in the files; its own when left out')
  .option('--digits <n>', 'digits of the numbers of frames in names, at least; 4 when left out')
  .option('--meshes <which>', `meshes that are written: ${SCENERIES.join(', ')}; changing when left out`)
  .option('--samples <n>', 'times that each frame is written, evenly up to the next (USD); 1 when left out')
  .option('--voxel <length>', 'length of voxels in the unit of the files (OpenVDB); four radii when left out')
  .option('--backward', 'write the frames in reverse, velocities turned round')
  .option('--json', 'one JSON object per frame, then the totals')
  .option(
    '--events',
    'what happened to particles in each frame: told with --json, else written as tables (csv, parquet)',
  )
  .action((shot: string, flags: BakeFlags) => bakeCommand(shot, flags))

program
  .command('verify')
  .argument('<folder>', 'a folder that bake has written')
  .description('read a written cache back and compare it with what was computed')
  .option('--json', 'the result as JSON')
  .action((folder: string, flags: { json?: boolean }) => verifyCommand(folder, flags))

program
  .command('recipe')
  .argument('<recipe>', 'its name; `describe recipes` lists them')
  .description('write a shot from a recipe, sized to meshes in files')
  .option(
    '--mesh <slot=file>',
    'a mesh for each of its slots, or lettering as slot=text:WORDS',
    (one: string, all: string[]) => [...all, one],
    [],
  )
  .option('--scale <n>', 'times as large as in the files; 1 when left out')
  .option('--out <file>', 'the shot; on the standard output when left out')
  .action((recipe: string, flags: RecipeFlags) => recipeCommand(recipe, flags))

program
  .command('describe')
  .argument('[kind]', 'one kind, demos or recipes')
  .description('kinds and their parameters as JSON')
  .option('--page', 'the reference page in Markdown instead')
  .option('--schema', 'the JSON Schema of a shot instead')
  .action((kind: string | undefined, flags: { page?: boolean; schema?: boolean }) =>
    flags.schema
      ? console.log(JSON.stringify(shotJsonSchema(), null, 2))
      : flags.page
        ? console.log(referencePage(descriptions()))
        : describeCommand(kind),
  )

try {
  await program.parseAsync()
} catch (error) {
  process.exitCode = exitCode(error)
}

function exitCode(error: unknown): number {
  if (error instanceof CommanderError) return error.exitCode === 0 ? 0 : 2
  process.stderr.write(`${(error as Error).message}\n`)
  if (error instanceof UsageFault) return 2
  // faults of the core carry a code; anything else is ours to explain
  if (!(error instanceof InputFault) && !(error as { code?: string }).code)
    process.stderr.write(`${(error as Error).stack ?? ''}\n`)
  return 1
}
