import { setTimeout as wait } from 'node:timers/promises'
import type { Jobs } from '../platform/queue'
import type { WorkContext } from '../platform/work-context'
import { runBulk } from './run-bulk'

const AGAIN_MS = 500

/** Until it is done, here or by the request that began it: should that break off, it goes on here. */
export async function runBulkJob(context: WorkContext, { id }: Jobs['run-bulk']): Promise<void> {
  while (!(await runBulk(context, id))) await wait(AGAIN_MS)
}
