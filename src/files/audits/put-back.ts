import { FileError } from '#core/findings/failure'
import type { Stamp } from '#core/stamp'
import { writeItemGlb } from '../exports/write-export'
import type { ItemSource } from '../items/item-source'
import type { SourceFile } from '../reading/source-file'
import { type Corrected, type Correction, correctScene } from './correct-scene'
import { withScene } from './gather-scene'
import { printCurve } from './print-item'

/** A thing of a scene, and the version that takes its place. */
export type CorrectionWish = { index: number; stamp: Stamp; source: ItemSource } & (
  | { kind: 'material'; materialName: string | null }
  | { kind: 'model'; standsInFrame: boolean }
  | { kind: 'light'; share: number }
)

/**
 * Puts library versions in the places of things of a scene and writes it as binary glTF.
 * @throws FileError where the scene does not read
 */
export const putBack = (files: readonly SourceFile[], wishes: readonly CorrectionWish[], outPath: string): Promise<Corrected> =>
  withScene(files, async scene => {
    const open = createCorrectionOpener()
    const corrections: Correction[] = []
    const refused: Corrected['refused'] = []
    for (const wish of wishes) {
      try {
        corrections.push(await open(wish))
      } catch (error) {
        if (!(error instanceof FileError)) throw error
        refused.push({ kind: wish.kind, index: wish.index, why: error.message })
      }
    }
    const corrected = await correctScene(scene, corrections, outPath)
    return { ...corrected, refused: [...refused, ...corrected.refused] }
  })

/** Reads what takes a thing's place, each version once. @throws FileError where that does not read */
export function createCorrectionOpener(): (wish: CorrectionWish) => Promise<Correction> {
  const written = new Map<string, Uint8Array>()
  const glbOf = async ({ stamp, source }: CorrectionWish): Promise<Uint8Array> => {
    const key = `${stamp.code} ${stamp.version}`
    const glb = written.get(key) ?? (await writeItemGlb(source, stamp))
    written.set(key, glb)
    return glb
  }
  return async wish => {
    const { source, ...about } = wish
    if (about.kind !== 'light') return { ...about, glb: await glbOf(wish) }
    const print = await printCurve(source)
    if (!print) throw new FileError('notFound', 'The library has no curve of its light.')
    return { ...about, print }
  }
}
