import type { Material, Object3D, PerspectiveCamera, Texture } from 'three'
import type { FileType } from '#core/codecs/sniff'
import type { UsdLight } from '#core/targets/usd/usd-light'

/** Interchange models, each by the loader that three has for it. */
export const SCENE_TYPES = ['fbx', 'dae', 'ply', 'stl', 'usda', 'usdc', 'usdz'] as const satisfies readonly FileType[]
export type SceneType = (typeof SCENE_TYPES)[number]

export const isSceneType = (type: FileType): type is SceneType => (SCENE_TYPES as readonly FileType[]).includes(type)

export interface LoadedScene {
  /** In metres, y up, as far as the file says what it is in. */
  scene: Object3D
  /** Bytes of textures that lie in the file itself, by the address that its textures have. */
  embedded: ReadonlyMap<string, Blob>
}

/** Where the picture of a texture lies: an address as the file has it, or one of `embedded`. */
export const addressOf = (texture: Texture | null | undefined): string | null => {
  const address: unknown = texture?.userData.address ?? (texture?.image as { address?: unknown } | null)?.address
  return typeof address === 'string' && address !== '' ? address : null
}

/** Where in an OpenUSD stage a material stands; its loader makes one anew for every mesh that wears it. Null of other forms. */
export const stagePathOf = ({ userData }: Material): string | null =>
  typeof userData.stagePath === 'string' ? userData.stagePath : null

/** What a light of an OpenUSD stage gives; null of other forms, whose figures have no unit. */
export const usdLightOf = ({ userData }: Object3D): UsdLight | null => (userData.usdLight as UsdLight | undefined) ?? null

/** A view of an OpenUSD stage. Other forms have cameras that nobody put there: those of the program that wrote them. */
export const isStageCamera = (object: Object3D): object is PerspectiveCamera =>
  (object as PerspectiveCamera).isPerspectiveCamera && object.userData.usdProjection === 'perspective'

/** Text of a model: UTF-8, or UTF-16 where it says so by its first bytes. */
export function decodeText(bytes: Uint8Array): string {
  const encoding =
    bytes[0] === 0xff && bytes[1] === 0xfe ? 'utf-16le' : bytes[0] === 0xfe && bytes[1] === 0xff ? 'utf-16be' : 'utf-8'
  return new TextDecoder(encoding).decode(bytes)
}
