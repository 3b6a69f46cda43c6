import { hsvToRgb, rgbToHsv } from '../../color/hsv'
import { decodeSrgb } from '../../color/srgb'
import { FileError } from '../../findings/failure'
import { type MtlxDocument, type MtlxInput, type MtlxNode, type MtlxSource, parseNumbers } from './document'
import { BINARY, COMPARE, SWIZZLE, UNARY } from './graph-functions'
import { encodeNormal, type GraphImage, readImage } from './graph-images'
import { cellValue, fractalNoise, gradientNoise } from './graph-noise'
import { map, mapWhole, type Places, place2d, placesOf, selectOutput, uniformOf, type Values } from './graph-values'

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
