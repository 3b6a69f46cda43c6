// Bundles server, worker, command line and seed with esbuild, and the web with Vite; only what changed is built again.
import { createHash } from 'node:crypto'
import { existsSync, mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'

export const root = fileURLToPath(new URL('..', import.meta.url))
const stampFile = join(root, 'dist', 'stamps.json')

function* filesIn(folder) {
  for (const entry of readdirSync(folder, { withFileTypes: true })) {
    const path = join(folder, entry.name)
    if (entry.isDirectory()) yield* filesIn(path)
    else if (!/\.test\.ts$/.test(entry.name)) yield path
  }
}

function hashOf(paths) {
  const hash = createHash('sha256')
  for (const path of paths) {
    const full = join(root, path)
    if (!existsSync(full)) continue
    const list = /\.\w+$/.test(path) ? [full] : [...filesIn(full)].sort()
    for (const file of list) hash.update(file.slice(root.length)).update(readFileSync(file))
  }
  return hash.digest('hex')
}

/** Packages of hundreds of small modules, of which a bundle holds what is used: loading them one by one takes longer than all else of a start. */
const BUNDLED = ['date-fns', 'culori', 'drizzle-orm']
const externalPackages = {
  name: 'external-packages',
  setup(build) {
    build.onResolve({ filter: /^[^./#]/ }, ({ path, kind }) => {
      const isBundled = BUNDLED.some(name => path === name || path.startsWith(`${name}/`))
      return kind === 'entry-point' || isBundled ? undefined : { path, external: true }
    })
  },
}

const readStamps = () => (existsSync(stampFile) ? JSON.parse(readFileSync(stampFile, 'utf8')) : {})

async function buildWhenChanged(name, inputs, output, build) {
  const hash = hashOf([...inputs, 'package-lock.json'])
  if (readStamps()[name] === hash && existsSync(join(root, output))) return false
  await build()
  mkdirSync(join(root, 'dist'), { recursive: true })
  writeFileSync(stampFile, JSON.stringify({ ...readStamps(), [name]: hash }))
  return true
}

const ENTRIES = {
  server: 'src/server/server.ts',
  worker: 'src/server/worker.ts',
  'compute.worker': 'src/server/platform/compute/compute.worker.ts',
  'tracing-helper.worker': 'src/server/platform/compute/tracing-helper.worker.ts',
  'running-hashes.worker': 'src/server/platform/storage/running-hashes.worker.ts',
  seed: 'src/seed/seed.ts',
  'demo-library': 'src/seed/demo-library.ts',
  feed: 'src/feed/feed.ts',
  'make.worker': 'src/demo/make.worker.ts',
  muscovite: 'src/cli/muscovite.ts',
  bench: 'src/bench/bench.ts',
  'find-quality': 'src/demo/find/find-quality.ts',
  'intake-truth': 'src/demo/truth/intake-truth.ts',
  'audit-truth': 'src/demo/audit/audit-truth.ts',
  'oak.worker': 'src/bench/oak.worker.ts',
  'memory.child': 'src/bench/memory.child.ts',
  'mock-up.child': 'src/bench/mock-up.child.ts',
  'intake.child': 'src/bench/intake.child.ts',
  'environment.child': 'src/bench/environment.child.ts',
}

export const buildKernel = () =>
  buildWhenChanged('kernel', ['src/kernel', 'scripts/build-kernel.mjs'], 'dist/kernel/kernel.js', async () => {
    const { compileKernel } = await import('./build-kernel.mjs')
    await compileKernel(root)
  })

export async function buildNode() {
  await buildKernel()
  return buildWhenChanged(
    'node',
    [
      'src/core',
      'src/kernel',
      'src/shared',
      'src/files',
      'src/server',
      'src/cli',
      'src/demo',
      'src/seed',
      'src/feed',
      'src/bench',
      'scripts/build.mjs',
    ],
    'dist/node/muscovite.js',
    async () => {
      const { build } = await import('esbuild')
      await build({
        absWorkingDir: root,
        entryPoints: Object.fromEntries(Object.entries(ENTRIES).filter(([, path]) => existsSync(join(root, path)))),
        outdir: 'dist/node',
        bundle: true,
        splitting: true,
        plugins: [externalPackages],
        platform: 'node',
        format: 'esm',
        target: 'node20',
        sourcemap: true,
        logLevel: 'warning',
      })
    },
  )
}

export async function buildWeb() {
  await buildKernel()
  const inputs = ['src/web', 'src/core', 'src/shared', 'src/kernel', 'vite.config.ts']
  return buildWhenChanged('web', inputs, 'dist/web/index.html', async () => {
    const { build } = await import('vite')
    // Whoever starts this, a test runner too, gets the pages as they are used.
    process.env.NODE_ENV = 'production'
    await build({ root: join(root, 'src/web'), configFile: join(root, 'vite.config.ts'), logLevel: 'warn' })
  })
}
