import { type Document, Logger, WebIO } from '@gltf-transform/core'
import { ALL_EXTENSIONS } from '@gltf-transform/extensions'
import { FileError } from '../../findings/failure'
import type { Fix } from '../../fixes/fix'
import { boundsOfMeshes } from '../mesh'
import { modelFromDocument } from '../read-gltf'
import { dropStrays, move, nameParts, reduceToBudget, rescale, turnOutwards, weldAndClean } from './model-fixes'
import { recomputeNormals } from './recompute-normals'

/**
 * A binary glTF with fixes applied in the given order. What a fix does not concern stays.
 * @throws FileError when it does not read; RangeError for a fix of another kind of item
 */
export async function fixGlb(bytes: Uint8Array, fixes: readonly Fix[]): Promise<Uint8Array> {
  const io = new WebIO().registerExtensions(ALL_EXTENSIONS)
  let document: Document
  try {
    document = await io.readBinary(bytes)
  } catch {
    throw new FileError('malformed', 'The glTF structure does not read: its JSON or its buffers are damaged.')
  }
  document.setLogger(new Logger(Logger.Verbosity.SILENT))
  for (const fix of fixes) await applyToDocument(document, fix)
  return io.writeBinary(document)
}

async function applyToDocument(document: Document, { code, subject, parameters }: Fix): Promise<void> {
  switch (code) {
    case 'rescale':
      return rescale(document, Number(parameters.factor))
    case 'recentre':
      return recentre(document)
    case 'dropStrays':
      return dropStrays(document)
    case 'weldAndClean':
      return weldAndClean(document)
    case 'turnOutwards':
      return turnOutwards(document, new Set(subject === undefined ? [] : [subject]))
    case 'recomputeNormals':
      return recomputeNormals(document, new Set(subject === undefined ? [] : [subject]))
    case 'nameParts':
      return nameParts(document)
    case 'reduceToBudget':
      return reduceToBudget(document, Number(parameters.triangles), Number(parameters.budget))
    default:
      throw new RangeError(`${code} is no fix of a model`)
  }
}

/** The middle of the base to the origin. */
function recentre(document: Document): void {
  const { parts } = modelFromDocument(document)
  const { min, max } = boundsOfMeshes(parts.map(p => p.mesh))
  if (Number.isFinite(min[0])) move(document, [-(min[0] + max[0]) / 2, -min[1], -(min[2] + max[2]) / 2])
}
