import { KernelMemory } from '../kernel/kernel-memory'
import { TILE_FEATURES as FEATURES } from './tile'

/** How many of its own standard errors a difference of luminance may be without telling. */
const SENSITIVITY = 0.55
/** What differs by less than this in base colour, normal, or share of the distance explains little. */
const FLOORS = [0.02, 0.02, 0.02, 0.03, 0.03, 0.03, 0.01]
/** A window stands at every second pixel of every second row; each fits all its pixels, and a pixel takes the mean of what they say. */
export const STRIDE = 2
/** Rows that a window reaches up or down, at most. */
export const REACH = 6
/** Pixels about the picture that windows and patches may reach into. */
const MARGIN = 8
/** A row is read in fours. */
const AFTER = 12
const SCRATCH_BYTES = 14_336
const OUT = 4

/** Rows of one half of a picture to be filtered, with those about them that windows reach into. Survives structured cloning. */
export interface FitTask {
  width: number
  /** Of all rows here. */
  height: number
  /** The rows that are filtered: from, and before which. */
  from: number
  until: number
  /** 3 a pixel, linear RGB; and what the camera met, {@link FEATURES} a pixel. */
  color: Float32Array
  features: Float32Array
  /** Luminance of the other half, and its variance. */
  guide: Float32Array
  spread: Float32Array
  /** 1 for each pixel that is wanted; null for all. */
  wanted: Uint8Array | null
}

/**
 * Fits windows to rows of a half, see {@link filterHalves}.
 * @returns the rows that are wanted, 3 a pixel, linear RGB; 0 where nothing is
 */
export function fitRows(task: FitTask): Float32Array<ArrayBuffer> {
  // A thread filters again and again, and every memory takes its time to be there and to be gone.
  kept ??= KernelMemory.open()
  kept.clear()
  const planes = new Planes(kept, task.width, task.height)
  planes.set(task)
  const fitted = planes.fit(task)
  if (kept.bytes > MOST_KEPT_BYTES) kept = null
  return fitted
}
let kept: KernelMemory | null = null
const MOST_KEPT_BYTES = 64 * 1024 ** 2

/** The kernel's memory for pictures of one size. */
class Planes {
  private readonly stride: number
  private readonly size: number
  /** Floats from the start of the memory. */
  private readonly guide: number
  private readonly own: number
  private readonly out: number

  constructor(
    private readonly memory: KernelMemory,
    private readonly width: number,
    private readonly height: number,
  ) {
    this.stride = Math.ceil((width + MARGIN + AFTER) / 4) * 4
    this.size = this.stride * (height + 2 * MARGIN)
    const { stride, size } = this
    const bytes = size * 4
    const [guide, own, inside, out] = [2, 3 + FEATURES, 1, OUT].map(count => memory.allocate(count * bytes))
    const scratch = memory.allocate(SCRATCH_BYTES)
    const header = memory.allocate(96)
    this.guide = guide / 4
    this.own = own / 4
    this.out = out / 4
    new Uint32Array(memory.buffer, header, 7).set([stride * 4, bytes, guide, own, inside, out, scratch])
    new Float32Array(memory.buffer, header + 28, 8).set([SENSITIVITY ** 2, ...FLOORS.map(f => 1 / f)])
    const floats = new Float32Array(memory.buffer)
    for (let y = 0; y < height; y++) floats.fill(1, inside / 4 + this.at(0, y), inside / 4 + this.at(width, y))
    memory.kernel.setFilter(header)
  }

  set({ color, features, guide, spread }: FitTask): void {
    const { width, height, own, size } = this
    const floats = new Float32Array(this.memory.buffer)
    this.pad(floats, this.guide, guide)
    this.pad(floats, this.guide + size, spread)
    // A plane after the other: each is written in one go.
    for (let k = 0; k < 3 + FEATURES; k++)
      for (let y = 0; y < height; y++) {
        let to = own + k * size + this.at(0, y)
        let p = y * width
        if (k < 3) for (const end = p + width; p < end; p++, to++) floats[to] = color[p * 3 + k]
        else for (const end = p + width; p < end; p++, to++) floats[to] = features[p * FEATURES + k - 3]
      }
  }

  fit({ from, until, wanted }: FitTask): Float32Array<ArrayBuffer> {
    const { width, height, memory, out, size } = this
    const floats = new Float32Array(memory.buffer)
    const [above, below] = [Math.max(0, from - REACH), Math.min(height, until + REACH)]
    const forEach = (first: number, end: number, step: number, use: (x: number, y: number) => void) => {
      for (let y = first; y < end; y += step)
        for (let x = 0; x < width; x += step) if (!wanted || wanted[y * width + x]) use(x, y)
    }
    const fitAt = (x: number, y: number) => memory.kernel.fitWindow(x + MARGIN, y + MARGIN)
    forEach(above, below, STRIDE, fitAt)
    // What is like nothing about it stands for itself.
    forEach(above, below, 1, (x, y) => {
      if (floats[out + this.at(x, y) + 3 * size] === 0) fitAt(x, y)
    })
    const filtered = new Float32Array(width * (until - from) * 3)
    forEach(from, until, 1, (x, y) => {
      const at = out + this.at(x, y)
      const to = ((y - from) * width + x) * 3
      const weight = floats[at + 3 * size]
      for (let k = 0; k < 3; k++) filtered[to + k] = Math.max(0, floats[at + k * size] / weight)
    })
    return filtered
  }

  /** Writes a plane with its edges repeated outwards. */
  private pad(floats: Float32Array, plane: number, values: Float32Array): void {
    const { width, height, stride } = this
    for (let row = 0; row < height + 2 * MARGIN; row++) {
      const from = Math.min(height - 1, Math.max(0, row - MARGIN)) * width
      const to = plane + row * stride
      floats.fill(values[from], to, to + MARGIN)
      floats.set(values.subarray(from, from + width), to + MARGIN)
      floats.fill(values[from + width - 1], to + MARGIN + width, to + stride)
    }
  }

  private at(x: number, y: number): number {
    return (y + MARGIN) * this.stride + x + MARGIN
  }
}
