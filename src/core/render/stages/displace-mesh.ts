import type { Mesh } from '../../geometry/mesh'
import type { Camera } from '../film/camera'
import { type MipTexture, readTexture } from '../scene/texture'

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

/** What of a relief can be seen. */
export interface Eye {
  camera: Camera
  /** Of the picture. */
  heightPx: number
  /** Where that many triangles do not do, what is smallest is left out. */
  mostTriangles: number
}

/** An edge longer than this many pixels is split whatever the heights along it: what is smaller than a triangle would not be met. */
const LONGEST_PX = 8
/** Shorter edges show nothing more. */
const SHORTEST_PX = 1.5
/** An edge may pass this far, in pixels, over or under the heights along it. */
const TOLERANCE_PX = 0.3
/** Of what faces away only the shadow is seen. */
const AWAY_FACTOR = 4
const MOST_ALONG = 16
const MOST_PASSES = 24
/** What one try is coarser by than the one before, where there were too many triangles. */
const COARSER = 1.5
/** Places closer than this are one. */
const SAME_M = 1e-6

/**
 * The relief as geometry, so that it hides and shades itself: the mesh split where its heights ask for it, finer the nearer it is seen, and
 * sunk along its normals. Edges decide for both of their sides, so that no gaps open; where a mesh has seams, both sides of them move
 * together. Normals stay those of the smooth surface, over which a normal map still says what is finer.
 * @param mesh texture coordinates in metres
 * @returns a mesh of at most `mostTriangles`, or of as many as it had
 */
export function displaceMesh(mesh: Mesh, relief: Relief, eye: Eye): Mesh {
  if (!(relief.reliefM > 0)) return mesh
  for (let coarseness = 1; ; coarseness *= COARSER) {
    const split = new Splitter(mesh, relief, eye, coarseness).run()
    if (split) return split
  }
}

/** Where an edge is whole. */
const WHOLE = -1
/** Vertices of one mesh are fewer than that. */
const KEY = 2 ** 26

class Splitter {
  private readonly positions: number[]
  private readonly normals: number[]
  private readonly uvs: number[]
  /** By edge: the vertex in its middle, or that it stays whole. */
  private readonly middles = new Map<number, number>()
  /** Edges with a triangle on one side alone. */
  private readonly rims = new Set<number>()
  private readonly isRim: boolean[]
  private readonly texel = new Float64Array(4)

  constructor(
    private readonly mesh: Mesh,
    private readonly relief: Relief,
    private readonly eye: Eye,
    private readonly coarseness: number,
  ) {
    this.positions = Array.from(mesh.positions)
    this.normals = Array.from(mesh.normals)
    this.uvs = Array.from(mesh.uvs)
    this.isRim = new Array(mesh.positions.length / 3).fill(false)
    this.findRims()
  }

  private findRims(): void {
    const { indices } = this.mesh
    const sides = new Map<number, number>()
    for (let i = 0; i < indices.length; i += 3)
      for (let k = 0; k < 3; k++) {
        const key = keyOf(indices[i + k], indices[i + ((k + 1) % 3)])
        sides.set(key, (sides.get(key) ?? 0) + 1)
      }
    for (const [key, count] of sides) if (count === 1) this.markRim(key)
  }

  private markRim(key: number): void {
    this.rims.add(key)
    this.isRim[Math.floor(key / KEY)] = true
    this.isRim[key % KEY] = true
  }

  /** Null where it became too many triangles. */
  run(): Mesh | null {
    const most = Math.max(this.eye.mostTriangles, this.mesh.indices.length / 3)
    const done: number[] = []
    let open = Array.from(this.mesh.indices)
    for (let pass = 0; open.length > 0 && pass < MOST_PASSES; pass++) {
      const next: number[] = []
      for (let i = 0; i < open.length; i += 3) this.split(open[i], open[i + 1], open[i + 2], next, done)
      if ((next.length + done.length) / 3 > most) return null
      open = next
    }
    for (const index of open) done.push(index)
    return this.sink(done)
  }

  private split(a: number, b: number, c: number, open: number[], done: number[]): void {
    const [ab, bc, ca] = [this.middleOf(a, b), this.middleOf(b, c), this.middleOf(c, a)]
    const parts = (ab >= 0 ? 1 : 0) + (bc >= 0 ? 1 : 0) + (ca >= 0 ? 1 : 0)
    if (parts === 0) done.push(a, b, c)
    else if (parts === 3) open.push(a, ab, ca, ab, b, bc, ca, bc, c, ab, bc, ca)
    else if (parts === 1) {
      if (ab >= 0) open.push(a, ab, c, ab, b, c)
      else if (bc >= 0) open.push(b, bc, a, bc, c, a)
      else open.push(c, ca, b, ca, a, b)
    } else if (ab < 0) this.splitTwice(c, a, b, ca, bc, open)
    else if (bc < 0) this.splitTwice(a, b, c, ab, ca, open)
    else this.splitTwice(b, c, a, bc, ab, open)
  }

  /** A corner between two edges that are split, and the four-sided rest across its shorter diagonal. */
  private splitTwice(corner: number, next: number, last: number, onNext: number, onLast: number, open: number[]): void {
    open.push(corner, onNext, onLast)
    if (this.lengthOf(onNext, last) < this.lengthOf(next, onLast)) open.push(onNext, next, last, onNext, last, onLast)
    else open.push(onNext, next, onLast, next, last, onLast)
  }

  private middleOf(a: number, b: number): number {
    const key = keyOf(a, b)
    const known = this.middles.get(key)
    if (known !== undefined) return known
    const middle = this.isToSplit(a, b) ? this.addMiddle(a, b) : WHOLE
    this.middles.set(key, middle)
    if (middle >= 0 && this.rims.has(key)) {
      this.markRim(keyOf(a, middle))
      this.markRim(keyOf(middle, b))
    }
    return middle
  }

  private isToSplit(a: number, b: number): boolean {
    const { pixel, isAway } = this.seenAt(a, b)
    const detail = pixel * this.coarseness * (isAway ? AWAY_FACTOR : 1)
    const length = this.lengthOf(a, b)
    if (length <= detail * SHORTEST_PX) return false
    if (length > detail * LONGEST_PX) return true
    const count = Math.min(MOST_ALONG, Math.ceil(length / detail))
    const level = this.levelOf(detail)
    const [from, to] = [this.heightAt(a, a, 0, level), this.heightAt(b, b, 0, level)]
    for (let k = 1; k < count; k++) {
      const share = k / count
      const off = this.heightAt(a, b, share, level) - (from + (to - from) * share)
      if (Math.abs(off) * this.relief.reliefM > detail * TOLERANCE_PX) return true
    }
    return false
  }

  /** How large a pixel is in the middle of an edge, metres, and whether both of its ends face away. */
  private seenAt(a: number, b: number): { pixel: number; isAway: boolean } {
    const { camera, heightPx } = this.eye
    const { positions: p, normals: n } = this
    let depth = 0
    let [towardsA, towardsB] = [0, 0]
    for (let c = 0; c < 3; c++) {
      const middle = (p[a * 3 + c] + p[b * 3 + c]) / 2 - camera.position[c]
      depth += middle * camera.forward[c]
      towardsA -= middle * n[a * 3 + c]
      towardsB -= middle * n[b * 3 + c]
    }
    return {
      pixel: (2 * camera.tanHalfHeight * Math.max(depth, 1e-3)) / heightPx,
      isAway: towardsA < 0 && towardsB < 0,
    }
  }

  /** The mip level whose texels are as large as a length. */
  private levelOf(length: number): number {
    const { tileSizeM, heights } = this.relief
    return Math.max(0, Math.log2((length * heights.levels[0].width) / tileSizeM[0]))
  }

  /** 0..1, at a share of the way from one vertex to another. */
  private heightAt(a: number, b: number, share: number, level: number): number {
    const { relief, uvs, texel } = this
    const u = uvs[a * 2] + (uvs[b * 2] - uvs[a * 2]) * share
    const v = uvs[a * 2 + 1] + (uvs[b * 2 + 1] - uvs[a * 2 + 1]) * share
    readTexture(relief.heights, u / relief.tileSizeM[0], v / relief.tileSizeM[1], level, texel)
    return texel[relief.channel]
  }

  private lengthOf(a: number, b: number): number {
    const { positions: p } = this
    return Math.hypot(p[a * 3] - p[b * 3], p[a * 3 + 1] - p[b * 3 + 1], p[a * 3 + 2] - p[b * 3 + 2])
  }

  private addMiddle(a: number, b: number): number {
    const { positions: p, normals: n, uvs } = this
    const middle = p.length / 3
    for (let c = 0; c < 3; c++) p.push((p[a * 3 + c] + p[b * 3 + c]) / 2)
    const [x, y, z] = [0, 1, 2].map(c => n[a * 3 + c] + n[b * 3 + c])
    const length = Math.hypot(x, y, z) || 1
    n.push(x / length, y / length, z / length)
    for (let c = 0; c < 2; c++) uvs.push((uvs[a * 2 + c] + uvs[b * 2 + c]) / 2)
    this.isRim.push(false)
    return middle
  }

  private sink(indices: readonly number[]): Mesh {
    const { positions: p, normals: n, relief } = this
    const moves = new Float64Array(p.length)
    for (let i = 0; i < p.length / 3; i++) {
      const depth = (this.heightAt(i, i, 0, this.levelOf(this.seenAt(i, i).pixel * this.coarseness)) - 1) * relief.reliefM
      for (let c = 0; c < 3; c++) moves[i * 3 + c] = n[i * 3 + c] * depth
    }
    this.moveTogether(moves)
    return {
      positions: Float32Array.from(p, (v, i) => v + moves[i]),
      normals: Float32Array.from(n),
      uvs: Float32Array.from(this.uvs),
      indices: Uint32Array.from(indices),
    }
  }

  /** Where several vertices of a rim are at one place, each moves by the mean of them all. */
  private moveTogether(moves: Float64Array): void {
    const { positions: p, isRim } = this
    const places = new Map<string, number[]>()
    for (let i = 0; i < isRim.length; i++) {
      if (!isRim[i]) continue
      const place = [0, 1, 2].map(c => Math.round(p[i * 3 + c] / SAME_M)).join()
      const there = places.get(place)
      if (there) there.push(i)
      else places.set(place, [i])
    }
    for (const there of places.values()) {
      if (there.length < 2) continue
      for (let c = 0; c < 3; c++) {
        const mean = there.reduce((sum, i) => sum + moves[i * 3 + c], 0) / there.length
        for (const i of there) moves[i * 3 + c] = mean
      }
    }
  }
}

const keyOf = (a: number, b: number): number => (a < b ? a * KEY + b : b * KEY + a)
