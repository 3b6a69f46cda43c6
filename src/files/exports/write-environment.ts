import { writeHdr } from '#core/codecs/hdr'
import { extensionOf } from '#core/codecs/sniff'
import { analyseEnvironment } from '#core/environment/analyse-environment'
import { applyGain, rollToHeading } from '#core/environment/fixes/environment-fixes'
import type { Profile } from '#core/hand-over/profile'
import type { FloatImage } from '#core/image/image'
import { collectRows } from '#core/image/picture-rows'
import { reduceRows } from '#core/image/row-reducer'
import { type ItemSource, mainFile } from '../items/item-source'
import { readEnvironmentRows } from '../reading/decode-environment'
import { readBytes } from '../reading/source-file'
import { encodeExr } from '../writing/encode-exr'
import type { WrittenFile } from './map-files'

type SkyRules = Pick<Profile, 'environments' | 'skyExposure' | 'skyHeading' | 'maxSizePx'>

/** A panorama in the form asked for; as it is stored, byte by byte, where nothing of it is to change. */
export async function writeEnvironment(
  source: ItemSource,
  name: string,
  { environments, skyExposure, skyHeading, maxSizePx }: SkyRules,
): Promise<{ target: string; files: WrittenFile[]; notes: string[] }> {
  const file = mainFile(source)
  const stored = extensionOf(file.path) === 'hdr' ? 'hdr' : 'exr'
  const form = environments === 'asStored' ? stored : environments
  const isLit = skyExposure !== 'asStored' || skyHeading !== 'asStored'
  const map = readEnvironmentRows(file.diskPath, stored, rows => {
    if (maxSizePx !== null && rows.width > maxSizePx) return reduceRows(rows, maxSizePx)
    return form === stored && !isLit ? null : collectRows(rows)
  })
  const notes: string[] = []
  const lit = map && isLit ? relight(map, { skyExposure, skyHeading }, notes) : map
  const bytes = lit === null ? await readBytes(file) : form === 'exr' ? encodeExr(lit) : writeHdr(lit)
  const target = form === 'exr' ? 'OpenEXR, linear Rec.709' : 'Radiance HDR, linear Rec.709'
  return { target, files: [{ path: `${name}.${form}`, bytes }], notes }
}

/** Scales and turns a panorama as a profile wants it, and says by how much. */
function relight(map: FloatImage, { skyExposure, skyHeading }: Omit<SkyRules, 'environments' | 'maxSizePx'>, notes: string[]) {
  const { facts } = analyseEnvironment(map)
  let out = map
  if (skyHeading === 'ahead') {
    const key = facts.sunAzimuthDeg ?? facts.keyAzimuthDeg
    if (key === undefined) notes.push('It has no light that stands out; it was not turned.')
    else {
      out = rollToHeading(out, key, 0)
      notes.push(`Turned by ${(-key).toFixed(1)}°, its strongest light in the middle.`)
    }
  }
  if (skyExposure === 'whiteCard' && facts.whiteCardGain > 0 && Number.isFinite(facts.whiteCardGain)) {
    out = applyGain(out, facts.whiteCardGain)
    notes.push(`Scaled by ${facts.exposureEv.toFixed(2)} EV: a white horizontal card reads 1.`)
  }
  return out
}
