import type { ByteImage } from '#core/image/image'
import { developForDisplay } from '#core/render/film/develop'
import { assembleTiles, type Rendering } from '#core/render/integrator/render'

/** Blocks across a first look: as much as says what is where, in a part of a second. */
const SKETCH_ACROSS = 160
/** Between the first two, in milliseconds; then twice as long each time, up to the last. */
const FIRST_WAIT_MS = 2000
const LONGEST_WAIT_MS = 20_000
/** Of the time that passes, what showing it may cost. */
const COST_SHARE = 0.05

export type ShowInterim = (picture: ByteImage) => Promise<void>

/** Shows a picture while it is made: at once as a sketch, then as far as it has come, more and more seldom. */
export class InterimPictures {
  private readonly size: { width: number; height: number }
  /** What stands where nothing is traced yet. */
  private readonly sketch: readonly Float32Array[]
  private waitMs = FIRST_WAIT_MS
  private nextAt = 0

  /** @param show is given the picture, developed for display */
  constructor(
    private readonly rendering: Rendering,
    private readonly show: ShowInterim,
  ) {
    const { width, height } = rendering.settings
    this.size = { width, height }
    const isBegun = rendering.tiles.some(t => t.count > 0)
    this.sketch = isBegun ? [] : rendering.sketch(Math.max(1, Math.ceil(width / SKETCH_ACROSS)))
  }

  /** To be called as often as there is something new. */
  showWhenDue(): void {
    if (performance.now() >= this.nextAt) void this.showNow()
  }

  /** @returns when it is shown, which may be waited for: what comes next may keep the thread for seconds */
  showNow(): Promise<void> {
    const from = performance.now()
    const shown = this.show(developForDisplay(assembleTiles(this.rendering.tiles, this.size, this.sketch)))
    const now = performance.now()
    this.nextAt = now + Math.max(this.waitMs, (now - from) / COST_SHARE)
    this.waitMs = Math.min(LONGEST_WAIT_MS, this.waitMs * 2)
    return shown
  }
}
