import { mkdtemp, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { isModelType, resolveType } from '#core/codecs/sniff'
import { FileError } from '#core/findings/failure'
import { unpackArchive } from '../reading/archive'
import { readHead, type SourceFile } from '../reading/source-file'
import { openScene, type SceneFile } from './scene-file'

/** What is opened first of several: what needs nothing beside it, then what scenes usually come as. */
const PREFERRED = ['glb', 'gltf', 'usdz', 'usdc', 'usda', 'obj', 'fbx', 'dae', 'ply', 'stl']

/**
 * Opens the scene among files that came together, archives among them unpacked for as long as `use` runs.
 * @throws FileError where there is none, or it does not read
 */
export const withScene = <T>(files: readonly SourceFile[], use: (scene: SceneFile) => Promise<T>): Promise<T> =>
  withSceneFiles(files, async (main, parts) => {
    const scene = await openScene(main, parts)
    try {
      return await use(scene)
    } finally {
      await scene.close()
    }
  })

/**
 * Finds the scene among files that came together, and what came along with it; archives are unpacked for as long as `use` runs.
 * @throws FileError where there is none
 */
export async function withSceneFiles<T>(
  files: readonly SourceFile[],
  use: (main: SourceFile, parts: readonly SourceFile[]) => Promise<T>,
): Promise<T> {
  const folder = await mkdtemp(join(tmpdir(), 'muscovite-scene-'))
  try {
    const all: SourceFile[] = []
    for (const [i, file] of files.entries()) {
      if (resolveType(file.path, await readHead(file.diskPath)) !== 'zip') all.push(file)
      else all.push(...(await unpackArchive(file.diskPath, join(folder, String(i)))).files)
    }
    const main = await findMain(all)
    return await use(
      main,
      all.filter(f => f !== main),
    )
  } finally {
    await rm(folder, { recursive: true, force: true })
  }
}

async function findMain(files: readonly SourceFile[]): Promise<SourceFile> {
  const typed = await Promise.all(
    files.map(async file => ({ file, type: resolveType(file.path, await readHead(file.diskPath)) })),
  )
  const scenes = typed.filter(t => isModelType(t.type))
  if (scenes.length === 0)
    throw new FileError(
      'unsupported',
      'There is no scene among these files. Export it as glTF (.glb, or .gltf with its files), USDZ, or OBJ with its materials.',
    )
  const rank = (t: (typeof scenes)[number]) => PREFERRED.indexOf(t.type)
  const [best] = scenes.sort((a, b) => rank(a) - rank(b) || b.file.size - a.file.size)
  return best.file
}
