// What must hold of the code itself: types, style, and who imports whom. Exits with 1 when something does not.
import { spawn } from 'node:child_process'
import { fileURLToPath } from 'node:url'
import { buildKernel, root } from './build.mjs'

const bin = name => `${root}node_modules/.bin/${name}`

const CHECKS = [
  // The compiler that checks is the native one; dependency-cruiser reads sources with the older one's interface.
  ['Types', process.execPath, [`${root}node_modules/typescript-native/lib/tsc.js`, '-b']],
  ['Lint and format', bin('biome'), ['check']],
  ['Structure', bin('depcruise'), ['--config', '.dependency-cruiser.mjs', 'src']],
]

/** Runs all of them beside each other, each with its output as a whole; how many hold, and how many do not. */
export async function runChecks() {
  const all = await Promise.all(CHECKS.map(run))
  const held = all.filter(Boolean).length
  return { held, broken: all.length - held }
}

const run = ([title, command, args]) =>
  new Promise(resolve => {
    const child = spawn(command, args, { cwd: root, env: { ...process.env, FORCE_COLOR: '0' } })
    const said = []
    for (const stream of [child.stdout, child.stderr]) stream.on('data', bytes => said.push(bytes))
    const end = holds => {
      console.log(`\n${title}\n${Buffer.concat(said)}`)
      resolve(holds)
    }
    child.once('close', status => end(status === 0))
    child.once('error', error => {
      said.push(Buffer.from(error.message))
      end(false)
    })
  })

if (process.argv[1] === fileURLToPath(import.meta.url)) {
  await buildKernel()
  if ((await runChecks()).broken > 0) process.exit(1)
}
