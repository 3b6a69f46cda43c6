import sharp from 'sharp'
import { writeHdr } from '#core/codecs/hdr'
import { createMaterial } from '#core/material/open-pbr'
import { writeMaterialX } from '#core/targets/materialx/write-materialx'
import { encodeExr } from '#files/writing/encode-exr'
import { createFileWriter } from './file-writer'
import { writeLightCurve } from './light-curve'
import { LUMINAIRE_RECIPES } from './luminaires'
import { encodeMapRecipe, MAP_RECIPES } from './map-pictures'
import { CONSTANT_RECIPES, TEXTURE_RECIPES } from './materials'
import { writeGlb } from './model-file'
import { MODEL_RECIPES } from './models'
import { PLANT_RECIPES } from './plants'
import { makeSky, SKY_RECIPES } from './skies'
import { makeMaps, type RawMap } from './texture-set'

/** Everything the demo world delivers, as small independent pieces of work. */
export interface DemoPiece {
  kind: 'texture' | 'constant' | 'model' | 'plant' | 'sky' | 'luminaire' | 'map'
  index: number
  /** Folder inside its supplier's delivery, and the stem of its files. */
  folder: string
  stem: string
}

const pieces = (kind: DemoPiece['kind'], recipes: readonly { folder: string; stem: string }[]): DemoPiece[] =>
  recipes.map(({ folder, stem }, index) => ({ kind, index, folder, stem }))

export const DEMO_PIECES: readonly DemoPiece[] = [
  ...pieces('texture', TEXTURE_RECIPES),
  ...pieces('constant', CONSTANT_RECIPES),
  ...pieces('model', MODEL_RECIPES),
  ...pieces('plant', PLANT_RECIPES),
  ...pieces('sky', SKY_RECIPES),
  ...pieces('luminaire', LUMINAIRE_RECIPES),
  ...pieces('map', MAP_RECIPES),
]

/** Real-world width where the recipe knows it, as a supplier would state it. */
export const statedWidthMm = (piece: DemoPiece): number | null =>
  piece.kind === 'texture' ? TEXTURE_RECIPES[piece.index].widthMm : piece.kind === 'map' ? MAP_RECIPES[piece.index].widthMm : null

export const encodeMap = (map: RawMap): Promise<Buffer> => {
  const raw = { width: map.width, height: map.height, channels: map.channels }
  return map.data instanceof Uint16Array
    ? sharp(map.data, { raw }).toColourspace('grey16').png({ compressionLevel: 3 }).toBuffer()
    : sharp(map.data, { raw }).png({ compressionLevel: 4 }).toBuffer()
}

const titleOf = (stem: string): string => stem.replaceAll('_', ' ')

/** Makes the files of one piece below `root` and returns their paths relative to it. Deterministic. */
export async function makePiece(piece: DemoPiece, root: string): Promise<string[]> {
  const { put, written } = createFileWriter(root)
  switch (piece.kind) {
    case 'texture': {
      const recipe = TEXTURE_RECIPES[piece.index]
      for (const map of makeMaps(recipe))
        await put(`${recipe.folder}/${recipe.stem}/${recipe.stem}_${map.role}_1k.png`, await encodeMap(map))
      return written
    }
    case 'constant': {
      const recipe = CONSTANT_RECIPES[piece.index]
      await put(`${recipe.folder}/${recipe.stem}.mtlx`, writeMaterialX(createMaterial(recipe.stem, recipe.parameters), new Map()))
      return written
    }
    case 'model': {
      const recipe = MODEL_RECIPES[piece.index]
      await put(`${recipe.folder}/${recipe.stem}.glb`, await writeGlb({ ...recipe, parts: recipe.build() }))
      if (recipe.light) {
        const { curve, watts } = recipe.light
        await put(`${recipe.folder}/${recipe.stem}.ies`, writeLightCurve({ name: titleOf(recipe.stem), curve, watts }))
      }
      return written
    }
    case 'plant': {
      const recipe = PLANT_RECIPES[piece.index]
      await put(`${recipe.folder}/${recipe.stem}.glb`, await writeGlb({ ...recipe, parts: await recipe.build() }))
      return written
    }
    case 'sky': {
      const recipe = SKY_RECIPES[piece.index]
      const map = makeSky(recipe)
      await put(`${recipe.folder}/${recipe.stem}_2k.${recipe.format}`, recipe.format === 'exr' ? encodeExr(map) : writeHdr(map))
      return written
    }
    case 'luminaire': {
      const { folder, stem, ...form } = LUMINAIRE_RECIPES[piece.index]
      await put(`${folder}/${stem}.ies`, writeLightCurve({ name: titleOf(stem), ...form }))
      return written
    }
    case 'map': {
      const recipe = MAP_RECIPES[piece.index]
      await put(`${recipe.folder}/${recipe.stem}.png`, await encodeMapRecipe(recipe))
      return written
    }
    default:
      return piece.kind satisfies never
  }
}
