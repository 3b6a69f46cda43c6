// Starts everything on one machine: packages, database, build, server, worker, demo world. Ctrl-C ends all of it.
import { fork } from 'node:child_process'
import { createServer } from 'node:net'
import { join, resolve } from 'node:path'
import { ensurePackages, SetupError } from './setup.mjs'

const started = Date.now()
const say = text => process.stdout.write(`${((Date.now() - started) / 1000).toFixed(0).padStart(4)} s  ${text}\n`)
const children = []
let postgres = null
let stopping = false

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
  process.exit(status)
}
process.on('SIGINT', () => stopAll(0))
process.on('SIGTERM', () => stopAll(0))
process.on('SIGHUP', () => stopAll(0))

/** A part of the application as a process of its own; resolves when it says that it is ready. */
function startPart(name, env, { again = false } = {}) {
  return new Promise((ready, failed) => {
    const child = fork(join(import.meta.dirname, '../dist/node', `${name}.js`), {
      env,
      stdio: ['ignore', 'inherit', 'inherit', 'ipc'],
    })
    children.push(child)
    child.on('message', message => {
      if (message === 'ready') ready(child)
      else if (typeof message === 'string') say(message)
    })
    child.on('exit', status => {
      children.splice(children.indexOf(child), 1)
      failed(new SetupError(`The ${name} ended before it was ready.`))
      if (stopping) return
      if (again) {
        say(`The ${name} ended (${status ?? 'killed'}); starting it again. Its jobs are done over.`)
        setTimeout(() => !stopping && startPart(name, env, { again }).catch(() => {}), 1000)
      } else if (status !== 0) stopAll(1)
    })
  })
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
  if (!(await isPortFree(port)))
    throw new SetupError(`Port ${port} is in use. Stop what uses it, or start with PORT=${port + 1} npm start.`)
  const dataFolder = resolve(process.env.MUSCOVITE_DATA ?? './.data')
  await ensurePackages(say)
  let databaseUrl = process.env.MUSCOVITE_DATABASE_URL
  if (!databaseUrl) {
    const { startPostgres } = await import('./postgres.mjs')
    postgres = await startPostgres(dataFolder, say)
    databaseUrl = postgres.url
    postgres.died.then(() => {
      if (stopping) return
      process.stderr.write('The database ended; stopping. Everything stored is kept. Start again with npm start.\n')
      stopAll(1)
    })
  }
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
    await startPart('feed', { ...env, MUSCOVITE_FEED_PORT: String(feedPort) }, { again: true })
  }
  await startPart('server', env)
  await startPart('worker', env, { again: true })
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
