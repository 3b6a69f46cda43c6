import type { DroppedFile } from './upload-queue'

/** Folder drops carry their path; single files are their own. */
export const toDropped = (file: File & { path?: string; relativePath?: string }): DroppedFile => ({
  path: (file.webkitRelativePath || file.relativePath || file.path || file.name).replace(/^(\.?\/)+/, ''),
  file,
})
