import { readFile, stat } from 'node:fs/promises'
import { WebIO } from '@gltf-transform/core'
import { ALL_EXTENSIONS } from '@gltf-transform/extensions'
import { uninstance } from '@gltf-transform/functions'
import { zipSync } from 'fflate'
import { FileError } from '#core/findings/failure'
import { modelFromDocument } from '#core/geometry/read-gltf'
import { safeName } from '#core/hand-over/delivered-name'
import { METRES_Y_UP } from '#core/targets/space'
import type { SCENE_FILE_FORMS } from '#shared/contracts/audits.contract'
import type { WrittenFile } from '../exports/map-files'
import { writeParts } from '../exports/write-model'
import { spreadBatches } from './spread-batches'

export type SceneFileForm = (typeof SCENE_FILE_FORMS)[number]

/** All of it is in memory while it is written. */
const MOST_BYTES = 1024 ** 3

/**
 * A scene that was written as binary glTF, in the form it came in: glTF with its files or OBJ with its materials as a zip, or an OpenUSD
 * package. OpenUSD holds the parts where they stand, what is repeated once, below their groups, with lights and cameras; OBJ the parts and the
 * names of their groups. What moves stays in the glTF.
 * @throws FileError where it is too large for that
 */
export async function writeSceneForm(glbPath: string, form: SceneFileForm, name: string): Promise<WrittenFile> {
  if ((await stat(glbPath)).size > MOST_BYTES)
    throw new FileError('tooLarge', 'The scene is too large to be written in another form; take it as binary glTF.')
  return writeGlbAs(new Uint8Array(await readFile(glbPath)), form, name)
}

/** The same of one that is in memory. @throws FileError where it has more triangles than those forms can hold, each by itself */
export async function writeGlbAs(glb: Uint8Array, form: SceneFileForm, name: string): Promise<WrittenFile> {
  const files = await writeGlbFiles(glb, form, name)
  return form === 'usdz'
    ? { path: `${name}.usdz`, bytes: files[0].bytes }
    : { path: `${name}.zip`, bytes: zipSync(Object.fromEntries(files.map(f => [f.path, f.bytes])), { level: 0 }) }
}

/** The same as files, the scene itself first. @throws FileError as `writeGlbAs` does */
export async function writeGlbFiles(glb: Uint8Array, form: SceneFileForm, name: string): Promise<WrittenFile[]> {
  const io = new WebIO().registerExtensions(ALL_EXTENSIONS)
  const document = await io.readBinary(glb)
  const stem = safeName(name)
  if (form === 'gltf') {
    const { json, resources } = await io.writeJSON(document, { basename: stem })
    const text = new TextEncoder().encode(JSON.stringify(json))
    return [{ path: `${stem}.gltf`, bytes: text }, ...Object.entries(resources).map(([path, bytes]) => ({ path, bytes }))]
  }
  // Neither form repeats a mesh by a list of places.
  spreadBatches(document)
  await document.transform(uninstance())
  const model = modelFromDocument(document, { sharesShapes: form === 'usdz' })
  return writeParts(model, stem, { ...METRES_Y_UP, form, maxSizePx: null }, null)
}
