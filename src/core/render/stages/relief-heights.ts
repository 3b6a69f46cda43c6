import type { ByteImage } from '../../image/image'
import type { MipTexture } from '../scene/texture'

/** A height map laid over a surface. */
export interface Relief {
  /** White lies at the surface, black deepest. */
  heights: MipTexture
  channel: 0 | 1 | 2 | 3
  /** Size of one repeat, metres. */
  tileSizeM: readonly [number, number]
  /** Height of white over black, metres. */
  reliefM: number
}

/** The heights of a relief, in texels of any size. */
export class ReliefHeights {
  private readonly levels: Heights[] = []

  constructor(private readonly relief: Relief) {}

  /** In texels as large as a length in metres, or larger. */
  inTexelsOf(length: number): Heights {
    const { tileSizeM, heights, channel } = this.relief
    const { levels, repeats } = heights
    const level = Math.round(Math.log2((length * levels[0].width) / tileSizeM[0]))
    const at = Math.min(levels.length - 1, Math.max(0, level))
    this.levels[at] ??= new Heights(levels[at], channel, repeats)
    return this.levels[at]
  }
}

/** One channel of a picture, read between its texels. */
export class Heights {
  private readonly values: Float32Array
  private readonly width: number
  private readonly height: number

  constructor(
    { width, height, channels, data }: ByteImage,
    channel: number,
    private readonly repeats: boolean,
  ) {
    this.width = width
    this.height = height
    this.values = Float32Array.from(
      { length: width * height },
      (_, i) => data[i * channels + Math.min(channel, channels - 1)] / 255,
    )
  }

  /** 0..1, at (u, v) in repeats. */
  at(u: number, v: number): number {
    const { values, width, height, repeats } = this
    const x = (repeats ? u - Math.floor(u) : Math.min(1, Math.max(0, u))) * width - 0.5
    const y = (repeats ? v - Math.floor(v) : Math.min(1, Math.max(0, v))) * height - 0.5
    const [xf, yf] = [Math.floor(x), Math.floor(y)]
    const x0 = xf >= 0 ? xf : repeats ? width - 1 : 0
    const x1 = xf + 1 < width ? xf + 1 : repeats ? 0 : width - 1
    const y0 = yf >= 0 ? yf : repeats ? height - 1 : 0
    const y1 = yf + 1 < height ? yf + 1 : repeats ? 0 : height - 1
    const upper = values[y0 * width + x0] * (1 - x + xf) + values[y0 * width + x1] * (x - xf)
    const lower = values[y1 * width + x0] * (1 - x + xf) + values[y1 * width + x1] * (x - xf)
    return upper * (1 - y + yf) + lower * (y - yf)
  }
}
