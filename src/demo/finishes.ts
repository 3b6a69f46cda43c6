import type { Vec3 } from '#core/math/vec3'
import { TEXTURE_RECIPES } from './materials'
import type { Finish } from './model-file'
import { lch } from './texture-set'

/** How the parts of generated models look. */

/** The demo world's furniture and objects: metres, base at the origin, parts with names. */

export const recipe = (stem: string) => TEXTURE_RECIPES.find(r => r.stem === stem)

export const textured = (name: string, stem: string): Finish => ({ name, color: [1, 1, 1], roughness: 0.5, recipe: recipe(stem) })

export const flat = (name: string, color: Vec3, roughness: number, more: Partial<Finish> = {}): Finish => ({
  name,
  color,
  roughness,
  ...more,
})

export const OAK = textured('Oak, oiled', 'Oak_Plank_Natural')

export const WALNUT = textured('Walnut', 'Walnut_Board_Oiled')

export const BIRCH = textured('Birch plywood', 'Birch_Plywood_Face')

export const LINEN = textured('Linen, flax', 'Linen_Weave_Flax')

export const TEAL_WOOL = textured('Wool twill, teal', 'Wool_Twill_Deep_Teal')

export const BLACK_STEEL = flat('Powder-coated steel', [0.028, 0.029, 0.031], 0.45)

export const STEEL = flat('Stainless steel', [0.56, 0.55, 0.53], 0.28, { metalness: 1 })

export const BRASS = flat('Brass, satin', [0.86, 0.65, 0.33], 0.26, { metalness: 1 })

export const RED_ENAMEL = flat('Enamel, signal red', lch(0.48, 0.17, 28), 0.08)

export const CREAM_ENAMEL = flat('Enamel, cream', lch(0.9, 0.035, 92), 0.1)

export const BLUE_ENAMEL = flat('Enamel, harbour blue', lch(0.42, 0.075, 245), 0.08)

export const RUBBER = flat('Rubber', [0.02, 0.02, 0.02], 0.8)

export const PAPER = flat('Book covers', lch(0.55, 0.06, 40), 0.7)
