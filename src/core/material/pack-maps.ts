import { fullScale, type Image } from '../image/image'

/** What the red, green and blue of a packed map hold, as glTF 2.0 has it. */
export const PACKED_ROLES = ['ambientOcclusion', 'roughness', 'metalness'] as const
export type PackedRole = (typeof PACKED_ROLES)[number]

/** What a map that is not there says: nothing is in shade, nothing is metal, everything is dull. */
const ABSENT: Record<PackedRole, number> = { ambientOcclusion: 1, roughness: 1, metalness: 0 }

/**
 * Occlusion, roughness and metalness in one picture of three channels, as deep as the deepest of them.
 * @throws RangeError when they differ in size, or there are none
 */
export function packMaps(maps: Partial<Record<PackedRole, Image>>): Image {
  const given = PACKED_ROLES.flatMap(role => maps[role] ?? [])
  const [first] = given
  if (!first) throw new RangeError('maps: none to pack')
  const { width, height } = first
  for (const image of given)
    if (image.width !== width || image.height !== height)
      throw new RangeError(`maps: ${image.width} x ${image.height} beside ${width} x ${height}`)
  const isDeep = given.some(image => !(image.data instanceof Uint8Array))
  const count = width * height
  const full = isDeep ? 65535 : 255
  const data = isDeep ? new Uint16Array(count * 3) : new Uint8Array(count * 3)
  for (const [channel, role] of PACKED_ROLES.entries()) {
    const image = maps[role]
    const scale = image ? full / fullScale(image.data) : 0
    for (let i = 0; i < count; i++)
      data[i * 3 + channel] = image ? Math.round(image.data[i * image.channels] * scale) : ABSENT[role] * full
  }
  return { width, height, channels: 3, data }
}

/** The channels of a packed map as maps of their own. */
export function unpackMaps({ width, height, channels, data }: Image): { role: PackedRole; image: Image }[] {
  return PACKED_ROLES.flatMap((role, channel) => {
    if (channel >= channels) return []
    const count = width * height
    const own = data instanceof Uint16Array ? new Uint16Array(count) : new Uint8Array(count)
    for (let i = 0; i < count; i++) own[i] = data[i * channels + channel]
    return [{ role, image: { width, height, channels: 1, data: own } }]
  })
}
