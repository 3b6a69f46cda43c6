import { mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { SetupError } from './setup.mjs'

/**
 * Holds a data folder for this process: two that start one database in it would end each other's over and over.
 * @returns lets go of it
 */
export function holdFolder(dataFolder, port) {
  const file = join(dataFolder, 'running.json')
  const own = JSON.stringify({ pid: process.pid, port })
  for (;;) {
    try {
      mkdirSync(dataFolder, { recursive: true })
      writeFileSync(file, own, { flag: 'wx', mode: 0o600 })
      return () => rmSync(file, { force: true })
    } catch (error) {
      // Where nothing can be written, the database says so.
      if (error.code !== 'EEXIST') return () => {}
    }
    const holder = readHolder(file)
    if (holder && isStarter(holder.pid))
      throw new SetupError(
        `Muscovite is running from ${dataFolder} already, at http://127.0.0.1:${holder.port} (process ${holder.pid}). ` +
          `Stop it first, or give this one a folder of its own: MUSCOVITE_DATA=… PORT=${port} npm start.`,
      )
    // Of one that was killed.
    rmSync(file, { force: true })
  }
}

function readHolder(file) {
  try {
    const { pid, port } = JSON.parse(readFileSync(file, 'utf8'))
    return Number.isInteger(pid) ? { pid, port } : null
  } catch {
    return null
  }
}

/** Whether a process is there and, as far as the system tells, one of this kind: numbers are given again, in a container the same ones. */
function isStarter(pid) {
  if (pid === process.pid) return false
  try {
    process.kill(pid, 0)
  } catch (error) {
    if (error.code !== 'EPERM') return false
  }
  try {
    return readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes('start.mjs')
  } catch {
    return true
  }
}
