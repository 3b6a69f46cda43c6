import { createHash } from 'node:crypto'
import sharp from 'sharp'
import { AUDITED_SLOTS, type AuditedSlot } from '#core/audit/map-print'
import { linearToSrgbByte, SRGB_TO_LINEAR } from '#core/color/srgb'
import type { ByteImage } from '#core/image/image'
import type { OpenPbrMaterial, TextureSlot } from '#core/material/open-pbr'
import type { Vec3 } from '#core/math/vec3'
import { writeMaterialX } from '#core/targets/materialx/write-materialx'
import type { WrittenFile } from '../exports/map-files'
import type { SourceFile } from '../reading/source-file'
import { freeName } from './free-name'
import { withScene } from './gather-scene'
import { createImageHolder } from './read-scene'
import { readSceneMaterials } from './read-scene-parts'

/** What maps of a delivery are called. */
const MAP_WORDS: Record<AuditedSlot, string> = {
  baseColor: 'basecolor',
  specularRoughness: 'roughness',
  baseMetalness: 'metalness',
  geometryNormal: 'normal',
  geometryOpacity: 'opacity',
  emissionColor: 'emission',
}

/**
 * Takes materials out of a scene as a delivery would bring them: each in a folder of its own, its maps one by one with the factors that
 * the scene multiplies them by worked in; one without maps as a MaterialX definition. Those that look the same come once.
 * @param indices numbers of materials in the scene
 */
export const takeOut = (files: readonly SourceFile[], indices: readonly number[]): Promise<WrittenFile[]> =>
  withScene(files, async scene => {
    const all = await readSceneMaterials(scene)
    const chosen = indices.flatMap(i => (all[i] ? [all[i]] : []))
    const held = createImageHolder(scene, chosen)
    const written: WrittenFile[] = []
    const [taken, looks] = [new Set<string>(), new Set<string>()]
    for (const material of chosen) {
      const folder = freeName(toFolder(material.name), taken)
      const maps: WrittenFile[] = []
      for (const slot of AUDITED_SLOTS) {
        const bytes = await takeMap(slot, material, held.get)
        if (bytes) maps.push({ path: `${folder}/${folder}_${MAP_WORDS[slot]}.png`, bytes })
      }
      held.release(material)
      if (maps.length === 0) {
        const text = writeMaterialX({ ...material, name: folder, textures: {} }, new Map())
        maps.push({ path: `${folder}/${folder}.mtlx`, bytes: new TextEncoder().encode(text) })
      }
      // What a scene has several times under other names comes once.
      const look = hashLook(material, maps)
      if (looks.has(look)) {
        taken.delete(folder)
        continue
      }
      looks.add(look)
      written.push(...maps)
    }
    return written
  })

/** By all that is taken out of it but its name. */
function hashLook({ parameters, textures }: OpenPbrMaterial, maps: readonly WrittenFile[]): string {
  const hash = createHash('sha256')
  const isDefinition = Object.keys(textures).length === 0 || maps.some(m => m.path.endsWith('.mtlx'))
  if (isDefinition) hash.update(JSON.stringify(parameters))
  else for (const { path, bytes } of maps) hash.update(path.slice(path.lastIndexOf('_'))).update(bytes)
  return hash.digest('hex')
}

const toFolder = (name: string): string => name.replace(/[^\p{L}\p{N}]+/gu, '_').replace(/^_+|_+$/g, '') || 'material'

async function takeMap(
  slot: AuditedSlot,
  { textures, parameters }: OpenPbrMaterial,
  get: (image: number) => Promise<ByteImage | null>,
): Promise<Uint8Array | null> {
  const binding = textures[slot as TextureSlot]
  const image = binding ? await get(binding.image) : null
  if (!binding || !image) return null
  const { width, height, channels, data } = image
  const at = (c: number) => (channels < 3 ? 0 : Math.min(c, channels - 1))
  const isColor = slot === 'baseColor' || slot === 'emissionColor'
  const planes =
    isColor || slot === 'geometryNormal'
      ? [at(0), at(1), at(2)]
      : [channels === 2 && binding.channel === 3 ? 1 : at(binding.channel)]
  const factor = slot === 'geometryNormal' || slot === 'emissionColor' ? 1 : parameters[slot]
  const tables = planes.map((_, c) => tableOf(isColor, typeof factor === 'number' ? factor : (factor as Vec3)[c]))
  const out = new Uint8Array(width * height * planes.length)
  for (let c = 0; c < planes.length; c++)
    for (let from = planes[c], to = c; to < out.length; from += channels, to += planes.length) out[to] = tables[c][data[from]]
  const raw = { width, height, channels: planes.length as 1 | 3 }
  return new Uint8Array(
    await sharp(out, { raw })
      .toColourspace(planes.length === 1 ? 'b-w' : 'srgb')
      .png()
      .toBuffer(),
  )
}

const tableOf = (isColor: boolean, factor: number): Uint8Array =>
  Uint8Array.from({ length: 256 }, (_, v) =>
    isColor ? linearToSrgbByte(SRGB_TO_LINEAR[v] * factor) : Math.min(255, Math.round(v * factor)),
  )
