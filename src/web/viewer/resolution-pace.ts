import type { FrameCost } from './frame-cost'

/** Nothing asked for a frame for so long: it rests. */
const REST_MS = 250
/** One for the other size, one when the canvas hears of it. */
const FRAMES_OF_A_RESIZE = 2
/** While it rests and is drawn coarsely, it is measured again after so long. */
const LOOK_AGAIN_MS = [1500, 6000]

/** What a view can be asked. */
export interface PacedView {
  /** Draws it in this share of its full width and height, from the next frame on. */
  setShare(share: number): void
  /** Draws it once more, though nothing moved. */
  drawAgain(): void
  /** Tells how long what was given to draw so far takes from now; null where that cannot be known. */
  whenDrawn(tell: (ms: number | null) => void): void
}

type Timer = ReturnType<typeof setTimeout>

/**
 * In which share of its size a live view is drawn, frame for frame: coarser while something moves, so that it follows the hand, and finer
 * when it rests. Never while the card draws: another size would make the page wait until it has.
 */
export class ResolutionPace {
  /** Set while something moves. */
  private rest: Timer | null = null
  private look: Timer | null = null
  private looks = 0
  /** A frame is being drawn that tells how long it takes. */
  private isTiming = false
  private isAnotherDrawn = false
  /** So many of the next frames are drawn for their size or to be measured, and nothing moves. */
  private stillFrames = 1

  constructor(
    private readonly view: PacedView,
    private readonly cost: FrameCost,
    private share = cost.share(false),
  ) {}

  /** A frame is given to the card now. */
  frame(): void {
    if (this.isTiming) this.isAnotherDrawn = true
    else {
      this.isTiming = true
      this.isAnotherDrawn = false
      this.view.whenDrawn(ms => this.measured(ms))
    }
    if (this.stillFrames > 0) this.stillFrames--
    else this.awaitRest()
  }

  stop(): void {
    clearTimeout(this.rest ?? undefined)
    clearTimeout(this.look ?? undefined)
  }

  private measured(ms: number | null): void {
    if (ms !== null && !this.cost.took(ms, this.share)) this.measureAgain()
    // The next may be the one that loads everything.
    if (this.isAnotherDrawn) this.view.whenDrawn(() => this.idle())
    else this.idle()
  }

  /** Nothing is being drawn any more. */
  private idle(): void {
    this.isTiming = false
    if (this.rest !== null) this.awaitRest()
    this.settle()
  }

  private settle(): void {
    if (this.isTiming) return
    const isResting = this.rest === null
    const next = isResting ? Math.max(this.share, this.cost.share(false)) : Math.min(this.share, this.cost.share(true))
    if (next !== this.share) {
      this.stillFrames = FRAMES_OF_A_RESIZE
      this.share = next
      this.view.setShare(next)
    } else if (isResting && this.share < 1) this.lookAgain()
  }

  private measureAgain(): void {
    this.stillFrames = 1
    this.view.drawAgain()
  }

  /** What made it slow may be over, such as another page's first picture. */
  private lookAgain(): void {
    if (this.looks >= LOOK_AGAIN_MS.length) return
    clearTimeout(this.look ?? undefined)
    this.look = setTimeout(() => this.measureAgain(), LOOK_AGAIN_MS[this.looks++])
  }

  private awaitRest(): void {
    this.stop()
    this.looks = 0
    this.rest = setTimeout(() => {
      if (this.isTiming) return this.awaitRest()
      this.rest = null
      this.settle()
    }, REST_MS)
  }
}
