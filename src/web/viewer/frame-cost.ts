/** Shares of the full width and height in which a live view is drawn, the finest first. */
const STEPS = [1, 0.75, 0.5, 0.35, 0.25] as const
/** While one turns or moves something, a picture is to come within this; once it rests it may take longer and is drawn finer. */
const MOVING_MS = 110
const RESTING_MS = 700
/** Of what was known, when a frame takes longer than that. */
const KEPT = 0.7
/** A frame that takes so many times as long as expected may have had to compile or load something, which tells nothing of the next. */
const DOUBTFUL = 3

/** What a frame at full size takes, in milliseconds, from what frames took so far. */
export class FrameCost {
  #fullMs: number
  #isDoubting = false

  /** @param guessMs before anything was drawn */
  constructor(guessMs: number) {
    this.#fullMs = guessMs
  }

  /**
   * @param share of the full width and height that was drawn
   * @returns false where it is not believed yet, and another frame should tell
   */
  took(ms: number, share: number): boolean {
    const full = ms / (share * share)
    this.#isDoubting = !this.#isDoubting && ms > RESTING_MS && full > DOUBTFUL * this.#fullMs
    if (this.#isDoubting) return false
    this.#fullMs = full < this.#fullMs ? full : KEPT * this.#fullMs + (1 - KEPT) * full
    return true
  }

  /** The finest share in which a frame comes in time. */
  share(isMoving: boolean): number {
    const allowed = isMoving ? MOVING_MS : RESTING_MS
    return STEPS.find(step => this.#fullMs * step * step <= allowed) ?? STEPS[STEPS.length - 1]
  }
}
