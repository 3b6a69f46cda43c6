import { MISSING_FILES } from '#core/geometry/read-gltf'
import { readStamp, type Stamp } from '#core/stamp'
import type { SourceFile } from '../reading/source-file'
import { withScene } from './gather-scene'
import { wornStampsOf } from './read-scene'

export interface StampedScene {
  /** What it says that it is made of, each version once, by code. */
  stamps: Stamp[]
  /** Files that it names and that are not there. */
  missing: string[]
}

/** What a scene says of itself, and whether its files are there; only its structure is read. @throws FileError */
export const listStamped = (files: readonly SourceFile[]): Promise<StampedScene> =>
  withScene(files, async scene => {
    const { json } = scene
    const stamps = new Map<string, Stamp>()
    for (const thing of [...(json.nodes ?? []), ...(json.materials ?? [])]) {
      const stamp = readStamp(thing.extras)
      for (const one of [...(stamp ? [stamp] : []), ...wornStampsOf(thing.extras)]) stamps.set(`${one.code} ${one.version}`, one)
    }
    const missing = new Set((json.extras?.[MISSING_FILES] as string[] | undefined) ?? [])
    for (const [i, { uri }] of (json.images ?? []).entries())
      if (uri !== undefined && !uri.startsWith('data:') && (await scene.readImage(i)) === null) missing.add(uri)
    const sorted = [...stamps.values()].sort((a, b) => a.code.localeCompare(b.code) || a.version - b.version)
    return { stamps: sorted, missing: [...missing].sort() }
  })
