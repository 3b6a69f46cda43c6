import type { OpenPbrParameters } from '#core/material/open-pbr'
import {
  alternate,
  boards,
  brickwork,
  brushedMetal,
  glazedTile,
  gravel,
  herringbone,
  plaster,
  terrazzo,
  twill,
  verdigris,
  weave,
} from './surface-textures'
import { lch, type TextureRecipe } from './texture-set'

/** What the demo world's material supplier delivers. */

/** The demo world's surfaces. Each recipe is a function of the place on one tile; lengths in millimetres. */

const SIZE = 1024

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
  {
    folder: `${ODD}/Glass`,
    stem: 'Glass_Lead_Crystal',
    parameters: {
      transmissionWeight: 1,
      specularRoughness: 0,
      specularIor: 1.62,
      transmissionColor: [0.97, 0.98, 0.97],
      transmissionDepth: 0.1,
      transmissionDispersionScale: 1,
      transmissionDispersionAbbeNumber: 30,
    },
  },
  {
    folder: `${ODD}/Stone`,
    stem: 'Stone_Onyx_Honey',
    parameters: {
      baseColor: lch(0.8, 0.08, 78),
      specularRoughness: 0.12,
      subsurfaceWeight: 0.85,
      subsurfaceColor: lch(0.86, 0.09, 80),
      subsurfaceRadius: 0.003,
      subsurfaceRadiusScale: [1, 0.8, 0.55],
    },
  },
]
