import type { TargetFidelity } from '#core/compare/measure-fidelity'
import type { Failure } from '#core/findings/failure'
import type { Fix } from '#core/fixes/fix'
import type { DeliveredMap } from '#core/hand-over/delivered-maps'
import type { Profile } from '#core/hand-over/profile'
import type { MaterialShift } from '#core/material/shift'
import type { RoleWords } from '#core/material/texture-set'
import type { Scene } from '#core/mock-up/scene/scene'
import type { ModelUnit, UpAxis } from '#core/mock-up/stage-model/model-space'
import type { QualityName, Rig } from '#core/render/rigs/rig'
import type { CategoryRules } from '#core/standard/category-rules'
import type { Takeoff } from '#core/takeoff/measure-scene'
import type { SceneAudit } from '#files/audits/audit-scene'
import type { ComparedScenes, PicturesBeside, ScenePair, ScenePairs } from '#files/audits/compare-scenes'
import type { Corrected } from '#files/audits/correct-scene'
import type { ItemPrint, PrintedVersion } from '#files/audits/print-item'
import type { CorrectionWish } from '#files/audits/put-back'
import type { SceneLook } from '#files/audits/read-looks'
import type { AlteredMaterial, AlteredPictures } from '#files/audits/render-altered'
import type { SceneFileForm } from '#files/audits/write-scene-form'
import type { AuditReportRequest } from '#files/documents/write-audit-report'
import type { PicturePagesRequest } from '#files/documents/write-picture-pages'
import type { ScheduleRequest } from '#files/documents/write-schedule'
import type { WrittenFile } from '#files/exports/map-files'
import type { ExportItem, HandedOver, WrittenExport } from '#files/exports/write-export'
import type { DerivedFile } from '#files/fixes/apply-fixes'
import type { shiftItem } from '#files/fixes/shift-item'
import type { ComparedVersions } from '#files/items/compare-versions'
import type { Inspection } from '#files/items/inspect-item'
import type { ItemSource } from '#files/items/item-source'
import type { PreviewStats } from '#files/items/preview-item'
import type { ScreenCopy } from '#files/items/screen-copy'
import type { MockUpPictureRequest, MockUpPictureStats } from '#files/mock-ups/render-mock-up'
import type { Reference } from '#files/mock-ups/write-mock-up'
import type { PassesRequest } from '#files/mock-ups/write-passes'
import type { SourceFile } from '#files/reading/source-file'
import type { Recognition } from '#files/recognition/recognize-delivery'
import type { StageModel } from '#files/stage-models/make-stage-model'
import type { ReducedPicture } from '#files/writing/reduce-picture'
import type { PictureFormat } from '#shared/contracts/compare.contract'
import type { SaveMockUp } from '#shared/contracts/mock-ups.contract'

/** What compute threads do: task name to what goes in and what comes out. All of it survives structured cloning. */
export interface ComputeTasks {
  recognize: { input: { files: SourceFile[]; words?: RoleWords }; output: Recognition }
  inspect: { input: { source: ItemSource; category: string; rules?: CategoryRules }; output: Inspection }
  /** Models as plain binary glTF, pictures as PNG. */
  takeHouseForm: { input: { source: ItemSource }; output: { files: DerivedFile[]; missing: string[] } }
  fix: {
    /** With the house materials that fixes name, by their versions. */
    input: { source: ItemSource; fixes: Fix[]; materials: Record<number, ItemSource> }
    output: DerivedFile[]
  }
  /** A material with its maps worked out anew. */
  shift: { input: { source: ItemSource; shift: MaterialShift }; output: Awaited<ReturnType<typeof shiftItem>> }
  preview: {
    input: { source: ItemSource; rig: Rig; quality: QualityName; seed: number }
    /** The picture display-encoded as WebP, at smaller widths too, and linear as OpenEXR. */
    output: {
      bytes: Uint8Array
      reduced: { width: number; bytes: Uint8Array }[]
      linear: Uint8Array
      stats: PreviewStats
    }
  }
  /** A shot of a mock-up: display-encoded as WebP, and linear as OpenEXR. */
  mockUp: {
    input: MockUpPictureRequest
    output: { bytes: Uint8Array; linear: Uint8Array; stats: MockUpPictureStats }
  }
  /** A picture of a mock-up with what is where in it, as OpenEXR of several parts. */
  passes: { input: PassesRequest; output: Uint8Array }
  /** A mock-up as a file: binary glTF, or another form by way of it. */
  writeMockUp: {
    input: {
      scene: Scene
      sources: Record<string, ItemSource>
      maxTexturePx: number
      isLight: boolean
      form: SaveMockUp['form']
      name: string
      /** Of the form that refers to the library. */
      references: Reference[] | null
    }
    output: WrittenFile
  }
  /** An animated WebP. */
  turntable: { input: { source: ItemSource; rig: Rig }; output: Uint8Array }
  /** What a picture looks like, as a text to search by. */
  look: { input: { diskPath: string }; output: string }
  reduce: { input: { diskPath: string; name: string }; output: ReducedPicture }
  /** Null where the file itself serves. */
  screenCopy: { input: { file: SourceFile; role: string; longerPx: number }; output: ScreenCopy | null }
  fidelity: {
    input: { source: ItemSource; rig: Rig }
    /** Pictures as WebP; the first is the original's. */
    output: {
      original: Uint8Array
      targets: (Omit<TargetFidelity, 'picture'> & { picture: Uint8Array | null })[]
    }
  }
  /** Linear pictures as one file. */
  measureTakeoff: { input: { scene: Scene; sources: Record<string, ItemSource> }; output: Takeoff }
  writeSchedule: { input: ScheduleRequest; output: Uint8Array }
  writeAuditReport: { input: AuditReportRequest; output: Uint8Array }
  writePicturePages: { input: PicturePagesRequest; output: Uint8Array }
  compareVersions: { input: { pictures: [string, string]; sources: [ItemSource, ItemSource] | null }; output: ComparedVersions }
  /** What a version is known again by in a scene. */
  printItem: { input: { source: ItemSource }; output: ItemPrint }
  /** Codes of the items that a scene is stamped with. */
  listStamps: { input: { files: SourceFile[] }; output: string[] }
  auditScene: {
    input: { files: SourceFile[]; versions: PrintedVersion[] }
    output: { audit: SceneAudit; looks: Record<number, SceneLook> }
  }
  /** Materials and models of a scene as a delivery would bring them. */
  takeOut: { input: { files: SourceFile[]; materials: number[]; models: number[] }; output: WrittenFile[] }
  /** What is different about items between two scenes; and one of them rendered as each has it. */
  compareScenes: { input: { scenes: [SourceFile[], SourceFile[]]; pairs: ScenePairs }; output: ComparedScenes }
  pictureBeside: {
    input: { scenes: [SourceFile[], SourceFile[]]; pair: ScenePair; source: ItemSource; rig: Rig }
    output: PicturesBeside
  }
  renderAltered: { input: { files: SourceFile[]; altered: AlteredMaterial[]; rig: Rig }; output: AlteredPictures[] }
  correctScene: { input: { files: SourceFile[]; wishes: CorrectionWish[]; outPath: string }; output: Corrected }
  /** A corrected scene in another form: one file, or a zip of several. */
  writeSceneForm: { input: { glbPath: string; form: SceneFileForm; name: string }; output: WrittenFile }
  /** A model of one's own, as the stage of a mock-up. */
  makeStageModel: { input: { files: SourceFile[]; unit: ModelUnit; up: UpAxis }; output: StageModel }
  savePictures: { input: { diskPaths: string[]; format: PictureFormat; captions: string[] }; output: Uint8Array }
  /** One map of a material by itself. */
  exportMap: { input: { item: ExportItem; profile: Profile; map: DeliveredMap }; output: WrittenFile }
  export: {
    input: { items: ExportItem[]; profile: Profile; about: HandedOver; zipPath: string }
    output: WrittenExport
  }
}
export type TaskName = keyof ComputeTasks

export interface TaskMessage<T extends TaskName = TaskName> {
  id: number
  task: T
  input: ComputeTasks[T]['input']
}

/** What a thread is started with. */
export interface ThreadData {
  /** As a process's; null to stay as the process is. */
  niceness: number | null
}

/** Said to a thread that can use them: how many threads more it may have at the moment. */
export interface SpareMessage {
  spare: number
}

export type ThreadMessage =
  | { id: number; kind: 'progress'; share: number; error: number | null; secondsLeft: number | null }
  /** A picture as far as it has come, encoded. */
  | { id: number; kind: 'interim'; bytes: Uint8Array }
  | { id: number; kind: 'done'; output: unknown }
  /** An expected failure of the input. */
  | { id: number; kind: 'failed'; failure: Failure }
  /** A bug; the text is for the log only. */
  | { id: number; kind: 'broken'; text: string }
