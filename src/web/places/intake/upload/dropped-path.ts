import type { DroppedFile } from './upload-queue'

type GivenFile = File & { path?: string; relativePath?: string }

/** Folder drops carry their path; single files are their own. */
const pathOf = (file: GivenFile): string =>
  (file.webkitRelativePath || file.relativePath || file.path || file.name).replace(/^(\.?\/)+/, '')

/** Files as they are sent, each under a path of its own: of two by one name, brought from different places, the second is numbered. */
export function toDropped(files: readonly GivenFile[]): DroppedFile[] {
  const taken = new Set<string>()
  return files.map(file => {
    const given = pathOf(file)
    let path = given
    for (let n = 2; taken.has(path); n++) path = given.replace(/(\.[^./]+)?$/, ending => ` (${n})${ending}`)
    taken.add(path)
    return { path, file }
  })
}
