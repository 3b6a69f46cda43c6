import { join } from 'node:path'
import { createFileWriter } from './file-writer'
import { encodeMap } from './make-file'
import { TEXTURE_RECIPES } from './materials'
import { makeMaps, type RawMap } from './texture-set'
import { makeTruth } from './truth/make-truth'

const FAULTY_PX = 512
/** Of the faults that are planted one by one. */
const SEED = 2026

/**
 * A supplier's delivery as they come: sound sets among flipped normals, gloss sold as roughness, files that broke on the way, and one
 * of every fault that Intake knows.
 */
export async function makeFaultyDelivery(root: string): Promise<string[]> {
  const { put, written } = createFileWriter(root)
  const mapsOf = (stem: string): RawMap[] => {
    const recipe = TEXTURE_RECIPES.find(r => r.stem === stem)!
    return makeMaps({ ...recipe, sizePx: FAULTY_PX })
  }
  const putSet = async (folder: string, stem: string, maps: readonly RawMap[]) => {
    for (const map of maps) await put(`${folder}/${stem}_${map.role}.png`, await encodeMap(map))
  }
  const delivery = 'Spring delivery'
  await putSet(`${delivery}/Walls/Lime_Render_Pale`, 'Lime_Render_Pale', mapsOf('Lime_Plaster_Chalk'))
  const twill = mapsOf('Wool_Twill_Deep_Teal')
  await putSet(`${delivery}/Fabric/Wool_Twill_Slate`, 'Wool_Twill_Slate', twill.map(flipGreen))
  const oak = mapsOf('Oak_Plank_Natural')
  await putSet(
    `${delivery}/Floors/Oak_Plank_Smoked`,
    'Oak_Plank_Smoked',
    oak.map(m => (m.role === 'basecolor' ? darken(m) : m.role === 'roughness' ? asGloss(m) : m)),
  )
  const brick = await encodeMap(mapsOf('Brick_Stack_Bond_Pale')[0])
  await put(`${delivery}/Walls/Brick_Ivory/Brick_Ivory_basecolor.png`, brick.subarray(0, Math.floor(brick.length * 0.6)))
  await put(`${delivery}/Walls/Brick_Ivory/Brick_Ivory_roughness.png`, await encodeMap(mapsOf('Brick_Stack_Bond_Pale')[2]))
  await put(`${delivery}/Floors/Slate_Tile_basecolor.png`, '')
  await put(`${delivery}/Skies/Harbour_Evening.hdr`, await encodeMap(oak[0]))
  const more = await makeTruth(join(root, delivery), SEED, { times: 1, materials: 2, models: 1, skies: 1, mapPx: 256 })
  await put(`${delivery}/read me first.txt`, 'Normal maps are for the other convention. Sizes are in the price list.\n')
  return [...written, ...more.written.map(path => `${delivery}/${path}`)]
}

const flipGreen = (map: RawMap): RawMap => {
  if (map.role !== 'normal') return map
  const data = Uint8Array.from(map.data)
  for (let i = 1; i < data.length; i += 3) data[i] = 255 - data[i]
  return { ...map, data }
}

/** As one buyer's warehouse labels it: the word is roughness, the values are gloss. */
const asGloss = (map: RawMap): RawMap => ({ ...map, data: Uint8Array.from(map.data, v => Math.round((255 - v) * 0.5)) })

const darken = (map: RawMap): RawMap => ({ ...map, data: Uint8Array.from(map.data, v => Math.round(v * 0.55)) })
