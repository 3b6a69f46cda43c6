import type { OpenPbrParameters } from '#core/material/open-pbr'
import type { Vec3 } from '#core/math/vec3'
import { lch, mixColor, type Texel, type TextureRecipe } from './texture-set'
import { clamp01, ramp, random, tileCells, tileFbm, tileNoise } from './tile-noise'

/** The demo world's surfaces. Each recipe is a function of the place on one tile; lengths in millimetres. */

const SIZE = 1024

interface BoardLayout {
  /** Boards across the tile, and rows of staggered joints along it. */
  boards: number
  joints: number
  widthMm: number
}

/** Boards running along v, each with its own grain, tone and knots. */
function boards(seed: number, layout: BoardLayout, tones: [Vec3, Vec3], figure: number, gapMm: number, roughness: number) {
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
function terrazzo(seed: number, binder: Vec3, chips: Vec3[]) {
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

function brickwork(seed: number, bond: Bond, tones: Vec3[], mortar: Vec3, ruggedMm: number) {
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
function weave(
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

function plaster(seed: number, tone: Vec3, reliefMm: number, cells: number, roughness: number) {
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

function brushedMetal(seed: number, f0: Vec3, roughness: number, cellsAcross: number) {
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
function verdigris(seed: number) {
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

function glazedTile(seed: number, count: number, tones: Vec3[], jointMm: number, widthMm: number) {
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

function gravel(seed: number) {
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

const alternate = (i: number, j: number) => (i + j) % 2 === 0
const twill = (i: number, j: number) => (i + j) % 4 < 2
const herringbone = (i: number, j: number) => (Math.floor(i / 16) % 2 === 0 ? i + j : j - i + 64) % 4 < 2

const ODD = 'Oddmere Surfaces'

export const TEXTURE_RECIPES: readonly TextureRecipe[] = [
  {
    folder: `${ODD}/Timber`,
    stem: 'Oak_Plank_Natural',
    widthMm: 1200,
    sizePx: SIZE,
    texel: boards(11, { boards: 6, joints: 1, widthMm: 1200 }, [lch(0.5, 0.062, 66), lch(0.73, 0.066, 76)], 1.4, 2.2, 0.5),
  },
  {
    folder: `${ODD}/Timber`,
    stem: 'Walnut_Board_Oiled',
    widthMm: 900,
    sizePx: SIZE,
    texel: boards(12, { boards: 4, joints: 1, widthMm: 900 }, [lch(0.29, 0.042, 52), lch(0.47, 0.055, 60)], 1.8, 1.2, 0.42),
  },
  {
    folder: `${ODD}/Timber`,
    stem: 'Ash_Parquet_Block',
    widthMm: 800,
    sizePx: SIZE,
    texel: boards(13, { boards: 8, joints: 2, widthMm: 800 }, [lch(0.68, 0.04, 82), lch(0.83, 0.036, 86)], 1.1, 1, 0.38),
  },
  {
    folder: `${ODD}/Timber`,
    stem: 'Larch_Cladding_Weathered',
    widthMm: 1400,
    sizePx: SIZE,
    texel: boards(14, { boards: 10, joints: 1, widthMm: 1400 }, [lch(0.46, 0.012, 80), lch(0.66, 0.016, 85)], 1.3, 7, 0.75),
  },
  {
    folder: `${ODD}/Timber`,
    stem: 'Birch_Plywood_Face',
    widthMm: 1220,
    sizePx: SIZE,
    texel: boards(15, { boards: 2, joints: 1, widthMm: 1220 }, [lch(0.74, 0.044, 78), lch(0.86, 0.04, 84)], 2.6, 0, 0.46),
  },
  {
    folder: `${ODD}/Stone`,
    stem: 'Terrazzo_Harbour_Grey',
    widthMm: 600,
    sizePx: SIZE,
    texel: terrazzo(21, lch(0.72, 0.008, 90), [
      lch(0.4, 0.01, 260),
      lch(0.88, 0.01, 90),
      lch(0.6, 0.05, 60),
      lch(0.55, 0.01, 250),
    ]),
  },
  {
    folder: `${ODD}/Stone`,
    stem: 'Terrazzo_Moss_Rose',
    widthMm: 600,
    sizePx: SIZE,
    texel: terrazzo(22, lch(0.86, 0.015, 85), [
      lch(0.5, 0.06, 150),
      lch(0.66, 0.08, 25),
      lch(0.34, 0.02, 40),
      lch(0.78, 0.04, 60),
    ]),
  },
  {
    folder: `${ODD}/Masonry`,
    stem: 'Brick_Running_Bond_Red',
    widthMm: 900,
    sizePx: SIZE,
    texel: brickwork(
      31,
      { columns: 4, rows: 12, offset: 0.5, jointMm: 10, widthMm: 900 },
      [lch(0.47, 0.095, 38), lch(0.43, 0.085, 34), lch(0.52, 0.09, 45), lch(0.39, 0.06, 30)],
      [0.42, 0.39, 0.34],
      1.6,
    ),
  },
  {
    folder: `${ODD}/Masonry`,
    stem: 'Brick_Stack_Bond_Pale',
    widthMm: 900,
    sizePx: SIZE,
    texel: brickwork(
      32,
      { columns: 4, rows: 12, offset: 0, jointMm: 9, widthMm: 900 },
      [lch(0.78, 0.03, 82), lch(0.74, 0.035, 78), lch(0.81, 0.022, 88)],
      [0.55, 0.53, 0.49],
      1.1,
    ),
  },
  {
    folder: `${ODD}/Masonry`,
    stem: 'Brick_Long_Format_Charcoal',
    widthMm: 1000,
    sizePx: SIZE,
    texel: brickwork(
      33,
      { columns: 2, rows: 20, offset: 0.5, jointMm: 8, widthMm: 1000 },
      [lch(0.36, 0.01, 260), lch(0.32, 0.012, 40), lch(0.4, 0.014, 240)],
      [0.19, 0.185, 0.18],
      1.3,
    ),
  },
  {
    folder: `${ODD}/Plaster`,
    stem: 'Lime_Plaster_Chalk',
    widthMm: 2000,
    sizePx: SIZE,
    texel: plaster(41, lch(0.9, 0.012, 90), 1.6, 7, 0.86),
  },
  {
    folder: `${ODD}/Plaster`,
    stem: 'Clay_Plaster_Ochre',
    widthMm: 1600,
    sizePx: SIZE,
    texel: plaster(42, lch(0.68, 0.085, 72), 2.6, 12, 0.9),
  },
  {
    folder: `${ODD}/Textiles`,
    stem: 'Linen_Weave_Flax',
    widthMm: 120,
    sizePx: SIZE,
    texel: weave(51, 64, alternate, lch(0.76, 0.03, 84), lch(0.7, 0.034, 80), 0.5, 1.1),
  },
  {
    folder: `${ODD}/Textiles`,
    stem: 'Wool_Twill_Deep_Teal',
    widthMm: 100,
    sizePx: SIZE,
    texel: weave(52, 64, twill, lch(0.42, 0.062, 205), lch(0.34, 0.05, 215), 0.9, 1.2),
  },
  {
    folder: `${ODD}/Textiles`,
    stem: 'Herringbone_Cloth_Rust',
    widthMm: 150,
    sizePx: SIZE,
    texel: weave(53, 64, herringbone, lch(0.54, 0.12, 44), lch(0.7, 0.05, 70), 0.7, 1.5),
  },
  {
    folder: `${ODD}/Metals`,
    stem: 'Brushed_Steel_Fine',
    widthMm: 400,
    sizePx: SIZE,
    hasMetal: true,
    texel: brushedMetal(61, [0.56, 0.55, 0.53], 0.34, 256),
  },
  {
    folder: `${ODD}/Metals`,
    stem: 'Brass_Satin_Aged',
    widthMm: 400,
    sizePx: SIZE,
    hasMetal: true,
    texel: brushedMetal(62, [0.86, 0.65, 0.33], 0.28, 128),
  },
  { folder: `${ODD}/Metals`, stem: 'Copper_Verdigris_Sheet', widthMm: 1000, sizePx: SIZE, hasMetal: true, texel: verdigris(63) },
  {
    folder: `${ODD}/Ceramics`,
    stem: 'Glazed_Tile_Sea_Green',
    widthMm: 600,
    sizePx: SIZE,
    texel: glazedTile(71, 6, [lch(0.62, 0.07, 175), lch(0.58, 0.075, 182), lch(0.66, 0.06, 168)], 3, 600),
  },
  { folder: `${ODD}/Ground`, stem: 'Gravel_Lakeside', widthMm: 800, sizePx: SIZE, texel: gravel(81) },
]

/** Materials that need no picture: a definition in an open format is the whole delivery. */
export interface ConstantRecipe {
  folder: string
  stem: string
  parameters: Partial<OpenPbrParameters>
}

export const CONSTANT_RECIPES: readonly ConstantRecipe[] = [
  {
    folder: `${ODD}/Enamel`,
    stem: 'Enamel_Kettle_Red',
    parameters: { baseColor: lch(0.48, 0.17, 28), specularRoughness: 0.07, specularIor: 1.55 },
  },
  {
    folder: `${ODD}/Enamel`,
    stem: 'Enamel_Cream',
    parameters: { baseColor: lch(0.9, 0.035, 92), specularRoughness: 0.09, specularIor: 1.55 },
  },
  {
    folder: `${ODD}/Glass`,
    stem: 'Glass_Clear_Low_Iron',
    parameters: {
      transmissionWeight: 1,
      specularRoughness: 0.02,
      specularIor: 1.52,
      transmissionColor: [0.86, 0.94, 0.92],
      transmissionDepth: 0.05,
    },
  },
  {
    folder: `${ODD}/Glass`,
    stem: 'Glass_Frosted',
    parameters: {
      transmissionWeight: 1,
      specularRoughness: 0.42,
      specularIor: 1.52,
      transmissionColor: [0.9, 0.96, 0.95],
      transmissionDepth: 0.08,
    },
  },
  {
    folder: `${ODD}/Water`,
    stem: 'Water_Lake_Still',
    parameters: {
      transmissionWeight: 1,
      specularRoughness: 0.01,
      specularIor: 1.333,
      transmissionColor: [0.32, 0.62, 0.58],
      transmissionDepth: 0.06,
    },
  },
]
