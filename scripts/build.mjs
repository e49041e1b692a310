/**
 * Builds what the source does not carry: the kernels (always), and with `--apps` the server, the
 * command line and the web application. `--watch`-free on purpose: a build takes seconds.
 */
import { execFileSync } from 'node:child_process'
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'
import binaryen from 'binaryen'
import { rotateLoops } from './rotateLoops.mjs'

const root = join(dirname(fileURLToPath(import.meta.url)), '..')

function buildKernels() {
  const folder = join(root, 'packages/kernels')
  mkdirSync(join(folder, 'build'), { recursive: true })
  const wasm = join(folder, 'build/kernels.wasm')
  const flags =
    '-O3 --runtime stub --importMemory --memoryBase 4096 --sharedMemory --initialMemory 16 --maximumMemory 65536 --enable threads --enable simd --noAssert --disableWarning 112'
  execFileSync(
    process.execPath,
    [
      join(root, 'node_modules/assemblyscript/bin/asc.js'),
      'assembly/index.ts',
      ...flags.split(' '),
      '--outFile',
      wasm,
    ],
    { cwd: folder, stdio: 'inherit' },
  )
  const text = binaryen.readBinary(readFileSync(wasm)).emitText()
  writeFileSync(wasm, binaryen.parseText(rotateLoops(text)).emitBinary())
  writeFileSync(join(folder, 'build/signatures.ts'), signatures(join(folder, 'assembly')))
  const bytes = readFileSync(wasm).toString('base64')
  writeFileSync(join(folder, 'build/kernels.ts'), `export const KERNELS_BASE64 =\n  '${bytes}'\n`)
}

/**
 * The names of every exported kernel's parameters, read from its source: `run` and `call` are typed by them. A kernel
 * that begins with (start, end) runs over a range; the last one, `thread`, is given by whoever runs it.
 */
function signatures(folder) {
  const read = (file) => readFileSync(join(folder, `${file}.ts`), 'utf8')
  const found = { range: [], single: [] }
  for (const [, names, file] of read('index').matchAll(/export \{([^}]*)\} from '\.\/(\w+)'/g)) {
    const source = read(file)
    for (const name of names.split(',').map((one) => one.trim())) {
      const list = new RegExp(`export function ${name}\\(([^)]*)\\)`).exec(source)
      if (!list) throw new Error(`assembly/${file}.ts exports no function "${name}"`)
      const parameters = [...list[1].matchAll(/(\w+)\s*:/g)].map(([, parameter]) => parameter)
      const own = parameters.filter((one) => !['start', 'end', 'thread'].includes(one))
      found[parameters[0] === 'start' ? 'range' : 'single'].push(`  ${name}: ${JSON.stringify(own)},`)
    }
  }
  const table = (name, rows) => `export const ${name} = {\n${rows.join('\n')}\n} as const\n`
  return `/** Made by scripts/build.mjs from assembly/. */\n${table('RANGE_KERNELS', found.range)}\n${table('SINGLE_KERNELS', found.single)}`
}

/** Workers are bundled too: a worker thread does not see the loader of the thread that starts it. */
async function buildPrograms() {
  const { build } = await import('esbuild')
  await build({
    absWorkingDir: root,
    entryPoints: {
      cli: 'apps/cli/src/index.ts',
      server: 'apps/server/src/index.ts',
      exporter: 'apps/server/src/takes/exporter.ts',
      bench: 'bench/src/index.ts',
      helper: 'packages/runtime/src/node/helper.ts',
      simulator: 'packages/runtime/src/node/simulator.ts',
      encoder: 'packages/runtime/src/node/encoder.ts',
      reader: 'packages/runtime/src/node/reader.ts',
      deriver: 'packages/runtime/src/node/deriver.ts',
    },
    outdir: '.build',
    bundle: true,
    format: 'esm',
    platform: 'node',
    target: 'node20',
    sourcemap: true,
    packages: 'external',
    // our own packages are source, not packages
    plugins: [{ name: 'ours', setup: (b) => b.onResolve({ filter: /^@tangle\// }, resolveOurs) }],
    logLevel: 'warning',
    outExtension: { '.js': '.mjs' },
  })
}

function resolveOurs({ path }) {
  const [, name, entry] = path.split('/')
  const folder = name === 'demo' ? 'demo' : join('packages', name)
  const manifest = JSON.parse(readFileSync(join(root, folder, 'package.json'), 'utf8'))
  return { path: join(root, folder, manifest.exports[entry ? `./${entry}` : '.']) }
}

async function buildWeb() {
  const { build } = await import('vite')
  await build({ root: join(root, 'apps/web'), logLevel: 'warn' })
}

buildKernels()
if (process.argv.includes('--apps')) {
  await buildPrograms()
  await buildWeb()
} else if (process.argv.includes('--programs')) {
  await buildPrograms()
}
