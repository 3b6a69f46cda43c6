import { type ChildProcess, spawn } from 'node:child_process'
import { createServer } from 'node:net'
import { join } from 'node:path'
import { ROOT } from '../test-database'

const freePort = (): Promise<number> =>
  new Promise(resolve => {
    const probe = createServer()
    probe.listen(0, '127.0.0.1', () => {
      const { port } = probe.address() as { port: number }
      probe.close(() => resolve(port))
    })
  })

export interface RunningApp {
  base: string
  secondsToReady: number
  process: ChildProcess
  output: () => string
  /** Ctrl-C, and everything gone. */
  stop: () => Promise<number | null>
}

/** The application as `npm start` runs it, on a data folder of its own. */
export async function startApp(dataFolder: string, demo: 'people' | 'off' = 'people'): Promise<RunningApp> {
  const port = await freePort()
  const started = performance.now()
  const child = spawn(process.execPath, [join(ROOT, 'scripts/start.mjs')], {
    cwd: ROOT,
    env: {
      ...process.env,
      PORT: String(port),
      MUSCOVITE_DATA: dataFolder,
      MUSCOVITE_DEMO: demo,
      MUSCOVITE_FINALS: 'asked',
      MUSCOVITE_DATABASE_URL: '',
    },
    stdio: ['ignore', 'pipe', 'pipe'],
  })
  let output = ''
  const ready = new Promise<void>((resolve, reject) => {
    const hear = (chunk: Buffer) => {
      output += chunk
      if (output.includes('Muscovite is ready')) resolve()
    }
    child.stdout!.on('data', hear)
    child.stderr!.on('data', hear)
    child.once('exit', status => reject(new Error(`ended with ${status} before it was ready:\n${output}`)))
  })
  await ready
  return {
    base: `http://127.0.0.1:${port}`,
    secondsToReady: (performance.now() - started) / 1000,
    process: child,
    output: () => output,
    stop: () =>
      new Promise(resolve => {
        child.once('exit', resolve)
        child.kill('SIGINT')
      }),
  }
}
