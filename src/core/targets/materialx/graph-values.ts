import type { MtlxNode } from './document'

/** Values over some places: `channels` numbers a place, one after the other, or once where it is the same everywhere. */
export interface Values {
  channels: number
  data: Float32Array
  uniform: boolean
}

/** Texture coordinates of the places that are asked for. */
export interface Places {
  u: Float32Array
  v: Float32Array
}

const OUTPUT_CHANNELS: Record<string, number> = { outr: 0, outx: 0, outg: 1, outy: 1, outb: 2, outz: 2, outa: 3, outw: 3 }

/** One channel of a node with several outputs; the whole of any other. */
export function selectOutput(values: Values, node: MtlxNode, output: string | null): Values {
  const channel = output === null ? undefined : OUTPUT_CHANNELS[output]
  if (channel === undefined || !(node.category.startsWith('separate') || node.category === 'gltf_colorimage')) return values
  return mapWhole([values], 1, ([c], out) => out.fill(c[channel] ?? 0))
}

export const uniformOf = (numbers: readonly number[]): Values => ({
  channels: numbers.length,
  data: Float32Array.from(numbers),
  uniform: true,
})

export function placesOf({ u, v }: Places): Values {
  const data = new Float32Array(u.length * 2)
  for (let i = 0; i < u.length; i++) {
    data[i * 2] = u[i]
    data[i * 2 + 1] = v[i]
  }
  return { channels: 2, data, uniform: false }
}

/** A function of single numbers, channel by channel; one that has a single channel goes with each. */
export function map(given: readonly Values[], channels: number, of: (values: number[]) => number): Values {
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
export function mapWhole(
  given: readonly Values[],
  channels: number,
  of: (parts: Float32Array[], out: Float32Array) => void,
): Values {
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

export function place2d(texcoord: Values, { pivot, scale, rotateDeg, offset }: Placement): Values {
  const angle = (rotateDeg * Math.PI) / 180
  const [cos, sin] = [Math.cos(angle), Math.sin(angle)]
  return mapWhole([texcoord, pivot, scale, offset], 2, ([uv, p, s, o], out) => {
    const x = (uv[0] - p[0]) / (s[0] || 1)
    const y = (uv[1] - p[1]) / (s[1] || 1)
    out[0] = x * cos + y * sin - o[0] + p[0]
    out[1] = -x * sin + y * cos - o[1] + p[1]
  })
}
