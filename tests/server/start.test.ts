import { spawn, spawnSync } from 'node:child_process'
import { chmod, mkdir, mkdtemp, readdir, readFile, rm, writeFile } from 'node:fs/promises'
import { createServer } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { holdFolder } from '../../scripts/hold-folder.mjs'
import { ROOT } from '../test-database'

let folder: string
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'muscovite-start-'))
  await chmod(folder, 0o755)
})
afterAll(() => rm(folder, { recursive: true, force: true }))

const start = (env: Record<string, string>) =>
  spawnSync(process.execPath, [join(ROOT, 'scripts/start.mjs')], {
    cwd: ROOT,
    encoding: 'utf8',
    env: { ...process.env, ...env },
    timeout: 60_000,
  })

describe('a start that cannot be', () => {
  it('names a port in use, and another to try', async () => {
    const taken = createServer()
    await new Promise<void>(resolve => taken.listen(0, '127.0.0.1', resolve))
    const { port } = taken.address() as { port: number }
    const { status, stderr } = start({ PORT: String(port), MUSCOVITE_DATA: join(folder, 'a') })
    taken.close()
    expect(status).toBe(1)
    expect(stderr).toContain(`Port ${port} is in use.`)
    expect(stderr).toContain(`PORT=${port + 1} npm start`)
    expect(start({ PORT: 'x' }).stderr).toContain('is not a port')
  })

  it('says where it runs already, and leaves that one its database', async () => {
    const data = join(folder, 'held')
    await mkdir(data)
    const other = spawn(process.execPath, ['-e', 'setTimeout(() => {}, 60_000)', 'start.mjs'])
    const running = JSON.stringify({ pid: other.pid, port: 5170 })
    await writeFile(join(data, 'running.json'), running)
    const { status, stderr } = start({ PORT: '5997', MUSCOVITE_DATA: data, MUSCOVITE_DATABASE_URL: '' })
    expect(status).toBe(1)
    expect(stderr).toContain(`Muscovite is running from ${data} already, at http://127.0.0.1:5170 (process ${other.pid}).`)
    expect(await readdir(data)).toEqual(['running.json'])
    expect(await readFile(join(data, 'running.json'), 'utf8')).toBe(running)
    // One that was killed, or whose number is another's now, holds nothing.
    other.kill('SIGKILL')
    await new Promise(resolve => other.once('exit', resolve))
    for (const left of [
      running,
      JSON.stringify({ pid: process.pid, port: 5170 }),
      JSON.stringify({ pid: 1, port: 5170 }),
      'torn',
    ]) {
      await writeFile(join(data, 'running.json'), left)
      const letGo = holdFolder(data, 5997)
      expect(JSON.parse(await readFile(join(data, 'running.json'), 'utf8'))).toEqual({ pid: process.pid, port: 5997 })
      letGo()
      expect(await readdir(data)).toEqual([])
    }
  })

  it('names a data folder that cannot be written', () => {
    const { status, stderr } = start({ PORT: '5999', MUSCOVITE_DATA: '/dev/null/nowhere', MUSCOVITE_DATABASE_URL: '' })
    expect(status).toBe(1)
    expect(stderr).toContain('The data folder /dev/null/nowhere cannot be written.')
    expect(stderr).not.toMatch(/\bat .*:\d+:\d+/)
  })

  it('gives the last words of a database that does not come up', async () => {
    const data = join(folder, 'b')
    const cluster = join(data, 'postgres')
    await mkdir(cluster, { recursive: true })
    await writeFile(join(cluster, 'PG_VERSION'), '8.1\n')
    await writeFile(join(data, 'database-password'), 'x')
    if (process.getuid?.() === 0) spawnSync('chown', ['-R', 'postgres', cluster])
    await chmod(cluster, 0o700)
    const { status, stderr } = start({ PORT: '5998', MUSCOVITE_DATA: data, MUSCOVITE_DATABASE_URL: '' })
    expect(status).toBe(1)
    expect(stderr).toContain('The database ended at once.')
    expect(stderr).toMatch(/postgres|configuration|version/i)
  })
})
