// What must hold of the code itself: types, style, and who imports whom. Exits with 1 when something does not.
import { spawnSync } from 'node:child_process'
import { fileURLToPath } from 'node:url'
import { buildKernel, root } from './build.mjs'

const bin = name => `${root}node_modules/.bin/${name}`

export const CHECKS = [
  // The compiler that checks is the native one; dependency-cruiser reads sources with the older one's interface.
  ['Types', process.execPath, [`${root}node_modules/typescript-native/lib/tsc.js`, '-b']],
  ['Lint and format', bin('biome'), ['check']],
  ['Structure', bin('depcruise'), ['--config', '.dependency-cruiser.mjs', 'src']],
]

/** Runs one check with its output shown; whether it holds. */
export function holds([title, command, args]) {
  console.log(`\n${title}`)
  return spawnSync(command, args, { cwd: root, stdio: 'inherit', env: { ...process.env, FORCE_COLOR: '0' } }).status === 0
}

if (process.argv[1] === fileURLToPath(import.meta.url)) {
  await buildKernel()
  if (!CHECKS.map(holds).every(Boolean)) process.exit(1)
}
