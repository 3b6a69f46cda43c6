import { parentPort, workerData } from 'node:worker_threads'
import sharp from 'sharp'
import { measureFidelity } from '#core/compare/measure-fidelity'
import { FileError, toFailure } from '#core/findings/failure'
import type { ByteImage, FloatImage } from '#core/image/image'
import { developForDisplay } from '#core/render/film/develop'
import { auditScene, listStamps } from '#files/audits/audit-scene'
import { compareScenes, pictureBeside } from '#files/audits/compare-scenes'
import { printItem } from '#files/audits/print-item'
import { putBack } from '#files/audits/put-back'
import { renderAltered } from '#files/audits/render-altered'
import { takeOut } from '#files/audits/take-out'
import { takeOutModels } from '#files/audits/take-out-models'
import { writeGlbAs, writeSceneForm } from '#files/audits/write-scene-form'
import { applyFixes } from '#files/fixes/apply-fixes'
import { shiftItem } from '#files/fixes/shift-item'
import { takeHouseForm } from '#files/fixes/take-house-form'
import { compareVersions } from '#files/items/compare-versions'
import { inspectItem } from '#files/items/inspect-item'
import { loadItem } from '#files/items/load-item'
import { previewItem } from '#files/items/preview-item'
import { makeScreenCopy } from '#files/items/screen-copy'
import { turnItem } from '#files/items/turn-item'
import { KeptResources } from '#files/mock-ups/kept-resources'
import { measureTakeoff } from '#files/mock-ups/measure-takeoff'
import { renderMockUp } from '#files/mock-ups/render-mock-up'
import { writeMockUp } from '#files/mock-ups/write-mock-up'
import { writePasses } from '#files/mock-ups/write-passes'
import { readLook } from '#files/reading/read-look'
import { recognizeDelivery } from '#files/recognition/recognize-delivery'
import { makeStageModel } from '#files/stage-models/make-stage-model'
import { encodeExr } from '#files/writing/encode-exr'
import { encodePicture } from '#files/writing/encode-picture'
import { reducePicture } from '#files/writing/reduce-picture'
import { savePictures } from '#files/writing/save-pictures'
import { REDUCED_WIDTHS } from '#shared/picture-widths'
import type { ComputeTasks, SpareMessage, TaskMessage, TaskName, ThreadData, ThreadMessage } from './compute-tasks'
import { lowerPriority } from './lower-priority'
import { tracingHelpers } from './tracing-helpers'

// There is a thread like this for each processor: a picture that is worked on by several of them costs half as much again.
sharp.concurrency(1)

type Runner<T extends TaskName> = (
  input: ComputeTasks[T]['input'],
  onProgress: (share: number, error?: number | null, secondsLeft?: number | null) => void,
  onInterim: (bytes: Uint8Array) => void,
) => Promise<ComputeTasks[T]['output']>

const RUNNERS: { [T in TaskName]: Runner<T> } = {
  recognize: ({ files, words }) => recognizeDelivery(files, words),
  inspect: ({ source, category, rules }) => inspectItem(source, category, { withPictures: true, rules }),
  takeHouseForm: ({ source }) => takeHouseForm(source),
  shift: ({ source, shift }) => shiftItem(source, shift),
  fix: ({ source, fixes, materials }) => applyFixes(source, fixes, materials),
  preview: async ({ source, rig, quality, seed }, onProgress) => {
    const helpers = quality === 'final' ? tracingHelpers(() => spare) : undefined
    const result = await previewItem(source, rig, quality, { seed, helpers }, (share, error) => {
      onProgress(share, error)
      return true
    })
    // Never null: nothing above stops the rendering.
    const { picture, linear, stats } = result!
    const reduced = []
    for (const width of REDUCED_WIDTHS)
      if (width < picture.width) reduced.push({ width, bytes: new Uint8Array(await encodePicture(picture, 'webp', { width })) })
    return { bytes: new Uint8Array(await encodePicture(picture, 'webp')), reduced, linear: encodeExr(linear), stats }
  },
  mockUp: async (request, onProgress, sayInterim) => {
    const report = (share: number, error: number | null, secondsLeft: number | null) => {
      onProgress(share, error, secondsLeft)
      return true
    }
    const helpers = tracingHelpers(() => spare)
    /** Encoded beside the tracing, in the order in which they came. */
    let interim = Promise.resolve()
    const onInterim = (picture: ByteImage) => {
      const width = Math.min(picture.width, INTERIM_PX)
      interim = interim
        .then(async () => sayInterim(new Uint8Array(await encodePicture(picture, 'webp', { width }))))
        // The picture itself is made all the same.
        .catch(() => {})
      return interim
    }
    const options = { helpers, kept: keptResources, onInterim }
    const result = await renderMockUp(request, report, options).finally(() => keptResources.letGoLater())
    await interim
    // Never null: nothing above stops the rendering.
    const { picture, linear, stats } = result!
    return { bytes: new Uint8Array(await encodePicture(picture, 'webp')), linear: encodeExr(linear), stats }
  },
  passes: async (request, onProgress) => {
    const bytes = await writePasses(request, share => {
      onProgress(share)
      return true
    })
    return bytes!
  },
  writeMockUp: async ({ scene, sources, maxTexturePx, isLight, form, name, references }) => {
    const { bytes } = await writeMockUp(scene, sources, maxTexturePx, isLight, references)
    if (form === 'references') return { path: `${name}-references.glb`, bytes }
    return form === 'glb' ? { path: `${name}.glb`, bytes } : writeGlbAs(bytes, form, name)
  },
  turntable: async ({ source, rig }, onProgress) =>
    new Uint8Array(
      await turnItem(source, rig, share => {
        onProgress(share)
        return true
      }),
    ),
  look: ({ diskPath }) => readLook(diskPath),
  reduce: ({ diskPath, name }) => reducePicture(diskPath, name),
  screenCopy: ({ file, role, longerPx }) => makeScreenCopy(file, role, longerPx),
  fidelity: async ({ source, rig }, onProgress) => {
    const { loaded } = await loadItem(source, 'preview', FIDELITY_TEXTURE_SIZE)
    if (loaded.kind !== 'material') throw new FileError('unsupported', 'Only a material has a target fidelity.')
    const measured = await measureFidelity(loaded.material, loaded.images, rig, share => {
      onProgress(share)
      return true
    })
    const encode = async (image: FloatImage) => new Uint8Array(await encodePicture(developForDisplay(image), 'webp'))
    // Never null: nothing above stops it.
    const { original, targets } = measured!
    return {
      original: await encode(original),
      targets: await Promise.all(targets.map(async t => ({ ...t, picture: t.picture ? await encode(t.picture) : null }))),
    }
  },
  measureTakeoff: ({ scene, sources }) => measureTakeoff(scene, sources),
  // What writes documents and archives is large, and seldom asked for: it is loaded when it is.
  writeSchedule: async input => (await import('#files/documents/write-schedule')).writeSchedule(input),
  writeAuditReport: async input => (await import('#files/documents/write-audit-report')).writeAuditReport(input),
  writePicturePages: async input => (await import('#files/documents/write-picture-pages')).writePicturePages(input),
  compareVersions: ({ pictures, sources }) => compareVersions(pictures, sources),
  printItem: ({ source }) => printItem(source),
  listStamps: ({ files }) => listStamps(files),
  auditScene: ({ files, versions }, onProgress) => auditScene(files, versions, onProgress),
  takeOut: async ({ files, materials, models }) => [
    ...(materials.length > 0 ? await takeOut(files, materials) : []),
    ...(models.length > 0 ? await takeOutModels(files, models) : []),
  ],
  compareScenes: ({ scenes, pairs }) => compareScenes(scenes, pairs),
  pictureBeside: ({ scenes, pair, source, rig }) => pictureBeside(scenes, pair, source, rig),
  renderAltered: ({ files, altered, rig }, onProgress) => renderAltered(files, altered, rig, onProgress),
  correctScene: ({ files, wishes, outPath }) => putBack(files, wishes, outPath),
  writeSceneForm: ({ glbPath, form, name }) => writeSceneForm(glbPath, form, name),
  makeStageModel: ({ files, unit, up }) => makeStageModel(files, unit, up),
  savePictures: ({ diskPaths, format, captions }) => savePictures(diskPaths, format, captions),
  exportMap: async ({ item, profile, map }) => (await import('#files/exports/write-export')).writeItemMap(item, profile, map),
  export: async ({ items, profile, about, zipPath }, onProgress) =>
    (await import('#files/exports/write-export')).writeExport(items, profile, about, zipPath, onProgress),
}

/** What it is to be ready for: the next shot, or the same one after an edit. */
const KEEP_RESOURCES_MS = 90_000
const keptResources = new KeptResources(KEEP_RESOURCES_MS)

/** Across a picture that is shown while it is made. */
const INTERIM_PX = 960

/** The pictures are small. */
const FIDELITY_TEXTURE_SIZE = 1024

const { niceness } = workerData as ThreadData
if (niceness !== null) lowerPriority(niceness)

const port = parentPort!
const say = (message: ThreadMessage) => port.postMessage(message)
/** How many threads more it may use for its task. */
let spare = 0

port.on('message', async (message: TaskMessage | SpareMessage) => {
  if ('spare' in message) {
    spare = message.spare
    return
  }
  const { id, task, input } = message
  // Other work needs the room.
  if (task !== 'mockUp') keptResources.letGo()
  let said = 0
  const onProgress = (share: number, error: number | null = null, secondsLeft: number | null = null) => {
    // Ten times a second is as often as anybody looks.
    if (share < 1 && performance.now() - said < 100) return
    said = performance.now()
    say({ id, kind: 'progress', share, error, secondsLeft })
  }
  const onInterim = (bytes: Uint8Array) => say({ id, kind: 'interim', bytes })
  try {
    say({ id, kind: 'done', output: await (RUNNERS[task] as Runner<TaskName>)(input as never, onProgress, onInterim) })
  } catch (error) {
    if (error instanceof FileError) say({ id, kind: 'failed', failure: toFailure(error) })
    else say({ id, kind: 'broken', text: error instanceof Error ? (error.stack ?? error.message) : String(error) })
  }
})
