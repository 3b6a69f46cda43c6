import { FileError } from '#core/findings/failure'
import type { Stamp } from '#core/stamp'
import { writeItemGlb } from '../exports/write-export'
import type { ItemSource } from '../items/load-item'
import type { SourceFile } from '../reading/source-file'
import { type Corrected, type Correction, correctScene } from './correct-scene'
import { withScene } from './gather-scene'

/** A thing of a scene, and the version that takes its place. */
export interface CorrectionWish extends Omit<Correction, 'glb'> {
  source: ItemSource
}

/**
 * Puts library versions in the places of things of a scene and writes it as binary glTF.
 * @throws FileError where the scene does not read
 */
export const putBack = (files: readonly SourceFile[], wishes: readonly CorrectionWish[], outPath: string): Promise<Corrected> =>
  withScene(files, async scene => {
    const written = new Map<string, Uint8Array>()
    const corrections: Correction[] = []
    const refused: Corrected['refused'] = []
    for (const { source, ...wish } of wishes) {
      const key = keyOf(wish.stamp)
      try {
        const glb = written.get(key) ?? (await writeItemGlb(source, wish.stamp))
        written.set(key, glb)
        corrections.push({ ...wish, glb })
      } catch (error) {
        if (!(error instanceof FileError)) throw error
        refused.push({ kind: wish.kind, index: wish.index, why: error.message })
      }
    }
    const corrected = await correctScene(scene, corrections, outPath)
    return { ...corrected, refused: [...refused, ...corrected.refused] }
  })

const keyOf = ({ code, version }: Stamp): string => `${code} ${version}`
