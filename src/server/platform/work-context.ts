import type { ComputePool } from './compute/compute-pool'
import type { Context } from './context'

/** What a job works with: the context of every use case, and threads to compute in. */
export interface WorkContext extends Context {
  /** Kept free of renderings, so that a delivery is looked at within seconds however many previews wait. */
  intakePool: ComputePool
  previewPool: ComputePool
  /** A thread of its own: a large export holds up neither measuring nor rendering. */
  exportPool: ComputePool
  temporaryFolder: string
}
