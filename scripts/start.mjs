// Starts everything on one machine: packages, database, build, server, worker, demo world. Ctrl-C ends all of it.
import { fork } from 'node:child_process'
import { createServer } from 'node:net'
import { join, resolve } from 'node:path'
import { holdFolder } from './hold-folder.mjs'
import { ensurePackages, SetupError } from './setup.mjs'

const started = Date.now()
const say = text => process.stdout.write(`${((Date.now() - started) / 1000).toFixed(0).padStart(4)} s  ${text}\n`)
const children = []
let postgres = null
let stopping = false
let letFolderGo = () => {}

async function stopAll(status) {
  if (stopping) return
  stopping = true
  await Promise.all(
    children.map(
      child =>
        new Promise(done => {
          if (child.exitCode !== null || child.signalCode !== null) return done()
          const killer = setTimeout(() => child.kill('SIGKILL'), 5000)
          child.once('exit', () => {
            clearTimeout(killer)
            done()
          })
          child.kill('SIGTERM')
        }),
    ),
  )
  await postgres?.stop()
  letFolderGo()
  process.exit(status)
}
process.on('SIGINT', () => stopAll(0))
process.on('SIGTERM', () => stopAll(0))
process.on('SIGHUP', () => stopAll(0))

/** What ends within this time of its start has not come up. */
const SOUND_MS = 30_000
const FIRST_DELAY_MS = 500
const LONGEST_DELAY_MS = 15_000
/** So many times in a row, and it is no accident any more. */
const MOST_FAILURES = 6

/**
 * Says how long to wait before something that ended is started again: longer each time that it did not come up soundly.
 * @returns null when it has failed too often
 */
function createBackOff() {
  let failures = 0
  return livedMs => {
    failures = livedMs > SOUND_MS ? 1 : failures + 1
    return failures > MOST_FAILURES ? null : Math.min(LONGEST_DELAY_MS, FIRST_DELAY_MS * 2 ** (failures - 1))
  }
}

const pause = ms => new Promise(done => setTimeout(done, ms))

function giveUp(what, hint) {
  if (stopping) return
  process.stderr.write(`\n${what} ended ${MOST_FAILURES} times in a row; stopping. Everything stored is kept. ${hint}\n`)
  stopAll(1)
}

/**
 * A part of the application as a process of its own; resolves when it says that it is ready the first time. One that is kept running is
 * started again when it ends.
 */
function startPart(name, env, { keep = false, wait = null } = {}) {
  const nextDelay = createBackOff()
  const startOnce = () =>
    new Promise((ready, failed) => {
      const startedAt = Date.now()
      const child = fork(join(import.meta.dirname, '../dist/node', `${name}.js`), {
        env,
        stdio: ['ignore', 'inherit', 'inherit', 'ipc'],
      })
      let isReady = false
      children.push(child)
      child.on('message', message => {
        if (message === 'ready') {
          isReady = true
          ready(child)
        } else if (typeof message === 'string') say(message)
      })
      child.on('exit', async (status, signal) => {
        children.splice(children.indexOf(child), 1)
        if (stopping) return
        if (!keep) {
          if (!isReady) failed(new SetupError(`The ${name} ended before it was ready.`))
          else if (status !== 0) stopAll(1)
          return
        }
        // Before it was ever ready the reason is on the console, and a start is no time for patience.
        if (!isReady && !wasReady) return failed(new SetupError(`The ${name} ended before it was ready.`))
        const delay = nextDelay(Date.now() - startedAt)
        if (delay === null) return giveUp(`The ${name}`, 'Its last words stand above; MUSCOVITE_LOG=debug npm start says more.')
        say(`The ${name} ended (${signal ?? status}); starting it again. What it had in hand is done over.`)
        await pause(delay)
        // Without its database it would only end again.
        await wait?.()
        if (!stopping) startOnce().catch(() => {})
      })
    })
  let wasReady = false
  return startOnce().then(child => {
    wasReady = true
    return child
  })
}

/** Starts the database, and again when it ends, at the same address. */
async function keepPostgres(dataFolder) {
  const { startPostgres } = await import('./postgres.mjs')
  const nextDelay = createBackOff()
  let startedAt = Date.now()
  const watch = () =>
    postgres.died.then(async () => {
      while (!stopping) {
        const delay = nextDelay(Date.now() - startedAt)
        if (delay === null) return giveUp('The database', `Its files are in ${dataFolder}; is the disk full?`)
        say('The database ended; starting it again')
        databaseBack = pause(delay)
          .then(() => (startedAt = Date.now()))
          .then(() => startPostgres(dataFolder, say, postgres.port))
        try {
          postgres = await databaseBack
          databaseBack = null
          return watch()
        } catch (error) {
          process.stderr.write(`${error instanceof SetupError ? error.message : error}\n`)
        }
      }
    })
  postgres = await startPostgres(dataFolder, say)
  watch()
  return postgres.url
}
let databaseBack = null
const untilDatabase = async () => {
  while (databaseBack && !stopping) await databaseBack.catch(() => pause(FIRST_DELAY_MS))
}

const isPortFree = port =>
  new Promise(done => {
    const probe = createServer()
    probe.once('error', () => done(false))
    probe.listen(port, '127.0.0.1', () => probe.close(() => done(true)))
  })

/** The port after this one, or, where that is taken, the next that is free. */
async function findFeedPort(port) {
  for (let candidate = port + 1; candidate < port + 50 && candidate < 65536; candidate++)
    if (await isPortFree(candidate)) return candidate
  throw new SetupError(`No port from ${port + 1} on is free for the simulated supplier.`)
}

try {
  const port = Number(process.env.PORT ?? 5170)
  if (!Number.isInteger(port) || port < 1 || port > 65535) throw new SetupError(`PORT=${process.env.PORT} is not a port.`)
  const dataFolder = resolve(process.env.MUSCOVITE_DATA ?? './.data')
  let databaseUrl = process.env.MUSCOVITE_DATABASE_URL
  // Several that share another's database may share a folder too.
  if (!databaseUrl) letFolderGo = holdFolder(dataFolder, port)
  if (!(await isPortFree(port)))
    throw new SetupError(`Port ${port} is in use. Stop what uses it, or start with PORT=${port + 1} npm start.`)
  await ensurePackages(say)
  if (!databaseUrl) databaseUrl = await keepPostgres(dataFolder)
  const { buildNode, buildWeb } = await import('./build.mjs')
  if (await buildNode()) say('Built the server')
  if (await buildWeb()) say('Built the pages')
  const demo = process.env.MUSCOVITE_DEMO ?? 'on'
  const env = {
    ...process.env,
    PORT: String(port),
    MUSCOVITE_DATA: dataFolder,
    MUSCOVITE_DATABASE_URL: databaseUrl,
    MUSCOVITE_DEMO: demo,
  }
  if (demo !== 'off') {
    // The simulated supplier: a server of its own, beside this one.
    const feedPort = await findFeedPort(port)
    env.MUSCOVITE_FEED_URL = `http://127.0.0.1:${feedPort}`
    await startPart('feed', { ...env, MUSCOVITE_FEED_PORT: String(feedPort) }, { keep: true })
  }
  await startPart('server', env, { keep: true, wait: untilDatabase })
  await startPart('worker', env, { keep: true, wait: untilDatabase })
  if (demo !== 'off') await startPart('seed', env)
  if (!stopping) process.stdout.write(`Muscovite is ready at http://127.0.0.1:${port}\n`)
} catch (error) {
  if (!stopping) {
    process.stderr.write(
      error instanceof SetupError ? `\n${error.message}\n` : `\nMuscovite could not start: ${error?.message ?? error}\n`,
    )
    await stopAll(1)
  }
}
