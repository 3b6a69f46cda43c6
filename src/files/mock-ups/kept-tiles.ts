import { readFile, rename, writeFile } from 'node:fs/promises'
import { deserialize, serialize } from 'node:v8'
import type { Tile } from '#core/render/film/tile'
import { RENDERER_REVISION } from '#core/render/pictures/preview'

/** Writes down how far a picture has come, in place of what was written before; broken off meanwhile, that stands. */
export async function keepTiles(path: string, tiles: readonly Tile[]): Promise<void> {
  await writeFile(`${path}.new`, serialize({ revision: RENDERER_REVISION, tiles }))
  await rename(`${path}.new`, path)
}

/**
 * How far a picture had come.
 * @param planned its tiles before anything is traced
 * @returns null where nothing was kept, or not of this picture by this renderer
 */
export async function readKeptTiles(path: string, planned: readonly Tile[]): Promise<Tile[] | null> {
  let kept: { revision?: unknown; tiles?: Tile[] }
  try {
    kept = deserialize(await readFile(path))
  } catch {
    return null
  }
  const isOfThis = (tile: Tile, k: number) =>
    (['x0', 'y0', 'width', 'height'] as const).every(key => tile[key] === planned[k][key]) &&
    tile.halves.every((half, h) => half.sums.length === planned[k].halves[h].sums.length)
  return kept.revision === RENDERER_REVISION && kept.tiles?.length === planned.length && kept.tiles.every(isOfThis)
    ? kept.tiles
    : null
}
