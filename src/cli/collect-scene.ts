import { dirname } from 'node:path'
import { resolveType } from '#core/codecs/sniff'
import { createResolvers, listModelReferences } from '#files/models/model-references'
import { collectPaths, type LocalFile } from '#files/reading/collect-paths'
import { readHead } from '#files/reading/source-file'
import { ImportError } from './client'

/** The scene and what it names of the files beside it; of a folder everything. */
export async function collectScene(path: string): Promise<LocalFile[]> {
  const found = await collectPaths(path).catch(() => {
    throw new ImportError(`${path} is not there, or may not be read.`)
  })
  const [main] = found
  if (found.length !== 1) return found
  const type = resolveType(main.path, await readHead(main.diskPath))
  if (type === 'zip' || type === 'glb' || type === 'usdz') return found
  const beside = await collectPaths(dirname(path)).catch(() => [])
  const own = beside.find(f => f.path.endsWith(`/${main.path}`)) ?? main
  const resolve = createResolvers(beside)(own.path)
  const named = (await listModelReferences({ ...own, type }, resolve)).map(r => resolve(r.address)?.path)
  const libraries = beside.filter(f => type === 'obj' && /\.mtl$/i.test(f.path) && named.includes(f.path))
  return [own, ...new Set([...libraries, ...beside.filter(f => named.includes(f.path))])]
}
