import { type FitTask, fitRows } from '../film/fit-rows'
import type { TracerCopy } from './kernel-tracer'
import type { Pass, TracedPass } from './pass'
import type { Rendering } from './render'

/** A thread that traces passes of one picture, and filters parts of it. Either rejects when it cannot go on. */
export interface Helper {
  trace: (pass: Pass) => Promise<TracedPass>
  fit: (task: FitTask) => Promise<Float32Array>
  close: () => void
}

/** Where helpers come from. */
export interface Helpers {
  /** How many there may be now, each of which needs so many bytes. */
  allowed: (bytes: number) => number
  open: (copy: TracerCopy) => Helper
  /** Lets come in what others have sent. */
  pause: () => Promise<void>
}

/** Nobody helps. */
export const ALONE: Helpers = {
  allowed: () => 0,
  open: () => {
    throw new Error('Nobody helps.')
  },
  pause: async () => {},
}

/** Passes that a helper has at once: one that it traces, and one so that it need not wait for the next. */
const AHEAD = 2

interface Member {
  helper: Helper
  underWay: number
  isLost: boolean
}

/**
 * Traces a picture to its end on this thread and on as many others as may help, of which there may be more or fewer at any time. It is the same
 * picture as this thread would make alone.
 * @param onPass called after each pass of this thread; returning false ends it
 * @returns whether it came to its end
 */
export async function traceTogether(
  rendering: Rendering,
  helpers: Helpers,
  onPass: () => boolean | Promise<boolean>,
): Promise<boolean> {
  rendering.leaveJudging()
  const team: Member[] = []
  const underWay = new Set<Promise<void>>()
  let [copy, lost]: [TracerCopy | null, number] = [null, 0]

  const lose = (member: Member) => {
    if (member.isLost) return
    member.isLost = true
    lost++
  }
  const order = (member: Member, pass: Pass) => {
    member.underWay++
    const traced = member.helper.trace(pass).then(
      result => rendering.addPass(pass, result),
      () => {
        rendering.giveBack(pass)
        lose(member)
      },
    )
    const ended = traced.finally(() => {
      member.underWay--
      underWay.delete(ended)
    })
    underWay.add(ended)
  }

  const suitTeam = () => {
    const { copied } = rendering
    // One that was lost is not tried again: what it failed of, memory say, the next would too.
    const allowed = copied ? Math.max(0, helpers.allowed(copied.bytes) - lost) : 0
    for (const [k, member] of [...team.entries()].reverse())
      if (member.underWay === 0 && (member.isLost || k >= allowed)) {
        member.helper.close()
        team.splice(k, 1)
      }
    if (team.length < allowed) copy ??= copied!.copy()
    while (team.length < allowed) team.push({ helper: helpers.open(copy!), underWay: 0, isLost: false })
    // Those who have opened it keep it no longer; it is as large as the picture's memory.
    copy = null
    return team.slice(0, allowed)
  }

  try {
    for (;;) {
      const able = suitTeam()
      for (const member of able)
        while (member.underWay < AHEAD && !member.isLost) {
          const pass = rendering.takePass()
          if (!pass) break
          order(member, pass)
        }
      const own = rendering.takePass()
      if (own) rendering.trace(own)
      else if (underWay.size > 0) await Promise.race(underWay)
      else {
        const judging = rendering.takeJudging()
        if (!judging) return true
        judging.judge(await fitTogether(judging.tasks, able, helpers.pause, lose))
      }
      if (!(await onPass())) return false
      await helpers.pause()
    }
  } finally {
    for (const { helper } of team) helper.close()
  }
}

/** Each takes the next task when it has ended one; what a helper fails of is done here. */
async function fitTogether(
  tasks: readonly FitTask[],
  team: readonly Member[],
  pause: () => Promise<void>,
  lose: (member: Member) => void,
): Promise<Float32Array[]> {
  const fitted: Float32Array[] = []
  let next = 0
  const failed: number[] = []
  const helping = team.map(async member => {
    while (next < tasks.length && !member.isLost) {
      const k = next++
      try {
        fitted[k] = await member.helper.fit(tasks[k])
      } catch {
        failed.push(k)
        lose(member)
      }
    }
  })
  while (next < tasks.length) {
    const k = next++
    fitted[k] = fitRows(tasks[k])
    await pause()
  }
  await Promise.all(helping)
  for (const k of failed) fitted[k] = fitRows(tasks[k])
  return fitted
}
