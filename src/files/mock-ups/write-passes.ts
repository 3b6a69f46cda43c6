import { readFile } from 'node:fs/promises'
import { parseExr } from '#core/codecs/exr'
import { channelsOf, type ExrPart } from '#core/codecs/write-exr'
import { FileError } from '#core/findings/failure'
import { MASK_SETS, traceShotPasses } from '#core/mock-up/composing/shot-passes'
import { listRefs } from '#core/mock-up/materials/list-refs'
import { encodeExrParts } from '../writing/encode-exr'
import { openResources } from './open-resources'
import { type MockUpPictureRequest, sizesFor } from './render-mock-up'

/** A picture that is rendered, and what it was made of. */
export interface PassesRequest extends Omit<MockUpPictureRequest, 'longerPx'> {
  /** Its linear pixels, an OpenEXR file. */
  linearPath: string
  caption: string
}

/**
 * A rendering with what is where in it, as one OpenEXR file of several parts: the picture, base colour, normal, depth, and masks of things, items
 * and materials by name.
 * @throws FileError where the picture does not read, or its shot is gone
 */
export async function writePasses(
  { scene, shot: id, quality, seed, sources, linearPath, caption }: PassesRequest,
  onProgress: (share: number) => boolean = () => true,
): Promise<Uint8Array | null> {
  const shot = scene.shots[id]
  if (!shot) throw new FileError('notFound', 'The mock-up has no such shot any more.')
  const picture = parseExr(new Uint8Array(await readFile(linearPath)))
  const { width, height } = picture
  const { resources } = await openResources(sources, sizesFor(quality, sources))
  const passes = traceShotPasses(scene, shot, resources, { width, seed }, onProgress)
  if (!passes) return null
  const names = new Map(listRefs(scene).map(ref => [ref.code, sources[ref.inputKey]?.name]))
  const masks = MASK_SETS.flatMap((set): ExrPart[] => {
    const channels = [...passes.masks[set]].map(([name, mask]) => ({
      name: `${toLayer(set !== 'things' && names.get(name) ? `${name} ${names.get(name)}` : name)}.Y`,
      isFloat: false,
      at: (pixel: number) => mask[pixel] / 255,
    }))
    return channels.length > 0 ? [{ name: set, channels }] : []
  })
  return encodeExrParts(
    [
      { name: 'picture', channels: channelsOf(picture, ['R', 'G', 'B'], false) },
      { name: 'base colour', channels: channelsOf(passes.baseColor, ['R', 'G', 'B'], false) },
      { name: 'normal', channels: channelsOf(passes.normal, ['X', 'Y', 'Z'], false) },
      { name: 'depth', channels: channelsOf(passes.depth, ['Z'], true) },
      ...masks,
    ],
    width,
    height,
    `${caption}. Linear Rec.709; normals in the world, y up; depth in metres square to the film, 1e10 for nothing; masks are shares of a pixel.`,
  )
}

/** A dot would end the layer's name. */
const toLayer = (name: string): string =>
  name
    .normalize('NFKD')
    .replace(/[^A-Za-z0-9 _-]+/g, '')
    .trim()
    .replace(/ +/g, '_')
    .slice(0, LONGEST) || 'unnamed'
const LONGEST = 200
