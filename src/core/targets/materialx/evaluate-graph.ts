import { hsvToRgb, rgbToHsv } from '../../color/hsv'
import { decodeSrgb } from '../../color/srgb'
import { FileError } from '../../findings/failure'
import { hashCombine } from '../../math/random'
import { type MtlxDocument, type MtlxInput, type MtlxNode, type MtlxSource, parseNumbers } from './document'

/** Values over some places: `channels` numbers a place, one after the other, or once where it is the same everywhere. */
export interface Values {
  channels: number
  data: Float32Array
  uniform: boolean
}

/** A picture as numbers from 0 to 1 (or beyond, where it is of floats), rows from the top. */
export interface GraphImage {
  width: number
  height: number
  channels: number
  at(index: number): number
}

/** Texture coordinates of the places that are asked for. */
export interface Places {
  u: Float32Array
  v: Float32Array
}

/** A node that no map can be made of: what it needs is not there on a flat picture, or nobody knows what it does. */
export class NotBaked extends FileError {
  constructor(readonly node: string) {
    super('unsupported', `The node ${node} is not one that a map can be made of.`)
  }
}

const TYPE_CHANNELS: Record<string, number> = {
  float: 1,
  integer: 1,
  boolean: 1,
  vector2: 2,
  color3: 3,
  vector3: 3,
  color4: 4,
  vector4: 4,
}
/** Graphs deeper than this are not made by hand. */
const MOST_DEPTH = 200
/** Half a minute or so: a graph of slopes of slopes of slopes has no end. */
const MOST_WORK = 1e9
/** What a node costs beside its places, in places. */
const NODE_WORK = 512
/** Slopes are taken over this share of a picture. */
const SLOPE_STEP = 1 / 1024

/** Numbers of a value that stands in the file, a colour as linear light; null where it holds none. */
export function readValue({ text, type, colorSpace }: Extract<MtlxSource, { kind: 'value' }>): number[] | null {
  const numbers = parseNumbers(text)
  const isEncoded = colorSpace === 'srgb_texture' && type.startsWith('color')
  return numbers && isEncoded ? numbers.map((v, c) => (c < 3 ? decodeSrgb(v) : v)) : numbers
}

/**
 * Works out node graphs of patterns over texture coordinates; each node once for the places asked for. Colours are linear Rec.709, vectors as
 * they are; a normal is what its map holds, 0.5 being no slope.
 * Source: Academy Software Foundation, "MaterialX Specification v1.39", standard nodes. Noise is of the kind that they describe, not the same
 * to the cell as another program's.
 */
export class GraphEvaluator {
  private memo = new Map<string, Values>()
  private depth = 0
  /** Nodes worked out so far, times the places. */
  private worked = 0

  /** @param findImage the decoded picture of an address; null where it did not come along */
  constructor(
    private readonly document: MtlxDocument,
    private readonly findImage: (address: string) => GraphImage | null,
  ) {}

  /** @throws NotBaked, and FileError where the whole of it takes too long */
  evaluate(scope: string, input: MtlxInput | undefined, places: Places): Values | null {
    this.memo = new Map()
    return this.input(scope, input, places)
  }

  private input(scope: string, input: MtlxInput | undefined, places: Places): Values | null {
    const source = this.document.resolve(scope, input)
    if (!source) return null
    if (source.kind === 'value') {
      const numbers = readValue(source)
      return numbers && uniformOf(numbers)
    }
    const { node, output } = source
    return selectOutput(this.node(node, places), node, output)
  }

  private node(node: MtlxNode, places: Places): Values {
    const key = `${node.scope}/${node.name}`
    const known = this.memo.get(key)
    if (known) return known
    if (this.depth >= MOST_DEPTH) throw new NotBaked(node.category)
    this.worked += places.u.length + NODE_WORK
    if (this.worked > MOST_WORK)
      throw new FileError('tooLarge', 'The node graph of the MaterialX file takes longer to work out than is waited for.')
    this.depth++
    try {
      const made = this.make(node, places)
      this.memo.set(key, made)
      return made
    } finally {
      this.depth--
    }
  }

  private make(node: MtlxNode, places: Places): Values {
    const { category } = node
    const channels = TYPE_CHANNELS[node.type] ?? 3
    const optional = (name: string) => this.input(node.scope, node.inputs.get(name), places)
    const take = (name: string, or: number | number[]): Values =>
      optional(name) ?? uniformOf(Array.isArray(or) ? or : Array<number>(channels).fill(or))
    const number = (name: string, or: number): number => take(name, [or]).data[0]
    const unary = UNARY[category]
    if (unary) return map([take('in', 0)], channels, ([a]) => unary(a))
    const binary = BINARY[category]
    if (binary) return map([take('in1', binary.in1), take('in2', binary.in2)], channels, ([a, b]) => binary.of(a, b))
    switch (category) {
      case 'constant':
        return take('value', 0)
      case 'dot':
        return take('in', 0)
      case 'image':
      case 'tiledimage':
        return this.picture(node, places, channels)
      case 'gltf_normalmap':
        return this.picture(node, places, 3)
      case 'gltf_image':
      case 'gltf_colorimage': {
        const isColor = category === 'gltf_colorimage'
        const factor = isColor ? take('color', [1, 1, 1, 1]) : take('factor', 1)
        return map([this.picture(node, places, isColor ? 4 : channels), factor], isColor ? 4 : channels, ([a, b]) => a * b)
      }
      case 'texcoord':
        return placesOf(places)
      case 'place2d':
        return place2d(
          take('texcoord', [0, 0]).uniform && !node.inputs.has('texcoord') ? placesOf(places) : take('texcoord', [0, 0]),
          {
            pivot: take('pivot', [0, 0]),
            scale: take('scale', [1, 1]),
            rotateDeg: number('rotate', 0),
            offset: take('offset', [0, 0]),
          },
        )
      case 'rotate2d': {
        const angle = (number('amount', 0) * Math.PI) / 180
        const [cos, sin] = [Math.cos(angle), Math.sin(angle)]
        return mapWhole([take('in', [0, 0])], 2, ([p], out) => {
          out[0] = p[0] * cos + p[1] * sin
          out[1] = -p[0] * sin + p[1] * cos
        })
      }
      case 'clamp':
        return map([take('in', 0), take('low', 0), take('high', 1)], channels, ([a, low, high]) =>
          Math.min(Math.max(a, low), high),
        )
      case 'mix':
        return map([take('bg', 0), take('fg', 0), take('mix', [0])], channels, ([bg, fg, t]) => bg + (fg - bg) * t)
      case 'remap':
      case 'range': {
        const given = [
          take('in', 0),
          take('inlow', 0),
          take('inhigh', 1),
          take('outlow', 0),
          take('outhigh', 1),
          take('gamma', 1),
        ]
        const isClamped = category === 'range' && number('doclamp', 0) > 0
        return map(given, channels, ([a, inLow, inHigh, outLow, outHigh, gamma]) => {
          const t = inHigh === inLow ? 0 : (a - inLow) / (inHigh - inLow)
          const bent = category === 'range' && gamma > 0 ? Math.sign(t) * Math.abs(t) ** (1 / gamma) : t
          const out = outLow + (outHigh - outLow) * bent
          return isClamped ? Math.min(Math.max(out, Math.min(outLow, outHigh)), Math.max(outLow, outHigh)) : out
        })
      }
      case 'smoothstep':
        return map([take('in', 0), take('low', 0), take('high', 1)], channels, ([a, low, high]) => {
          const t = high === low ? (a < low ? 0 : 1) : Math.min(1, Math.max(0, (a - low) / (high - low)))
          return t * t * (3 - 2 * t)
        })
      case 'invert':
        return map([take('amount', 1), take('in', 0)], channels, ([amount, a]) => amount - a)
      case 'contrast':
        return map(
          [take('in', 0), take('amount', 1), take('pivot', 0.5)],
          channels,
          ([a, amount, pivot]) => (a - pivot) * amount + pivot,
        )
      case 'luminance':
        return mapWhole([take('in', 0)], channels, ([c], out) => out.fill(0.2126 * c[0] + 0.7152 * c[1] + 0.0722 * c[2]))
      case 'saturate':
        return mapWhole([take('in', 0), take('amount', [1])], channels, ([c, amount], out) => {
          const grey = 0.2126 * c[0] + 0.7152 * c[1] + 0.0722 * c[2]
          for (let k = 0; k < 3; k++) out[k] = grey + (c[k] - grey) * amount[0]
        })
      case 'hsvadjust':
        return mapWhole([take('in', 0), take('amount', [0, 1, 1])], channels, ([c, [hue, saturation, value]], out) => {
          const [h, s, v] = rgbToHsv(c[0], c[1], c[2])
          out.set(hsvToRgb(h + hue, s * saturation, v * value))
        })
      case 'rgbtohsv':
        return mapWhole([take('in', 0)], channels, ([c], out) => out.set(rgbToHsv(c[0], c[1], c[2])))
      case 'hsvtorgb':
        return mapWhole([take('in', 0)], channels, ([c], out) => out.set(hsvToRgb(c[0], c[1], c[2])))
      case 'premult':
      case 'unpremult':
        return mapWhole([take('in', [0, 0, 0, 1])], 4, ([c], out) => {
          const factor = category === 'premult' ? c[3] : c[3] === 0 ? 1 : 1 / c[3]
          for (let k = 0; k < 3; k++) out[k] = c[k] * factor
          out[3] = c[3]
        })
      case 'normalize':
        return mapWhole([take('in', 0)], channels, ([c], out) => {
          const length = Math.hypot(...c) || 1
          for (let k = 0; k < channels; k++) out[k] = c[k] / length
        })
      case 'magnitude':
        return mapWhole([take('in', 0)], 1, ([c], out) => out.fill(Math.hypot(...c)))
      case 'dotproduct':
        return mapWhole([take('in1', [0, 0, 0]), take('in2', [0, 0, 0])], 1, ([a, b], out) => {
          out[0] = 0
          for (let k = 0; k < a.length; k++) out[0] += a[k] * (b[k] ?? 0)
        })
      case 'convert':
        return mapWhole([take('in', 0)], channels, ([c], out) => {
          for (let k = 0; k < channels; k++) out[k] = c.length === 1 && k < 3 ? c[0] : (c[k] ?? (k === 3 ? 1 : 0))
        })
      case 'combine2':
      case 'combine3':
      case 'combine4': {
        const parts = ['in1', 'in2', 'in3', 'in4'].map(name => optional(name)).filter(v => v !== null)
        return mapWhole(parts, channels, (given, out) => {
          let at = 0
          for (const part of given) for (const v of part) if (at < channels) out[at++] = v
        })
      }
      case 'separate2':
      case 'separate3':
      case 'separate4':
        return take('in', [0, 0, 0, 0])
      case 'extract': {
        const index = number('index', 0)
        return mapWhole([take('in', [0, 0, 0])], 1, ([c], out) => out.fill(c[index] ?? 0))
      }
      case 'swizzle': {
        const wanted = node.inputs.get('channels')?.value ?? ''
        return mapWhole([take('in', 0)], channels, ([c], out) => {
          for (let k = 0; k < channels; k++) out[k] = SWIZZLE[wanted[k]]?.(c) ?? 0
        })
      }
      case 'ifgreater':
      case 'ifgreatereq':
      case 'ifequal': {
        const holds = COMPARE[category]
        return mapWhole(
          [take('value1', [1]), take('value2', [0]), take('in1', 0), take('in2', 0)],
          channels,
          ([a, b, yes, no], out) => {
            const chosen = holds(a[0], b[0]) ? yes : no
            for (let k = 0; k < channels; k++) out[k] = chosen[k] ?? chosen[0]
          },
        )
      }
      case 'switch':
        return mapWhole(
          [take('which', [0]), ...Array.from({ length: 10 }, (_, i) => take(`in${i + 1}`, 0))],
          channels,
          (given, out) => {
            const chosen = given[1 + Math.min(9, Math.max(0, Math.floor(given[0][0])))]
            for (let k = 0; k < channels; k++) out[k] = chosen[k] ?? chosen[0]
          },
        )
      case 'ramplr':
      case 'ramptb':
      case 'splitlr':
      case 'splittb': {
        const isAcross = category.endsWith('lr')
        const [first, second] = isAcross ? ['valuel', 'valuer'] : ['valuet', 'valueb']
        const where = category.startsWith('split') ? take('center', [0.5]) : uniformOf([0.5])
        return mapWhole(
          [this.coordinates(node, places), take(first, 0), take(second, 0), where],
          channels,
          ([uv, a, b, center], out) => {
            // Ramps from the top run down, texture coordinates up.
            const t = isAcross ? uv[0] : 1 - uv[1]
            const share = category.startsWith('split') ? (t < center[0] ? 0 : 1) : Math.min(1, Math.max(0, t))
            for (let k = 0; k < channels; k++) out[k] = a[k] + (b[k] - a[k]) * share
          },
        )
      }
      case 'checkerboard': {
        const given = [
          this.coordinates(node, places),
          take('uvtiling', [8, 8]),
          take('uvoffset', [0, 0]),
          take('color1', 1),
          take('color2', 0),
        ]
        return mapWhole(given, channels, ([uv, tiling, offset, one, two], out) => {
          const cell = Math.floor(uv[0] * tiling[0] - offset[0]) + Math.floor(uv[1] * tiling[1] - offset[1])
          out.set((cell & 1) === 0 ? one : two)
        })
      }
      case 'noise2d':
      case 'cellnoise2d':
      case 'fractal2d': {
        const [octaves, lacunarity, diminish] = [number('octaves', 3), number('lacunarity', 2), number('diminish', 0.5)]
        const given = [this.coordinates(node, places), take('amplitude', 1), take('pivot', [0])]
        return mapWhole(given, channels, ([uv, amplitude, pivot], out) => {
          for (let k = 0; k < channels; k++) {
            const value =
              category === 'cellnoise2d'
                ? cellValue(Math.floor(uv[0]), Math.floor(uv[1]), 0)
                : category === 'noise2d'
                  ? gradientNoise(uv[0], uv[1], k)
                  : fractalNoise(uv[0], uv[1], k, Math.min(12, octaves), lacunarity, diminish)
            out[k] = value * (amplitude[k] ?? amplitude[0]) + (category === 'noise2d' ? pivot[0] : 0)
          }
        })
      }
      case 'normalmap': {
        // Flattened or steepened by its scale; still as a map holds it.
        const scale = take('scale', [1])
        return mapWhole([take('in', [0.5, 0.5, 1]), scale], 3, ([c, [sx, sy = sx]], out) =>
          encodeNormal((c[0] * 2 - 1) * sx, (c[1] * 2 - 1) * sy, c[2] * 2 - 1, out),
        )
      }
      case 'heighttonormal':
      case 'bump': {
        const name = category === 'bump' ? 'height' : 'in'
        const scale = number('scale', 1)
        const heightAt = (du: number, dv: number) => this.moved(node, name, places, du, dv)
        const sides = [heightAt(-SLOPE_STEP, 0), heightAt(SLOPE_STEP, 0), heightAt(0, -SLOPE_STEP), heightAt(0, SLOPE_STEP)]
        return mapWhole(sides, 3, ([left, right, below, above], out) =>
          encodeNormal(
            (-scale * (right[0] - left[0])) / (2 * SLOPE_STEP * HEIGHT_SPAN),
            (-scale * (above[0] - below[0])) / (2 * SLOPE_STEP * HEIGHT_SPAN),
            1,
            out,
          ),
        )
      }
      default:
        throw new NotBaked(category)
    }
  }

  /** An input at places a little aside. */
  private moved(node: MtlxNode, name: string, places: Places, du: number, dv: number): Values {
    const kept = this.memo
    this.memo = new Map()
    const aside = { u: places.u.map(u => u + du), v: places.v.map(v => v + dv) }
    const values = this.input(node.scope, node.inputs.get(name), aside) ?? uniformOf([0])
    this.memo = kept
    return values
  }

  private coordinates(node: MtlxNode, places: Places): Values {
    return this.input(node.scope, node.inputs.get('texcoord'), places) ?? placesOf(places)
  }

  private picture(node: MtlxNode, places: Places, channels: number): Values {
    const file = this.document.resolve(node.scope, node.inputs.get('file'))
    const image = file?.kind === 'value' ? this.findImage(file.text) : null
    if (!image) return this.input(node.scope, node.inputs.get('default'), places) ?? uniformOf(Array<number>(channels).fill(0))
    const space = file?.kind === 'value' ? file.colorSpace : null
    const isEncoded =
      channels >= 3 && (node.type.startsWith('color') || node.category === 'gltf_colorimage') && space === 'srgb_texture'
    const repeats = (name: string) => (this.document.resolve(node.scope, node.inputs.get(name)) as { text?: string } | null)?.text
    const clampU = ['clamp', 'constant'].includes(repeats('uaddressmode') ?? '')
    const clampV = ['clamp', 'constant'].includes(repeats('vaddressmode') ?? '')
    const tiling = this.input(node.scope, node.inputs.get('uvtiling'), places) ?? uniformOf([1, 1])
    const offset = this.input(node.scope, node.inputs.get('uvoffset'), places) ?? uniformOf([0, 0])
    return mapWhole([this.coordinates(node, places), tiling, offset], channels, ([uv, t, o], out) => {
      readImage(image, uv[0] * t[0] - o[0], uv[1] * t[1] - o[1], clampU, clampV, out)
      if (isEncoded) for (let k = 0; k < 3; k++) out[k] = decodeSrgb(out[k])
    })
  }
}

/** What a height of 1 is in texture widths, as the reference implementation has it for a scale of 1. */
const HEIGHT_SPAN = 16

const UNARY: Record<string, (a: number) => number> = {
  absval: Math.abs,
  sign: Math.sign,
  floor: Math.floor,
  ceil: Math.ceil,
  round: Math.round,
  fract: a => a - Math.floor(a),
  sin: Math.sin,
  cos: Math.cos,
  tan: Math.tan,
  asin: Math.asin,
  acos: Math.acos,
  sqrt: a => Math.sqrt(Math.max(0, a)),
  ln: a => Math.log(Math.max(a, 1e-12)),
  exp: Math.exp,
}

const BINARY: Record<string, { in1: number; in2: number; of: (a: number, b: number) => number }> = {
  add: { in1: 0, in2: 0, of: (a, b) => a + b },
  subtract: { in1: 0, in2: 0, of: (a, b) => a - b },
  multiply: { in1: 0, in2: 1, of: (a, b) => a * b },
  divide: { in1: 0, in2: 1, of: (a, b) => (b === 0 ? 0 : a / b) },
  modulo: { in1: 0, in2: 1, of: (a, b) => (b === 0 ? 0 : a - b * Math.floor(a / b)) },
  power: { in1: 0, in2: 1, of: (a, b) => Math.max(0, a) ** b },
  safepower: { in1: 0, in2: 1, of: (a, b) => Math.sign(a) * Math.abs(a) ** b },
  min: { in1: 0, in2: 0, of: Math.min },
  max: { in1: 0, in2: 0, of: Math.max },
  atan2: { in1: 0, in2: 1, of: Math.atan2 },
}

const COMPARE: Record<string, (a: number, b: number) => boolean> = {
  ifgreater: (a, b) => a > b,
  ifgreatereq: (a, b) => a >= b,
  ifequal: (a, b) => a === b,
}

const SWIZZLE: Record<string, (c: Float32Array) => number> = {
  r: c => c[0],
  x: c => c[0],
  g: c => c[1] ?? c[0],
  y: c => c[1] ?? c[0],
  b: c => c[2] ?? c[0],
  z: c => c[2] ?? c[0],
  a: c => c[3] ?? 1,
  w: c => c[3] ?? 1,
  '0': () => 0,
  '1': () => 1,
}

const OUTPUT_CHANNELS: Record<string, number> = { outr: 0, outx: 0, outg: 1, outy: 1, outb: 2, outz: 2, outa: 3, outw: 3 }

/** One channel of a node with several outputs; the whole of any other. */
function selectOutput(values: Values, node: MtlxNode, output: string | null): Values {
  const channel = output === null ? undefined : OUTPUT_CHANNELS[output]
  if (channel === undefined || !(node.category.startsWith('separate') || node.category === 'gltf_colorimage')) return values
  return mapWhole([values], 1, ([c], out) => out.fill(c[channel] ?? 0))
}

export const uniformOf = (numbers: readonly number[]): Values => ({
  channels: numbers.length,
  data: Float32Array.from(numbers),
  uniform: true,
})

function placesOf({ u, v }: Places): Values {
  const data = new Float32Array(u.length * 2)
  for (let i = 0; i < u.length; i++) {
    data[i * 2] = u[i]
    data[i * 2 + 1] = v[i]
  }
  return { channels: 2, data, uniform: false }
}

/** A function of single numbers, channel by channel; one that has a single channel goes with each. */
function map(given: readonly Values[], channels: number, of: (values: number[]) => number): Values {
  const width = Math.max(channels, 1)
  const list = Array<number>(given.length).fill(0)
  return mapWhole(given, width, (parts, out) => {
    for (let k = 0; k < width; k++) {
      for (let i = 0; i < parts.length; i++) list[i] = parts[i].length === 1 ? parts[i][0] : (parts[i][k] ?? 0)
      out[k] = of(list)
    }
  })
}

/** A function of all channels at a place. What is the same everywhere is worked out once. */
function mapWhole(given: readonly Values[], channels: number, of: (parts: Float32Array[], out: Float32Array) => void): Values {
  const uniform = given.every(v => v.uniform)
  const count = uniform ? 1 : Math.max(...given.filter(v => !v.uniform).map(v => v.data.length / v.channels))
  const data = new Float32Array(count * channels)
  // Copied place by place: a view of each would cost more than what is done with it.
  const parts = given.map(v => v.data.slice(0, v.channels))
  const out = new Float32Array(channels)
  for (let i = 0; i < count; i++) {
    for (let k = 0; k < given.length; k++) {
      const { uniform: same, data: from, channels: n } = given[k]
      if (!same) for (let c = 0, at = i * n; c < n; c++, at++) parts[k][c] = from[at]
    }
    of(parts, out)
    for (let c = 0, at = i * channels; c < channels; c++, at++) data[at] = out[c]
  }
  for (let i = 0; i < data.length; i++) if (!Number.isFinite(data[i])) data[i] = 0
  return { channels, data, uniform }
}

interface Placement {
  pivot: Values
  scale: Values
  rotateDeg: number
  offset: Values
}

function place2d(texcoord: Values, { pivot, scale, rotateDeg, offset }: Placement): Values {
  const angle = (rotateDeg * Math.PI) / 180
  const [cos, sin] = [Math.cos(angle), Math.sin(angle)]
  return mapWhole([texcoord, pivot, scale, offset], 2, ([uv, p, s, o], out) => {
    const x = (uv[0] - p[0]) / (s[0] || 1)
    const y = (uv[1] - p[1]) / (s[1] || 1)
    out[0] = x * cos + y * sin - o[0] + p[0]
    out[1] = -x * sin + y * cos - o[1] + p[1]
  })
}

/** Bilinear, repeating or held at the edge; v runs up from the lowest row. A picture of one channel is grey. */
function readImage(image: GraphImage, u: number, v: number, clampU: boolean, clampV: boolean, out: Float32Array): void {
  const { width, height, channels } = image
  const x = u * width - 0.5
  const y = (1 - v) * height - 0.5
  const [x0, y0] = [Math.floor(x), Math.floor(y)]
  const [fx, fy] = [x - x0, y - y0]
  const wrap = (i: number, n: number, clamp: boolean) => (clamp ? Math.min(n - 1, Math.max(0, i)) : ((i % n) + n) % n)
  const [xa, xb] = [wrap(x0, width, clampU), wrap(x0 + 1, width, clampU)]
  const [ya, yb] = [wrap(y0, height, clampV) * width, wrap(y0 + 1, height, clampV) * width]
  for (let k = 0; k < out.length; k++) {
    const c = channels < 3 ? (k === 3 && channels === 2 ? 1 : 0) : k
    if (c >= channels) {
      out[k] = 1
      continue
    }
    const read = (row: number, column: number) => image.at((row + column) * channels + c)
    const top = read(ya, xa) * (1 - fx) + read(ya, xb) * fx
    const bottom = read(yb, xa) * (1 - fx) + read(yb, xb) * fx
    out[k] = top * (1 - fy) + bottom * fy
  }
}

function encodeNormal(x: number, y: number, z: number, out: Float32Array): void {
  const length = Math.hypot(x, y, z) || 1
  out[0] = 0.5 + x / length / 2
  out[1] = 0.5 + y / length / 2
  out[2] = 0.5 + z / length / 2
}

/** 0..1, the same for the same whole numbers. */
const cellValue = (x: number, y: number, seed: number): number => hashCombine(hashCombine(seed + 1, x | 0), y | 0) / 2 ** 32

const fade = (t: number): number => t * t * t * (t * (t * 6 - 15) + 10)

/** About −1..1. Source: K. Perlin, "Improving Noise", SIGGRAPH 2002. */
function gradientNoise(x: number, y: number, seed: number): number {
  const [x0, y0] = [Math.floor(x), Math.floor(y)]
  const [fx, fy] = [x - x0, y - y0]
  const corner = (i: number, j: number) => {
    const turn = cellValue(x0 + i, y0 + j, seed + 17) * 2 * Math.PI
    return Math.cos(turn) * (fx - i) + Math.sin(turn) * (fy - j)
  }
  const [sx, sy] = [fade(fx), fade(fy)]
  const below = corner(0, 0) * (1 - sx) + corner(1, 0) * sx
  const above = corner(0, 1) * (1 - sx) + corner(1, 1) * sx
  return (below * (1 - sy) + above * sy) * Math.SQRT2
}

function fractalNoise(x: number, y: number, seed: number, octaves: number, lacunarity: number, diminish: number): number {
  let [sum, strength, scale] = [0, 1, 1]
  for (let i = 0; i < octaves; i++) {
    sum += gradientNoise(x * scale, y * scale, seed + i * 31) * strength
    strength *= diminish
    scale *= lacunarity
  }
  return sum
}
