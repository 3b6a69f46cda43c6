import type { Mesh } from '../../geometry/mesh'
import type { Camera } from '../film/camera'
import { EdgeTable } from './edge-table'
import { type Heights, type Relief, ReliefHeights } from './relief-heights'

/** What of a relief can be seen. */
export interface Eye {
  camera: Camera
  /** Of the picture. */
  heightPx: number
  /** Where that many do not do, all of it stays coarser. */
  mostTriangles: number
}

/** An edge longer than this many pixels is split whatever the heights along it: what is smaller than a triangle would not be met. */
const LONGEST_PX = 8
/** Shorter edges show nothing more. */
const SHORTEST_PX = 3
/** An edge may pass this far, in pixels, over or under the heights along it. */
const TOLERANCE_PX = 0.4
/** Of what faces away only the shadow is seen. */
const AWAY_FACTOR = 4
const MOST_ALONG = 16
const MOST_PASSES = 24
/** Of the radius of a rounded edge. */
const SHARPNESS_SHARE = 0.7
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
  return relief.reliefM > 0 ? new Splitter(mesh, relief, eye).run() : mesh
}

/** Where an edge is whole. */
const WHOLE = -1
class Splitter {
  private readonly positions: number[]
  private readonly normals: number[]
  private readonly uvs: number[]
  /** By edge: the vertex in its middle, or that it stays whole. */
  private readonly middles = new EdgeTable()
  /** Edges, and on how many of their sides there is a triangle: on rims on one alone. */
  private readonly sides = new EdgeTable()
  private readonly isRim: boolean[]
  private readonly heights: ReliefHeights

  constructor(
    private readonly mesh: Mesh,
    private readonly relief: Relief,
    private readonly eye: Eye,
  ) {
    this.positions = Array.from(mesh.positions)
    this.normals = Array.from(mesh.normals)
    this.uvs = Array.from(mesh.uvs)
    this.isRim = new Array(mesh.positions.length / 3).fill(false)
    this.heights = new ReliefHeights(relief)
    this.findRims()
  }

  private findRims(): void {
    const { indices } = this.mesh
    for (let i = 0; i < indices.length; i += 3)
      for (let k = 0; k < 3; k++) {
        const [a, b] = [indices[i + k], indices[i + ((k + 1) % 3)]]
        this.sides.set(a, b, (this.sides.get(a, b) ?? 0) + 1)
      }
    for (const { a, b, value } of this.sides.entries()) if (value === 1) this.isRim[a] = this.isRim[b] = true
  }

  /** Edge by edge in passes, so that all of it has become as fine when there are enough triangles. */
  run(): Mesh {
    const done: number[] = []
    let open = Array.from(this.mesh.indices)
    for (let pass = 0; open.length > 0 && pass < MOST_PASSES; pass++) {
      const next: number[] = []
      const before = { done: done.length, vertices: this.isRim.length }
      for (let i = 0; i < open.length; i += 3) this.split(open[i], open[i + 1], open[i + 2], next, done)
      if ((next.length + done.length) / 3 > this.eye.mostTriangles) {
        done.length = before.done
        this.forgetFrom(before.vertices)
        break
      }
      open = next
    }
    for (const index of open) done.push(index)
    return this.sink(done)
  }

  private forgetFrom(vertices: number): void {
    this.positions.length = this.normals.length = vertices * 3
    this.uvs.length = vertices * 2
    this.isRim.length = vertices
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
    const known = this.middles.get(a, b)
    if (known !== undefined) return known
    const middle = this.isToSplit(a, b) ? this.addMiddle(a, b) : WHOLE
    this.middles.set(a, b, middle)
    if (middle >= 0 && this.sides.get(a, b) === 1) {
      this.sides.set(a, middle, 1)
      this.sides.set(middle, b, 1)
      this.isRim[middle] = true
    }
    return middle
  }

  private isToSplit(a: number, b: number): boolean {
    const detail = this.detailAt(a, b)
    const length = this.lengthOf(a, b)
    if (length <= detail * SHORTEST_PX) return false
    if (length > detail * LONGEST_PX) return true
    const count = Math.min(MOST_ALONG, Math.ceil(length / detail))
    const heights = this.heights.inTexelsOf(detail)
    const [from, to] = [this.heightAt(heights, a, a, 0), this.heightAt(heights, b, b, 0)]
    const most = (detail * TOLERANCE_PX) / this.relief.reliefM
    for (let k = 1; k < count; k++) {
      const share = k / count
      if (Math.abs(this.heightAt(heights, a, b, share) - (from + (to - from) * share)) > most) return true
    }
    return false
  }

  /** What counts in the middle of an edge, metres: a pixel, and more where both of its ends face away. */
  private detailAt(a: number, b: number): number {
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
    const pixel = (2 * camera.tanHalfHeight * Math.max(depth, 1e-3)) / heightPx
    return towardsA < 0 && towardsB < 0 ? pixel * AWAY_FACTOR : pixel
  }

  /** 0..1, at a share of the way from one vertex to another. */
  private heightAt(heights: Heights, a: number, b: number, share: number): number {
    const { uvs } = this
    const [tileU, tileV] = this.relief.tileSizeM
    const u = uvs[a * 2] + (uvs[b * 2] - uvs[a * 2]) * share
    const v = uvs[a * 2 + 1] + (uvs[b * 2 + 1] - uvs[a * 2 + 1]) * share
    return heights.at(u / tileU, v / tileV)
  }

  private lengthOf(a: number, b: number): number {
    const { positions: p } = this
    const x = p[a * 3] - p[b * 3]
    const y = p[a * 3 + 1] - p[b * 3 + 1]
    const z = p[a * 3 + 2] - p[b * 3 + 2]
    return Math.sqrt(x * x + y * y + z * z)
  }

  private addMiddle(a: number, b: number): number {
    const { positions: p, normals: n, uvs } = this
    const middle = p.length / 3
    for (let c = 0; c < 3; c++) p.push((p[a * 3 + c] + p[b * 3 + c]) / 2)
    const x = n[a * 3] + n[b * 3]
    const y = n[a * 3 + 1] + n[b * 3 + 1]
    const z = n[a * 3 + 2] + n[b * 3 + 2]
    const length = Math.sqrt(x * x + y * y + z * z) || 1
    n.push(x / length, y / length, z / length)
    for (let c = 0; c < 2; c++) uvs.push((uvs[a * 2 + c] + uvs[b * 2 + c]) / 2)
    this.isRim.push(false)
    return middle
  }

  private sink(indices: readonly number[]): Mesh {
    const { positions: p, normals: n, relief } = this
    const moves = new Float64Array(p.length)
    const deepest = this.deepestBySharpness(indices)
    for (let i = 0; i < p.length / 3; i++) {
      const height = this.heightAt(this.heights.inTexelsOf(this.detailAt(i, i)), i, i, 0)
      const depth = Math.min((1 - height) * relief.reliefM, deepest[i])
      for (let c = 0; c < 3; c++) moves[i * 3 + c] = -n[i * 3 + c] * depth
    }
    this.moveTogether(moves)
    return {
      positions: Float32Array.from(p, (v, i) => v + moves[i]),
      normals: Float32Array.from(n),
      uvs: Float32Array.from(this.uvs),
      indices: Uint32Array.from(indices),
    }
  }

  /** For each vertex, metres: past the centre that a rounded edge bends about, a surface would come out on the other side of itself. */
  private deepestBySharpness(indices: readonly number[]): Float64Array {
    const { positions: p, normals: n } = this
    const [turns, weights] = [new Float64Array(p.length / 3), new Float64Array(p.length / 3)]
    for (let i = 0; i < indices.length; i += 3)
      for (let k = 0; k < 3; k++) {
        const [a, b] = [indices[i + k], indices[i + ((k + 1) % 3)]]
        let [turned, length] = [0, 0]
        for (let c = 0; c < 3; c++) {
          const step = p[b * 3 + c] - p[a * 3 + c]
          turned += (n[b * 3 + c] - n[a * 3 + c]) * step
          length += step * step
        }
        if (!(turned > 0)) continue
        // What turns most counts most: neither a hair's breadth of an edge, nor one along which nothing bends.
        for (const end of [a, b]) {
          turns[end] += turned * turned
          weights[end] += turned * length
        }
      }
    return turns.map((turn, i) => (turn > 0 ? (SHARPNESS_SHARE * weights[i]) / turn : Infinity))
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
