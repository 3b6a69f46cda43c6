import type { Vec3 } from '#core/math/vec3'
import { lch, mixColor, type Texel } from './texture-set'
import { clamp01, ramp, random, tileCells, tileFbm, tileNoise } from './tile-noise'

/** The demo world's surfaces as functions of the place on one tile; lengths in millimetres. */

interface BoardLayout {
  /** Boards across the tile, and rows of staggered joints along it. */
  boards: number
  joints: number
  widthMm: number
}

/** Boards running along v, each with its own grain, tone and knots. */
export function boards(seed: number, layout: BoardLayout, tones: [Vec3, Vec3], figure: number, gapMm: number, roughness: number) {
  return (u: number, v: number): Texel => {
    const x = u * layout.boards
    const board = Math.floor(x)
    const across = x - board
    const shift = random(seed, board, 1)
    const along = (v * layout.joints + shift) % layout.joints
    const piece = Math.floor(along)
    const id = random(seed, board, piece, 2)
    const boardMm = layout.widthMm / layout.boards
    const pieceMm = layout.widthMm / layout.joints
    // Long, bent fibres: noise stretched sixteen to one, with a slow wander that bends the figure into arches.
    const wander = tileFbm(seed + board * 7, u, v, layout.boards, 3, 3) - 0.5
    const ring = Math.sin((across * figure + wander * 7 + id * 40 + tileNoise(seed + 9, u, v, layout.boards * 2, 2) * 4) * 6.283)
    const fibre = tileFbm(seed + 31 + board, u, v, layout.boards * 32, 8, 4, 0.6)
    const pore = ramp(0.66, 0.78, tileNoise(seed + 53, u, v, layout.boards * 90, 24))
    const tone = clamp01(0.32 + 0.2 * ring + 0.5 * (fibre - 0.5) + (id - 0.5) * 0.5)
    let color = mixColor(tones[0], tones[1], tone)
    color = mixColor(color, [color[0] * 0.5, color[1] * 0.45, color[2] * 0.4], pore * 0.6)
    const edge = Math.min(across, 1 - across) * boardMm
    const end = Math.min(along - piece, 1 - (along - piece)) * pieceMm
    const gap = gapMm > 0 ? ramp(gapMm, gapMm * 0.3, Math.min(edge, end)) : 0
    color = mixColor(color, [0.012, 0.009, 0.007], gap * 0.9)
    return {
      color,
      roughness: roughness + 0.14 * (0.5 - fibre) + pore * 0.15 + gap * 0.3,
      heightMm: 0.05 * ring * 0.3 + 0.12 * fibre - 0.14 * pore - 1.6 * gap + (id - 0.5) * 0.2,
    }
  }
}

/** Chips of stone in a binder, in three sizes. */
export function terrazzo(seed: number, binder: Vec3, chips: Vec3[]) {
  return (u: number, v: number): Texel => {
    let color = mixColor(binder, [binder[0] * 0.8, binder[1] * 0.8, binder[2] * 0.8], tileFbm(seed, u, v, 24, 24, 4))
    let heightMm = 0
    let rough = 0.3
    for (const [layer, cells] of [
      [0, 72],
      [1, 34],
      [2, 15],
    ]) {
      const bend = (tileNoise(seed + 5 + layer, u, v, cells * 3, cells * 3) - 0.5) * 0.5
      const c = tileCells(seed + layer * 11, u, v, cells, 0.9)
      const size = 0.2 + 0.32 * ((c.id * 7.31) % 1)
      const inside = ramp(0.05, 0, c.nearest + bend * 0.4 - size)
      if (inside <= 0 || (c.id * 13.7) % 1 < 0.25) continue
      const pick = chips[Math.floor(c.id * 997) % chips.length]
      const vein = tileFbm(seed + 71, u, v, 90, 90, 3) - 0.5
      color = mixColor(color, [pick[0] * (1 + vein), pick[1] * (1 + vein), pick[2] * (1 + vein)].map(clamp01) as Vec3, inside)
      heightMm += 0.015 * inside
      rough = rough + (0.22 - rough) * inside
    }
    return { color, roughness: rough, heightMm: heightMm + 0.02 * tileFbm(seed + 3, u, v, 60, 60, 3) }
  }
}

interface Bond {
  columns: number
  rows: number
  /** Shift of each odd row in bricks. */
  offset: number
  jointMm: number
  widthMm: number
}

export function brickwork(seed: number, bond: Bond, tones: Vec3[], mortar: Vec3, ruggedMm: number) {
  const brickW = bond.widthMm / bond.columns
  const brickH = bond.widthMm / bond.rows
  return (u: number, v: number): Texel => {
    const bend = (tileFbm(seed + 8, u, v, 48, 48, 3) - 0.5) * 0.035
    const y = (v + bend * 0.02) * bond.rows
    const row = ((Math.floor(y) % bond.rows) + bond.rows) % bond.rows
    const x = u * bond.columns + (row % 2) * bond.offset + bend
    const column = ((Math.floor(x) % bond.columns) + bond.columns) % bond.columns
    const fx = x - Math.floor(x)
    const fy = y - Math.floor(y)
    const id = random(seed, column, row)
    const edge = Math.min(Math.min(fx, 1 - fx) * brickW, Math.min(fy, 1 - fy) * brickH)
    const chip = (tileFbm(seed + 4, u, v, 64, 64, 4) - 0.5) * 5
    const face = ramp(bond.jointMm * 0.35, bond.jointMm * 0.9, edge + chip)
    const grain = tileFbm(seed + 17, u, v, 96, 96, 4, 0.65)
    const tone = tones[Math.floor(id * tones.length)]
    const burnt = ramp(0.6, 0.85, tileFbm(seed + 23, u + id, v, 10, 10, 3)) * 0.35
    const k = 0.72 + 0.5 * grain + (random(seed, column, row, 4) - 0.5) * 0.2
    const brick: Vec3 = [tone[0] * k * (1 - burnt), tone[1] * k * (1 - burnt), tone[2] * k * (1 - burnt * 0.6)]
    const sandy = 0.8 + 0.4 * tileFbm(seed + 29, u, v, 200, 200, 2)
    return {
      color: mixColor([mortar[0] * sandy, mortar[1] * sandy, mortar[2] * sandy], brick, face),
      roughness: 0.78 + 0.14 * grain - 0.05 * face,
      heightMm: 7 * face + ruggedMm * grain * (0.4 + 0.6 * face) + (id - 0.5) * 1.2 * face,
    }
  }
}

/** Crossing threads; `over` says which way the top thread of a crossing runs. */
export function weave(
  seed: number,
  threads: number,
  over: (i: number, j: number) => boolean,
  warp: Vec3,
  weft: Vec3,
  fuzz: number,
  threadMm: number,
) {
  return (u: number, v: number): Texel => {
    const sway = (tileFbm(seed, u, v, 20, 20, 3) - 0.5) * 0.35
    const x = u * threads + sway
    const y = v * threads + sway * 0.7
    const i = ((Math.floor(x) % threads) + threads) % threads
    const j = ((Math.floor(y) % threads) + threads) % threads
    const fx = x - Math.floor(x)
    const fy = y - Math.floor(y)
    const warpOver = over(i, j)
    const across = warpOver ? fx : fy
    const along = warpOver ? fy : fx
    const round = Math.sqrt(Math.max(0, 1 - (across * 2 - 1) ** 2 * 0.92))
    const arch = Math.sin(along * Math.PI)
    const twist = Math.sin((along * 2 + across * 2.5) * 6.283 + random(seed, i, j) * 2)
    const tone = 0.86 + 0.1 * twist * round + (random(seed, warpOver ? i : j, warpOver ? 1 : 2) - 0.5) * 0.22
    const base = warpOver ? warp : weft
    const nap = tileFbm(seed + 41, u, v, threads * 4, threads * 4, 2)
    const shade = tone * (0.62 + 0.38 * round) * (1 - fuzz * 0.3 + fuzz * 0.6 * nap)
    return {
      color: [base[0] * shade, base[1] * shade, base[2] * shade],
      roughness: 0.86 + 0.1 * nap,
      heightMm: threadMm * (0.7 * round * (0.45 + 0.55 * arch) + 0.06 * twist * round + fuzz * 0.3 * nap),
    }
  }
}

export function plaster(seed: number, tone: Vec3, reliefMm: number, cells: number, roughness: number) {
  return (u: number, v: number): Texel => {
    const cloud = tileFbm(seed, u, v, 4, 4, 5)
    // Strokes of a trowel: noise of noise, wider than high.
    const bend = tileFbm(seed + 2, u, v, 6, 6, 3)
    const stroke = tileFbm(seed + 3, (u + bend * 0.09) % 1, (v + bend * 0.05) % 1, cells, cells * 3, 4, 0.55)
    const pit = ramp(0.72, 0.86, tileNoise(seed + 6, u, v, 150, 150)) * ramp(0.5, 0.7, tileNoise(seed + 7, u, v, 20, 20))
    const k = 0.9 + 0.12 * cloud + 0.08 * (stroke - 0.5) - 0.12 * pit
    return {
      color: [clamp01(tone[0] * k), clamp01(tone[1] * k), clamp01(tone[2] * k)],
      roughness: roughness - 0.12 * (stroke - 0.5),
      heightMm: reliefMm * stroke - 0.5 * pit,
    }
  }
}

export function brushedMetal(seed: number, f0: Vec3, roughness: number, cellsAcross: number) {
  return (u: number, v: number): Texel => {
    const line = tileFbm(seed, u, v, 4, cellsAcross, 3, 0.7)
    const scratch = ramp(0.8, 0.92, tileNoise(seed + 5, u, v, 7, cellsAcross * 2))
    const stain = tileFbm(seed + 9, u, v, 3, 3, 4)
    const k = 0.94 + 0.06 * stain
    return {
      color: [f0[0] * k, f0[1] * k, f0[2] * k],
      roughness: roughness + 0.16 * (line - 0.5) + 0.1 * scratch + 0.06 * (stain - 0.5),
      metalness: 1,
      heightMm: 0.02 * line - 0.03 * scratch,
    }
  }
}

/** Copper under a patchy green crust: metal where bare, mineral where grown. */
export function verdigris(seed: number) {
  return (u: number, v: number): Texel => {
    const grown = ramp(0.4, 0.56, tileFbm(seed, u, v, 5, 5, 6, 0.58))
    const crust = tileFbm(seed + 4, u, v, 60, 60, 3)
    const copper: Vec3 = [0.9, 0.52, 0.36]
    const tarnish: Vec3 = [0.42, 0.2, 0.13]
    const bare = mixColor(copper, tarnish, tileFbm(seed + 8, u, v, 9, 9, 4))
    const green = mixColor(lch(0.7, 0.07, 172), lch(0.55, 0.06, 190), crust)
    return {
      color: mixColor(bare, green, grown),
      roughness: 0.32 + 0.5 * grown + 0.1 * crust,
      metalness: grown > 0.5 ? 0 : 1,
      heightMm: grown * (0.15 + 0.25 * crust),
    }
  }
}

export function glazedTile(seed: number, count: number, tones: Vec3[], jointMm: number, widthMm: number) {
  return (u: number, v: number): Texel => {
    const x = u * count
    const y = v * count
    const i = Math.floor(x)
    const j = Math.floor(y)
    const fx = x - i
    const fy = y - j
    const tileMm = widthMm / count
    const edge = Math.min(fx, 1 - fx, fy, 1 - fy) * tileMm
    const face = ramp(jointMm * 0.5, jointMm * 0.5 + 1.2, edge)
    const id = random(seed, i, j)
    const pool = tileFbm(seed + 2, u, v, count * 2, count * 2, 3)
    const rim = ramp(7, 0, edge) * 0.25
    const tone = tones[Math.floor(id * tones.length)]
    const k = 0.86 + 0.22 * pool + rim + (id - 0.5) * 0.1
    const crackle = tileCells(seed + 3, u, v, count * 7)
    const craze = ramp(0.03, 0, crackle.second - crackle.nearest) * 0.12
    const grout: Vec3 = [0.46, 0.44, 0.41]
    return {
      color: mixColor(
        grout,
        [clamp01(tone[0] * k), clamp01(tone[1] * k), clamp01(tone[2] * k)].map(c => c * (1 - craze)) as Vec3,
        face,
      ),
      roughness: face > 0.5 ? 0.08 + 0.06 * pool : 0.85,
      heightMm: 1.8 * face + 0.35 * pool * face + (id - 0.5) * 0.3 * face,
    }
  }
}

export function gravel(seed: number) {
  const tones = [lch(0.62, 0.02, 70), lch(0.5, 0.015, 250), lch(0.72, 0.025, 80), lch(0.42, 0.02, 50)]
  return (u: number, v: number): Texel => {
    let heightMm = 2 * tileFbm(seed, u, v, 30, 30, 3)
    let color: Vec3 = [0.09, 0.075, 0.06]
    for (const [layer, cells] of [
      [0, 46],
      [1, 30],
      [2, 22],
    ]) {
      const c = tileCells(seed + layer * 7, u, v, cells, 0.95)
      const dome = 1 - (c.nearest / 0.62) ** 2
      const top = dome > 0 ? Math.sqrt(dome) * (6 + layer * 3) + c.id * 4 : 0
      if (top <= heightMm) continue
      heightMm = top
      const tone = tones[Math.floor(c.id * 977) % tones.length]
      const k = 0.7 + 0.5 * tileFbm(seed + 3, u, v, 110, 110, 3)
      color = [tone[0] * k, tone[1] * k, tone[2] * k]
    }
    return { color, roughness: 0.82, heightMm }
  }
}

export const alternate = (i: number, j: number) => (i + j) % 2 === 0

export const twill = (i: number, j: number) => (i + j) % 4 < 2

export const herringbone = (i: number, j: number) => (Math.floor(i / 16) % 2 === 0 ? i + j : j - i + 64) % 4 < 2
