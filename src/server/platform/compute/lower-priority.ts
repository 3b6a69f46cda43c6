import { readlinkSync } from 'node:fs'
import { getPriority, platform, setPriority } from 'node:os'

/**
 * Lets other threads of this process go first from now on. On Linux each thread has a niceness of its own; elsewhere it keeps that of its
 * process, and nothing happens.
 */
export function lowerPriority(niceness: number): void {
  if (platform() !== 'linux') return
  const thread = Number(readlinkSync('/proc/thread-self').split('/').pop())
  // What is further behind already may not come forward again.
  if (getPriority(thread) < niceness) setPriority(thread, niceness)
}
