// What a fresh machine needs, with Node alone: npm packages and Debian packages. No dependencies here.
import { spawnSync } from 'node:child_process'
import { createHash } from 'node:crypto'
import { existsSync, readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'

const root = fileURLToPath(new URL('..', import.meta.url))

/** A problem whose message is a full sentence for the person who typed the command. */
export class SetupError extends Error {}

const run = (command, args, options = {}) =>
  spawnSync(command, args, { cwd: root, encoding: 'utf8', stdio: ['ignore', 'pipe', 'pipe'], ...options })

/** Installs the npm packages when they are missing or the lock file has changed. */
export async function ensurePackages(say = () => {}) {
  const lock = createHash('sha256')
    .update(readFileSync(join(root, 'package-lock.json')))
    .digest('hex')
  const stamp = join(root, 'node_modules', '.muscovite-lock')
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === lock) return
  say('Installing packages')
  const result = run('npm', ['ci', '--no-audit', '--no-fund', '--loglevel=error'])
  if (result.status !== 0)
    throw new SetupError(
      `The packages could not be installed. Run this to see why:\n\n    npm ci\n\n${(result.stderr ?? '').trim().split('\n').slice(-5).join('\n')}`,
    )
  writeFileSync(stamp, lock)
}

/** The newest PostgreSQL server Debian has put on this machine, or null. */
export function findPostgres() {
  const base = '/usr/lib/postgresql'
  if (!existsSync(base)) return null
  const versions = readdirSync(base)
    .filter(v => existsSync(join(base, v, 'bin', 'postgres')))
    .sort((a, b) => Number(b) - Number(a))
  return versions.length > 0 ? join(base, versions[0], 'bin') : null
}

export const findChromium = () => ['/usr/bin/chromium', '/usr/bin/chromium-browser'].find(existsSync) ?? null

/** Installs a Debian package where this person may; else says what to run. */
export function ensureDebianPackages(packages, isThere, what, say = () => {}) {
  if (isThere()) return
  const command = `apt-get install -y --no-install-recommends ${packages.join(' ')}`
  const prefix = process.getuid?.() === 0 ? [] : run('sudo', ['-n', 'true']).status === 0 ? ['sudo', '-n'] : null
  if (prefix === null || run('which', ['apt-get']).status !== 0)
    throw new SetupError(
      `${what} is missing and may not be installed from here. Run this once, then start again:\n\n    sudo ${command}\n`,
    )
  say(`Installing ${what} from Debian's packages`)
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' }
  const apt = args => run(prefix[0] ?? 'apt-get', [...prefix.slice(1), ...(prefix.length ? ['apt-get'] : []), ...args], { env })
  apt(['update'])
  const result = apt(['install', '-y', '--no-install-recommends', ...packages])
  if (result.status !== 0 || !isThere())
    throw new SetupError(
      `${what} could not be installed. Run this to see why:\n\n    sudo ${command}\n\n${(result.stderr ?? '').trim().split('\n').slice(-4).join('\n')}`,
    )
}
